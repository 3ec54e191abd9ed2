package standin

import (
	"crypto/tls"
	"net"
	"strings"
	"sync"
	"sync/atomic"

	ber "github.com/go-asn1-ber/asn1-ber"
	"github.com/go-ldap/ldap/v3"
)

// LDAP is the directory's LDAP side: bind, search and StartTLS (RFC 4511), as much as a
// client needs that looks people up.
type LDAP struct {
	Address   string // host:port that it listens at, in the clear until StartTLS
	Authority string // PEM, by which it is trusted
	// Binds counts sign-ins that were tried, the server's own left out.
	Binds atomic.Int64

	people *People
	tls    *tls.Config
	l      net.Listener
	mu     sync.Mutex
	open   map[net.Conn]bool
	all    sync.WaitGroup
}

// ServeLDAP starts one at an address of this machine.
func ServeLDAP(address string, people *People) (*LDAP, error) {
	l, err := net.Listen("tcp", address)
	if err != nil {
		return nil, err
	}
	host, _, _ := net.SplitHostPort(l.Addr().String())
	pair, authority, err := certificate(host)
	if err != nil {
		return nil, err
	}
	s := &LDAP{Address: l.Addr().String(), Authority: authority, people: people, l: l, open: map[net.Conn]bool{},
		tls: &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12}}
	s.all.Go(s.accept)
	return s, nil
}

// Close ends it and every connection.
func (s *LDAP) Close() {
	s.l.Close()
	s.mu.Lock()
	for c := range s.open {
		c.Close()
	}
	s.mu.Unlock()
	s.all.Wait()
}

func (s *LDAP) accept() {
	for {
		c, err := s.l.Accept()
		if err != nil {
			return
		}
		s.mu.Lock()
		s.open[c] = true
		s.mu.Unlock()
		s.all.Go(func() {
			(&ldapTalk{s: s, c: c}).run()
			s.mu.Lock()
			delete(s.open, c)
			s.mu.Unlock()
			c.Close()
		})
	}
}

// ldapTalk is one connection.
type ldapTalk struct {
	s    *LDAP
	c    net.Conn
	safe bool   // TLS was turned to
	who  string // DN that signed in
}

func (t *ldapTalk) run() {
	for {
		p, err := ber.ReadPacket(t.c)
		if err != nil || len(p.Children) < 2 {
			return
		}
		id, _ := p.Children[0].Value.(int64)
		op := p.Children[1]
		switch op.Tag {
		case ldap.ApplicationBindRequest:
			t.answer(id, result(ldap.ApplicationBindResponse, t.bind(op)))
		case ldap.ApplicationSearchRequest:
			t.search(id, op)
		case ldap.ApplicationExtendedRequest:
			t.answer(id, result(ldap.ApplicationExtendedResponse, ldap.LDAPResultSuccess))
			over := tls.Server(t.c, t.s.tls)
			if over.Handshake() != nil {
				return
			}
			t.c, t.safe = over, true
		case ldap.ApplicationUnbindRequest:
			return
		default:
			t.answer(id, result(ldap.ApplicationExtendedResponse, ldap.LDAPResultProtocolError))
		}
	}
}

func result(kind ber.Tag, code uint16) *ber.Packet {
	p := ber.Encode(ber.ClassApplication, ber.TypeConstructed, kind, nil, "")
	p.AppendChild(ber.NewInteger(ber.ClassUniversal, ber.TypePrimitive, ber.TagEnumerated, int64(code), ""))
	for range 2 { // the name that matched, and words
		p.AppendChild(ber.NewString(ber.ClassUniversal, ber.TypePrimitive, ber.TagOctetString, "", ""))
	}
	return p
}

func (t *ldapTalk) answer(id int64, op *ber.Packet) {
	p := ber.NewSequence("")
	p.AppendChild(ber.NewInteger(ber.ClassUniversal, ber.TypePrimitive, ber.TagInteger, id, ""))
	p.AppendChild(op)
	_, _ = t.c.Write(p.Bytes()) // who is gone reads nothing
}

func (t *ldapTalk) bind(op *ber.Packet) uint16 {
	if len(op.Children) < 3 || !t.safe {
		return ldap.LDAPResultConfidentialityRequired
	}
	dn, password := text(op.Children[1]), op.Children[2].Data.String()
	if password == "" { // RFC 4513, 5.1.2: succeeds, as nobody
		t.who = ""
		return ldap.LDAPResultSuccess
	}
	if dn != ServerName {
		t.s.Binds.Add(1)
	}
	_, known := t.s.people.find(func(x Person) bool { return strings.EqualFold(nameOf(x), dn) && x.Password == password })
	if !known && (dn != ServerName || password != ServerPassword) {
		return ldap.LDAPResultInvalidCredentials
	}
	t.who = dn
	return ldap.LDAPResultSuccess
}

func (t *ldapTalk) search(id int64, op *ber.Packet) {
	code := uint16(ldap.LDAPResultSuccess)
	switch {
	case t.who == "":
		code = ldap.LDAPResultInsufficientAccessRights
	case len(op.Children) < 8:
		code = ldap.LDAPResultProtocolError
	default:
		base, scope := text(op.Children[0]), op.Children[1].Value
		found := 0
		for _, e := range t.s.entries() {
			beneath := scope == int64(ldap.ScopeWholeSubtree) && strings.HasSuffix(strings.ToLower(e.dn), ","+strings.ToLower(base))
			if (strings.EqualFold(e.dn, base) || beneath) && e.meets(op.Children[6]) {
				found++
				t.answer(id, e.packet())
			}
		}
		if found == 0 && scope == int64(ldap.ScopeBaseObject) {
			code = ldap.LDAPResultNoSuchObject
		}
	}
	t.answer(id, result(ldap.ApplicationSearchResultDone, code))
}

func text(p *ber.Packet) string { s, _ := p.Value.(string); return s }

// ldapEntry is one entry of the tree.
type ldapEntry struct {
	dn   string
	says map[string][]string
}

func nameOf(x Person) string { return "uid=" + x.Name + "," + Base }

func (s *LDAP) entries() []ldapEntry {
	out := []ldapEntry{{Base, map[string][]string{"objectClass": {"organizationalUnit"}}}}
	for _, x := range s.people.All() {
		e := ldapEntry{nameOf(x), map[string][]string{"objectClass": {"inetOrgPerson"}, "uid": {x.Name}, "cn": {x.FullName}, "entryUUID": {x.ID}}}
		for _, g := range x.Groups {
			e.says["memberOf"] = append(e.says["memberOf"], "cn="+g+","+groupBase)
		}
		if x.Off {
			e.says["nsAccountLock"] = []string{"TRUE"}
		}
		out = append(out, e)
	}
	return out
}

// meets tells whether an entry meets a filter: of parts that are all there, equal or
// present.
func (e ldapEntry) meets(filter *ber.Packet) bool {
	switch filter.Tag {
	case ldap.FilterAnd:
		for _, f := range filter.Children {
			if !e.meets(f) {
				return false
			}
		}
		return true
	case ldap.FilterEqualityMatch:
		for name, values := range e.says {
			for _, v := range values {
				if strings.EqualFold(name, text(filter.Children[0])) && strings.EqualFold(v, text(filter.Children[1])) {
					return true
				}
			}
		}
	case ldap.FilterPresent:
		for name := range e.says {
			if strings.EqualFold(name, filter.Data.String()) {
				return true
			}
		}
	}
	return false
}

func (e ldapEntry) packet() *ber.Packet {
	p := ber.Encode(ber.ClassApplication, ber.TypeConstructed, ldap.ApplicationSearchResultEntry, nil, "")
	octets := func(s string) *ber.Packet {
		return ber.NewString(ber.ClassUniversal, ber.TypePrimitive, ber.TagOctetString, s, "")
	}
	p.AppendChild(octets(e.dn))
	list := ber.NewSequence("")
	for name, values := range e.says {
		one := ber.NewSequence("")
		one.AppendChild(octets(name))
		set := ber.Encode(ber.ClassUniversal, ber.TypeConstructed, ber.TagSet, nil, "")
		for _, v := range values {
			set.AppendChild(octets(v))
		}
		one.AppendChild(set)
		list.AppendChild(one)
	}
	p.AppendChild(list)
	return p
}
