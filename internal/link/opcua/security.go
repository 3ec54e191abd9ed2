package opcua

import (
	"context"
	"crypto/rand"
	"crypto/rsa"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/gob"
	"encoding/hex"
	"encoding/pem"
	"fmt"
	"math/big"
	"net/url"
	"strings"
	"time"

	"github.com/gopcua/opcua"
	"github.com/gopcua/opcua/ua"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/link"
)

// applicationURI is the name by which servers know this client; its
// certificate carries it (IEC 62541-6, 6.2.2).
const applicationURI = "urn:ready-rail:client"

// ApplicationSecret is the name under which the server's own certificate as an
// OPC UA client is asked of the environment. No vault entry can have it.
const ApplicationSecret = "\x00application"

// Secrets names what a device's driver asks for beside the device's credential.
func Secrets(d device.Device) []string {
	if d.SecurityMode() == "none" {
		return nil
	}
	return []string{ApplicationSecret}
}

// Certificate is a server certificate for an engineer to judge.
type Certificate struct {
	Fingerprint string    `json:"fingerprint" doc:"SHA-256, in hex"`
	Subject     string    `json:"subject"`
	Issuer      string    `json:"issuer"`
	From        time.Time `json:"from"`
	Until       time.Time `json:"until"`
}

// Untrusted is the refusal of a server whose certificate nobody trusted yet, or
// which now shows another.
type Untrusted struct {
	Certificate Certificate
	Before      string // fingerprint that was trusted
}

func (u *Untrusted) Error() string {
	if u.Before != "" {
		return fmt.Sprintf("the server shows another certificate than the one that was trusted (%s…): look at it and trust it anew if it is right", short(u.Certificate.Fingerprint))
	}
	return fmt.Sprintf("nobody has trusted the server's certificate yet (%s…): look at it and trust it", short(u.Certificate.Fingerprint))
}

func short(s string) string { return s[:min(len(s), 12)] }

// Endpoint is a way into a server that it offers.
type Endpoint struct {
	URL         string       `json:"url"`
	Security    string       `json:"security" doc:"policy"`
	Mode        string       `json:"mode" doc:"none, sign or encrypt" enum:"none,sign,encrypt"`
	SignIn      []string     `json:"signIn" enum:"anonymous,user,certificate" doc:"anonymous, user or certificate"`
	Certificate *Certificate `json:"certificate,omitempty"`
}

func judge(der []byte) Certificate {
	sum := sha256.Sum256(der)
	c := Certificate{Fingerprint: hex.EncodeToString(sum[:])}
	if x, err := x509.ParseCertificate(der); err == nil {
		c.Subject, c.Issuer, c.From, c.Until = x.Subject.String(), x.Issuer.String(), x.NotBefore, x.NotAfter
	}
	return c
}

// Carried keeps the certificate with the refusal where that goes through other
// hands.
func (u *Untrusted) Carried() {}

func init() { gob.Register(&Untrusted{}) }

// Endpoints asks a server for the ways into it (discovery, IEC 62541-4, 5.4.4).
// The driver need not be connected.
func Endpoints(ctx context.Context, drv link.Driver) ([]Endpoint, error) {
	list := []Endpoint{}
	return list, link.Ask(ctx, drv, endpoints, nil, &list)
}

func (d *Driver) endpoints(ctx context.Context) ([]Endpoint, error) {
	if err := d.env.Check(d.dev); err != nil {
		return nil, err
	}
	list, err := discover(ctx, d.dev)
	if err != nil {
		return nil, err
	}
	out := []Endpoint{}
	for _, e := range list {
		if !strings.HasPrefix(e.EndpointURL, "opc.tcp://") {
			continue
		}
		item := Endpoint{URL: e.EndpointURL, Security: policyName(e.SecurityPolicyURI), Mode: modeName(e.SecurityMode), SignIn: []string{}}
		for _, t := range e.UserIdentityTokens {
			switch t.TokenType {
			case ua.UserTokenTypeAnonymous:
				item.SignIn = append(item.SignIn, "anonymous")
			case ua.UserTokenTypeUserName:
				item.SignIn = append(item.SignIn, "user")
			case ua.UserTokenTypeCertificate:
				item.SignIn = append(item.SignIn, "certificate")
			}
		}
		if len(e.ServerCertificate) > 0 {
			c := judge(e.ServerCertificate)
			item.Certificate = &c
		}
		out = append(out, item)
	}
	return out, nil
}

func discover(ctx context.Context, dev device.Device) ([]*ua.EndpointDescription, error) {
	ctx, cancel := context.WithTimeout(ctx, timeoutOf(dev))
	defer cancel()
	return opcua.GetEndpoints(ctx, dev.Address(), opcua.DialTimeout(timeoutOf(dev)), opcua.RequestTimeout(timeoutOf(dev)),
		opcua.AutoReconnect(false))
}

func policyName(uri string) string {
	return uri[strings.LastIndexByte(uri, '#')+1:]
}

func modeName(m ua.MessageSecurityMode) string {
	return map[ua.MessageSecurityMode]string{ua.MessageSecurityModeNone: "none", ua.MessageSecurityModeSign: "sign",
		ua.MessageSecurityModeSignAndEncrypt: "encrypt"}[m]
}

// security chooses the endpoint that the device's settings ask for and makes
// the options of the connection.
func (d *Driver) security(ctx context.Context) ([]opcua.Option, error) {
	secret, err := d.env.Open(d.dev)
	if err != nil {
		return nil, err
	}
	list, err := discover(ctx, d.dev)
	if err != nil {
		return nil, err
	}
	var chosen *ua.EndpointDescription
	for _, e := range list {
		if policyName(e.SecurityPolicyURI) == d.dev.Policy() && modeName(e.SecurityMode) == d.dev.SecurityMode() {
			chosen = e
		}
	}
	if chosen == nil {
		return nil, say.Errorf("the server offers no endpoint with policy %s and mode %s: ask for its endpoints and choose one", d.dev.Policy(),
			d.dev.SecurityMode())
	}
	secure := d.dev.SecurityMode() != "none"
	if secure {
		if c := judge(chosen.ServerCertificate); c.Fingerprint != d.dev.Trusted {
			return nil, &Untrusted{c, d.dev.Trusted}
		}
	}
	how := ua.UserTokenTypeAnonymous
	var options []opcua.Option
	switch {
	case len(secret.Certificate) > 0:
		how = ua.UserTokenTypeCertificate
		pair, key, err := keyPair(secret)
		if err != nil {
			return nil, err
		}
		options = append(options, opcua.AuthCertificate(pair), opcua.AuthPrivateKey(key))
	case secret.User != "":
		how = ua.UserTokenTypeUserName
		options = append(options, opcua.AuthUsername(secret.User, secret.Password))
	default:
		options = append(options, opcua.AuthAnonymous())
	}
	if secret.Password != "" && !secure && !passwordIsSealed(chosen) {
		return nil, say.New("the password would go over the network in the clear: choose an endpoint with encryption")
	}
	if secure {
		own, err := d.env.Secret(ApplicationSecret, d.dev.Host)
		if err != nil {
			return nil, err
		}
		pair, key, err := keyPair(own)
		if err != nil {
			return nil, err
		}
		options = append(options, opcua.Certificate(pair), opcua.PrivateKey(key))
	}
	return append(options, opcua.SecurityFromEndpoint(chosen, how)), nil
}

// passwordIsSealed tells whether the server takes passwords encrypted even
// where the channel is not.
func passwordIsSealed(e *ua.EndpointDescription) bool {
	for _, t := range e.UserIdentityTokens {
		if t.TokenType == ua.UserTokenTypeUserName && t.SecurityPolicyURI != "" && policyName(t.SecurityPolicyURI) != "None" {
			return true
		}
	}
	return false
}

func keyPair(s link.Secret) (der []byte, key *rsa.PrivateKey, err error) {
	pair, err := tls.X509KeyPair(s.Certificate, s.Key)
	if err != nil {
		return nil, nil, say.New("the certificate and its key do not belong together, or are not PEM")
	}
	key, ok := pair.PrivateKey.(*rsa.PrivateKey)
	if !ok {
		return nil, nil, say.New("OPC UA takes certificates with an RSA key")
	}
	return pair.Certificate[0], key, nil
}

// NewApplicationCertificate makes this server's own certificate as a client.
func NewApplicationCertificate(now time.Time) (certificate, key []byte, err error) {
	k, err := rsa.GenerateKey(rand.Reader, 2048)
	if err != nil {
		return nil, nil, err
	}
	uri, _ := url.Parse(applicationURI)
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 100))
	if err != nil {
		return nil, nil, err
	}
	t := &x509.Certificate{SerialNumber: serial, Subject: pkix.Name{CommonName: "Ready Rail"}, URIs: []*url.URL{uri},
		NotBefore: now.Add(-time.Hour), NotAfter: now.AddDate(10, 0, 0),
		KeyUsage: x509.KeyUsageDigitalSignature | x509.KeyUsageContentCommitment | x509.KeyUsageKeyEncipherment |
			x509.KeyUsageDataEncipherment | x509.KeyUsageCertSign,
		ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageClientAuth}, BasicConstraintsValid: true, IsCA: true}
	der, err := x509.CreateCertificate(rand.Reader, t, t, &k.PublicKey, k)
	if err != nil {
		return nil, nil, err
	}
	return pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}),
		pem.EncodeToMemory(&pem.Block{Type: "RSA PRIVATE KEY", Bytes: x509.MarshalPKCS1PrivateKey(k)}), nil
}
