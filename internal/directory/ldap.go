package directory

import (
	"cmp"
	"context"
	"crypto/tls"
	"encoding/hex"
	"errors"
	"net"
	"strconv"
	"strings"

	"github.com/go-ldap/ldap/v3"

	"readyrail/internal/core/access"
	"readyrail/internal/core/say"
)

// LDAP is a directory that is asked by LDAP version 3 (RFC 4511), over TLS always.
type LDAP struct {
	of  access.Directory
	by  Credential
	tls *tls.Config
}

// NewLDAP returns a directory by its settings.
func NewLDAP(of access.Directory, by Credential) (*LDAP, error) {
	trusted, err := trust(of)
	return &LDAP{of, by, trusted}, err
}

// Attributes that name an entry for good, and those that say it is switched off.
const (
	entryUUID      = "entryUUID"          // RFC 4530
	objectGUID     = "objectGUID"         // 16 bytes
	accountControl = "userAccountControl" // bit 2: switched off
	accountLock    = "nsAccountLock"      // TRUE: switched off
	switchedOff    = 2
)

// SignIn tells who has a name and a password: ErrWrong where nobody does.
func (l *LDAP) SignIn(ctx context.Context, name, password string) (Member, error) {
	// RFC 4513, 5.1.2: a bind with an empty password succeeds and proves nothing.
	if name == "" || password == "" {
		return Member{}, ErrWrong
	}
	c, err := l.dial(ctx)
	if err != nil {
		return Member{}, err
	}
	defer c.Close()
	e, err := l.byName(c, name)
	dn := "cn=nobody," + l.of.Base // takes the time that somebody takes
	if err == nil {
		dn = e.DN
	} else if !errors.Is(err, ErrGone) {
		return Member{}, err
	}
	bound := c.Bind(dn, password)
	switch {
	case err != nil || ldap.IsErrorAnyOf(bound, ldap.LDAPResultInvalidCredentials, ldap.LDAPResultNoSuchObject,
		ldap.LDAPResultInvalidDNSyntax, ldap.LDAPResultUnwillingToPerform):
		return Member{}, ErrWrong
	case bound != nil:
		return Member{}, &Down{bound}
	case off(e):
		return Member{}, ErrWrong
	}
	// Who somebody is stands to the server, and not to them.
	if err := l.bind(c); err != nil {
		return Member{}, err
	}
	return l.member(c, e)
}

// ByName asks for whom the directory has by a name, and lets nobody in.
func (l *LDAP) ByName(ctx context.Context, name string) (Member, error) {
	c, err := l.dial(ctx)
	if err != nil {
		return Member{}, err
	}
	defer c.Close()
	e, err := l.byName(c, name)
	if err != nil {
		return Member{}, err
	}
	return l.member(c, e)
}

func (l *LDAP) byName(c *ldap.Conn, name string) (*ldap.Entry, error) {
	return l.find(c, l.of.Base, ldap.ScopeWholeSubtree, "("+l.of.Name+"="+ldap.EscapeFilter(name)+")")
}

// Again asks for a member by what never changes.
func (l *LDAP) Again(ctx context.Context, known Member) (Member, error) {
	kind, value, _ := strings.Cut(known.Subject, ":")
	base, scope, filter := l.of.Base, ldap.ScopeWholeSubtree, ""
	switch kind {
	case "uuid":
		filter = "(" + entryUUID + "=" + ldap.EscapeFilter(value) + ")"
	case "guid":
		raw, err := hex.DecodeString(value)
		if err != nil {
			return Member{}, ErrGone
		}
		filter = "(" + objectGUID + "=" + ldap.EscapeFilter(string(raw)) + ")"
	case "dn":
		base, scope, filter = value, ldap.ScopeBaseObject, "(objectClass=*)"
	default:
		return Member{}, ErrGone // known to another directory
	}
	c, err := l.dial(ctx)
	if err != nil {
		return Member{}, err
	}
	defer c.Close()
	e, err := l.find(c, base, scope, filter)
	if err != nil {
		return Member{}, err
	}
	if off(e) {
		return Member{}, ErrGone
	}
	return l.member(c, e)
}

// Reach signs the server in and looks for the place where people are.
func (l *LDAP) Reach(ctx context.Context) error {
	c, err := l.dial(ctx)
	if err != nil {
		return err
	}
	defer c.Close()
	_, err = c.Search(ldap.NewSearchRequest(l.of.Base, ldap.ScopeBaseObject, ldap.NeverDerefAliases, 1, int(patience.Seconds()), false,
		"(objectClass=*)", []string{"1.1"}, nil))
	if ldap.IsErrorWithCode(err, ldap.LDAPResultNoSuchObject) {
		return say.Errorf("the directory has nothing at %s", l.of.Base)
	}
	if err != nil {
		return &Down{err}
	}
	return nil
}

// dial connects, over TLS, and signs the server in.
func (l *LDAP) dial(ctx context.Context) (*ldap.Conn, error) {
	dialer := &net.Dialer{Timeout: patience}
	if end, ok := ctx.Deadline(); ok {
		dialer.Deadline = end
	}
	c, err := ldap.DialURL(l.of.Address, ldap.DialWithDialer(dialer), ldap.DialWithTLSConfig(l.tls))
	if err != nil {
		return nil, &Down{err}
	}
	c.SetTimeout(patience)
	if strings.HasPrefix(l.of.Address, "ldap:") {
		if err := c.StartTLS(l.tls); err != nil {
			c.Close()
			return nil, &Down{say.Errorf("the directory does not turn to TLS: %w", err)}
		}
	}
	if err := l.bind(c); err != nil {
		c.Close()
		return nil, err
	}
	return c, nil
}

// bind signs the server in.
func (l *LDAP) bind(c *ldap.Conn) error {
	if err := c.Bind(l.by.User, l.by.Password); err != nil {
		return &Down{say.Errorf("the directory does not take this server's own sign-in: %w", err)}
	}
	return nil
}

// find returns the one entry that a filter meets.
func (l *LDAP) find(c *ldap.Conn, base string, scope int, filter string) (*ldap.Entry, error) {
	wanted := []string{l.of.Name, l.of.FullName, l.of.Groups, entryUUID, objectGUID, accountControl, accountLock}
	r, err := c.Search(ldap.NewSearchRequest(base, scope, ldap.NeverDerefAliases, 2, int(patience.Seconds()), false, filter, wanted, nil))
	switch {
	case ldap.IsErrorAnyOf(err, ldap.LDAPResultNoSuchObject, ldap.LDAPResultInvalidDNSyntax):
		return nil, ErrGone
	case ldap.IsErrorWithCode(err, ldap.LDAPResultSizeLimitExceeded), err == nil && len(r.Entries) > 1:
		return nil, say.Errorf("the directory has several entries with %s", filter)
	case err != nil:
		return nil, &Down{err}
	case len(r.Entries) == 0:
		return nil, ErrGone
	}
	return r.Entries[0], nil
}

// off tells whether an entry is switched off, in the ways that directories say so.
func off(e *ldap.Entry) bool {
	flags, _ := strconv.Atoi(e.GetEqualFoldAttributeValue(accountControl))
	return flags&switchedOff != 0 || strings.EqualFold(e.GetEqualFoldAttributeValue(accountLock), "TRUE")
}

func (l *LDAP) member(c *ldap.Conn, e *ldap.Entry) (Member, error) {
	m := Member{Subject: "dn:" + e.DN, Name: e.GetEqualFoldAttributeValue(l.of.Name), FullName: e.GetEqualFoldAttributeValue(l.of.FullName)}
	m.FullName = cmp.Or(m.FullName, m.Name)
	if id := e.GetEqualFoldAttributeValue(entryUUID); id != "" {
		m.Subject = "uuid:" + strings.ToLower(id)
	} else if raw := e.GetEqualFoldRawAttributeValue(objectGUID); len(raw) > 0 {
		m.Subject = "guid:" + hex.EncodeToString(raw)
	}
	if m.Name == "" {
		return m, say.Errorf("the directory's entry %s has no %s", e.DN, l.of.Name)
	}
	// Where groups list their people, and people not their groups, it is the groups that
	// are looked for.
	switch l.of.Groups {
	case "member", "uniqueMember":
		r, err := c.Search(ldap.NewSearchRequest(l.of.Base, ldap.ScopeWholeSubtree, ldap.NeverDerefAliases, 0, int(patience.Seconds()), false,
			"("+l.of.Groups+"="+ldap.EscapeFilter(e.DN)+")", []string{"1.1"}, nil))
		if err != nil {
			return m, &Down{err}
		}
		for _, g := range r.Entries {
			m.Groups = append(m.Groups, g.DN)
		}
	default:
		m.Groups = e.GetEqualFoldAttributeValues(l.of.Groups)
	}
	return m, nil
}
