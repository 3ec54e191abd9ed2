package server

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"io/fs"
	"math/big"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
)

// Certificate is what the server shows of itself over TLS: a file that is given, or one
// of its own, which it makes the first time and renews when asked to.
type Certificate struct {
	dir   string // of its own; empty for one that is given
	names []string

	mu   sync.RWMutex
	pair tls.Certificate
}

// CertificateInfo is the certificate as people compare it.
type CertificateInfo struct {
	Own         bool      `json:"own" doc:"the server made it; nobody else vouches for it"`
	Fingerprint string    `json:"fingerprint" doc:"SHA-256, as browsers show it"`
	Names       []string  `json:"names" doc:"names and addresses that it is for"`
	From        time.Time `json:"from"`
	Until       time.Time `json:"until"`
}

// Files of the server's own certificate, in its data folder, and how long one holds.
const (
	ownCertificate = "tls.pem"
	ownKey         = "tls.key"
	certificateFor = 825 * 24 * time.Hour // the longest that browsers take
)

// GivenCertificate reads the files of a certificate and its key.
func GivenCertificate(cert, key string) (*Certificate, error) {
	pair, err := tls.LoadX509KeyPair(cert, key)
	if err != nil {
		return nil, say.Errorf("the certificate cannot be used: %w", err)
	}
	return &Certificate{pair: pair}, nil
}

// OwnCertificate reads the server's own certificate of a data folder, and makes it where
// there is none, it has ended, or its key is gone. names are those under which the server
// is asked, beside the machine's own addresses.
func OwnCertificate(dir string, names []string, now time.Time) (*Certificate, error) {
	c := &Certificate{dir: dir, names: names}
	pair, err := tls.LoadX509KeyPair(filepath.Join(dir, ownCertificate), filepath.Join(dir, ownKey))
	switch {
	case err == nil && now.Before(pair.Leaf.NotAfter):
		c.pair = pair
		return c, nil
	case err != nil && !errors.Is(err, fs.ErrNotExist):
		return nil, say.Errorf("the server's own certificate cannot be used, take %s and %s away for a new one: %w", ownCertificate, ownKey, err)
	}
	return c, c.Renew(now)
}

// Renew makes the server's own certificate anew; connections that are made from now on
// are shown it.
func (c *Certificate) Renew(now time.Time) error {
	if c.dir == "" {
		return say.New("this certificate was given to the server: who runs it renews its file")
	}
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return err
	}
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 127))
	if err != nil {
		return err
	}
	of := x509.Certificate{SerialNumber: serial, Subject: pkix.Name{Organization: []string{"Ready Rail"}, CommonName: "Ready Rail server"},
		NotBefore: now.Add(-time.Hour), NotAfter: now.Add(certificateFor), KeyUsage: x509.KeyUsageDigitalSignature,
		ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}, BasicConstraintsValid: true}
	of.DNSNames, of.IPAddresses = machineNames(c.names)
	der, err := x509.CreateCertificate(rand.Reader, &of, &of, &key.PublicKey, key)
	if err != nil {
		return err
	}
	secret, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return err
	}
	public := pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der})
	private := pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: secret})
	pair, err := tls.X509KeyPair(public, private)
	if err != nil {
		return err
	}
	if err := keepPair(c.dir, public, private); err != nil {
		return say.Errorf("the server's own certificate cannot be stored: %w", err)
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	c.pair = pair
	return nil
}

// keepPair stores a certificate with its key. The old one goes first: what is left half
// done is made anew at the next start.
func keepPair(dir string, public, private []byte) error {
	if err := os.Remove(filepath.Join(dir, ownCertificate)); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, ownKey), private, 0o600); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(dir, ownCertificate), public, 0o644)
}

// machineNames are the names and addresses that a certificate of this machine is for.
func machineNames(given []string) (names []string, addresses []net.IP) {
	names = []string{"localhost"}
	if own, err := os.Hostname(); err == nil {
		given = append(slices.Clone(given), own)
	}
	for _, n := range given {
		if ip := net.ParseIP(n); ip != nil {
			addresses = append(addresses, ip)
		} else if !slices.Contains(names, n) {
			names = append(names, n)
		}
	}
	all, err := net.InterfaceAddrs()
	if err != nil {
		return names, addresses
	}
	for _, a := range all {
		if n, ok := a.(*net.IPNet); ok && !n.IP.IsLinkLocalUnicast() {
			addresses = append(addresses, n.IP)
		}
	}
	return names, addresses
}

// Config is how the server speaks TLS with it.
func (c *Certificate) Config() *tls.Config {
	return &tls.Config{MinVersion: tls.VersionTLS12, GetCertificate: func(*tls.ClientHelloInfo) (*tls.Certificate, error) {
		c.mu.RLock()
		defer c.mu.RUnlock()
		return &c.pair, nil
	}}
}

// Info tells what people compare.
func (c *Certificate) Info() CertificateInfo {
	c.mu.RLock()
	leaf := c.pair.Leaf
	c.mu.RUnlock()
	out := CertificateInfo{Own: c.dir != "", Names: slices.Clone(leaf.DNSNames), From: leaf.NotBefore, Until: leaf.NotAfter}
	for _, ip := range leaf.IPAddresses {
		out.Names = append(out.Names, ip.String())
	}
	sum := sha256.Sum256(leaf.Raw)
	parts := make([]string, len(sum))
	for i, b := range sum {
		parts[i] = fmt.Sprintf("%02X", b)
	}
	out.Fingerprint = strings.Join(parts, ":")
	return out
}

func (s *Server) certificateRoutes() {
	get(s, "/api/certificate", "The server's certificate", func(ctx context.Context, in *PanelInput) (*body[*CertificateInfo], error) {
		if _, err := s.manages(ctx, in.Panel); err != nil {
			return nil, err
		}
		if s.options.Certificate == nil {
			return nil, because(http.StatusNotFound, errNoCertificate)
		}
		info := s.options.Certificate.Info()
		return &body[*CertificateInfo]{&info}, nil
	})
	send(s, http.MethodPost, "/api/certificate", "Make the server's own certificate anew",
		func(ctx context.Context, in *PanelInput) (*body[*CertificateInfo], error) {
			who, err := s.manages(ctx, in.Panel)
			if err != nil {
				return nil, err
			}
			if s.options.Certificate == nil {
				return nil, because(http.StatusNotFound, errNoCertificate)
			}
			if err := s.options.Certificate.Renew(time.Now()); err != nil {
				return nil, because(http.StatusUnprocessableEntity, err)
			}
			info := s.options.Certificate.Info()
			for _, p := range s.host.Projects() {
				p.Note(ctx, who, audit.Vault, "the server's certificate renewed: "+info.Fingerprint)
			}
			return &body[*CertificateInfo]{&info}, nil
		})
}

var errNoCertificate = say.New("this server speaks no TLS, and has no certificate")
