// Package standin is a company's directory with made-up people, by LDAP and by OpenID
// Connect, for the demo and for tests. Both sides show the same people.
package standin

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"math/big"
	"net"
	"slices"
	"strings"
	"sync"
	"time"
)

// Person is somebody in the directory.
type Person struct {
	ID       string // for good
	Name     string
	FullName string
	Password string
	Groups   []string
	Off      bool // switched off
}

// Base is beneath what the LDAP side has its people.
const Base = "ou=people,dc=larchmoor,dc=example"

const groupBase = "ou=groups,dc=larchmoor,dc=example"

// The server's own sign-in, for either side.
const (
	ServerName     = "cn=readyrail,dc=larchmoor,dc=example"
	ServerPassword = "server-of-the-yard"
)

// People are the directory's people, who may change while it runs.
type People struct {
	mu   sync.Mutex
	list []Person
}

// Yard is who the demo's directory has.
func Yard() *People {
	return &People{list: []Person{
		{ID: "5e0d9a5e-0001", Name: "wren", FullName: "Wren Hazel", Password: "hazel-and-sloe", Groups: []string{"yard-operators"}},
		{ID: "5e0d9a5e-0002", Name: "rowan", FullName: "Rowan Maple", Password: "maple-and-lime",
			Groups: []string{"yard-leads", "yard-operators"}},
		{ID: "5e0d9a5e-0003", Name: "hazel", FullName: "Hazel Thorn", Password: "thorn-and-holly", Groups: []string{"office"}},
	}}
}

// Set changes the person with a name; false where there is nobody.
func (p *People) Set(name string, change func(*Person)) bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	i := slices.IndexFunc(p.list, func(x Person) bool { return strings.EqualFold(x.Name, name) })
	if i >= 0 {
		p.list[i].Groups = slices.Clone(p.list[i].Groups)
		change(&p.list[i])
	}
	return i >= 0
}

// Add adds a person.
func (p *People) Add(x Person) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.list = append(p.list, x)
}

// Drop takes the person with a name out.
func (p *People) Drop(name string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.list = slices.DeleteFunc(p.list, func(x Person) bool { return strings.EqualFold(x.Name, name) })
}

// All lists them.
func (p *People) All() []Person {
	p.mu.Lock()
	defer p.mu.Unlock()
	return slices.Clone(p.list)
}

func (p *People) find(meets func(Person) bool) (Person, bool) {
	list := p.All()
	i := slices.IndexFunc(list, meets)
	if i < 0 {
		return Person{}, false
	}
	return list[i], true
}

// certificate is one for a name or address that nobody but who is told trusts.
func certificate(host string) (tls.Certificate, string, error) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return tls.Certificate{}, "", err
	}
	now := time.Now()
	of := x509.Certificate{SerialNumber: big.NewInt(now.UnixNano()), Subject: pkix.Name{CommonName: "stand-in directory"},
		NotBefore: now.Add(-time.Hour), NotAfter: now.AddDate(1, 0, 0), IsCA: true, BasicConstraintsValid: true,
		KeyUsage: x509.KeyUsageDigitalSignature | x509.KeyUsageCertSign, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}}
	if ip := net.ParseIP(host); ip != nil {
		of.IPAddresses = []net.IP{ip}
	} else {
		of.DNSNames = []string{host}
	}
	der, err := x509.CreateCertificate(rand.Reader, &of, &of, &key.PublicKey, key)
	if err != nil {
		return tls.Certificate{}, "", err
	}
	authority := string(pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}))
	return tls.Certificate{Certificate: [][]byte{der}, PrivateKey: key}, authority, nil
}
