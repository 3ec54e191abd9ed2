package access

import (
	"net/url"
	"slices"
	"strings"

	"readyrail/internal/core/say"
)

// Directory says how people are known to the company's directory, and which roles its
// groups have here.
type Directory struct {
	Kind       DirectoryKind `json:"kind" enum:",ldap,openid" doc:"empty for none"`
	Title      string        `json:"title" maxLength:"60" doc:"what people call it"`
	Address    string        `json:"address" maxLength:"300" doc:"ldaps://host:636, ldap://host:389 (which turns to TLS first), or the issuer's https address"`
	Credential string        `json:"credential" maxLength:"60" doc:"the vault's entry with which the server asks: for LDAP who searches, for OpenID the client and its secret"`
	Authority  string        `json:"authority" maxLength:"20000" doc:"PEM of who signed the directory's certificate; empty for those that the server's system trusts"`
	Base       string        `json:"base" maxLength:"300" doc:"LDAP: beneath which name people are"`

	// Attributes of an LDAP entry, or claims of an OpenID token.
	Name     string `json:"name" maxLength:"60" doc:"attribute or claim with the name that somebody signs in with"`
	FullName string `json:"fullName" maxLength:"60"`
	Groups   string `json:"groups" maxLength:"60"`

	PINSigns bool         `json:"pinSigns" doc:"while the directory does not answer, the person's PIN at an enrolled panel signs"`
	Members  []Membership `json:"members" maxItems:"1000" nullable:"false"`
}

// DirectoryKind is a way to ask a directory.
type DirectoryKind string

// The ways: none, LDAP version 3 (RFC 4511), and OpenID Connect Core 1.0 with the
// authorization code flow.
const (
	NoDirectory DirectoryKind = ""
	LDAP        DirectoryKind = "ldap"
	OpenID      DirectoryKind = "openid"
)

// Membership gives the people of a group a role in an area of a project; the empty area
// is the whole plant.
type Membership struct {
	Group   string `json:"group" minLength:"1" maxLength:"300" doc:"as the directory writes it, or its plain name"`
	Project string `json:"project" minLength:"1" maxLength:"64"`
	Role    string `json:"role" minLength:"1" maxLength:"64"`
	Area    string `json:"area" maxLength:"64"`
}

// Whole fills in the attributes that are usual, where none are named.
func (d Directory) Whole() Directory {
	usual := [3]string{"uid", "cn", "memberOf"}
	if d.Kind == OpenID {
		usual = [3]string{"preferred_username", "name", "groups"}
	}
	for i, at := range []*string{&d.Name, &d.FullName, &d.Groups} {
		if *at = strings.TrimSpace(*at); *at == "" && d.Kind != NoDirectory {
			*at = usual[i]
		}
	}
	d.Title, d.Address = strings.TrimSpace(d.Title), strings.TrimRight(strings.TrimSpace(d.Address), "/")
	if d.Members == nil {
		d.Members = []Membership{}
	}
	return d
}

// Check refuses settings with which nobody could be asked for.
func (d Directory) Check() error {
	if d.Kind == NoDirectory {
		return nil
	}
	at, err := url.Parse(d.Address)
	if err != nil || at.Hostname() == "" || at.User != nil {
		return say.Errorf("%q is no address of a directory: ldaps://host, ldap://host or https://host", d.Address)
	}
	ways := map[DirectoryKind][]string{LDAP: {"ldaps", "ldap"}, OpenID: {"https"}}
	loopback := at.Hostname() == "localhost" || strings.HasPrefix(at.Hostname(), "127.") || at.Hostname() == "::1"
	switch {
	case d.Title == "":
		return say.New("say what people call the directory: the sign-in page names it")
	case d.Kind == OpenID && at.Scheme == "http" && loopback:
		// On this machine there is nobody to listen.
	case !slices.Contains(ways[d.Kind], at.Scheme):
		return say.Errorf("this way to a directory takes an address that begins with %s://", ways[d.Kind][0])
	case d.Credential == "":
		return say.New("choose the vault's entry with which the server asks the directory")
	case d.Kind == LDAP && d.Base == "":
		return say.New("say beneath which name the directory has its people, such as ou=people,dc=yard,dc=example")
	}
	return nil
}

// Host is where the directory is asked.
func (d Directory) Host() string {
	at, err := url.Parse(d.Address)
	if err != nil {
		return ""
	}
	return at.Hostname()
}

// RolesIn are the roles that somebody's groups give them in a project.
func (d Directory) RolesIn(project string, groups []string) []Grant {
	out := []Grant{}
	for _, m := range d.Members {
		g := Grant{Role: m.Role, Area: m.Area, Directory: true}
		if m.Project == project && slices.ContainsFunc(groups, m.means) && !slices.ContainsFunc(out, g.Same) {
			out = append(out, g)
		}
	}
	return out
}

// means tells whether a group of the directory is the one that is meant: its whole name,
// or the plain one that stands first in a distinguished name (RFC 4514).
func (m Membership) means(group string) bool {
	if strings.EqualFold(m.Group, group) {
		return true
	}
	first, _, named := strings.Cut(group, ",")
	_, plain, is := strings.Cut(first, "=")
	return named && is && strings.EqualFold(strings.TrimSpace(plain), m.Group)
}
