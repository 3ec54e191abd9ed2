package access

import (
	"slices"
	"strings"
	"testing"
)

// TestDirectorySettings refuses settings with which nobody could be asked for, and says
// what is missing.
func TestDirectorySettings(t *testing.T) {
	ldap := Directory{Kind: LDAP, Title: "Yard", Address: "ldaps://id.yard.example", Credential: "directory", Base: "dc=yard"}
	openID := Directory{Kind: OpenID, Title: "Yard", Address: "https://id.yard.example", Credential: "directory"}
	for _, c := range []struct {
		name   string
		of     Directory
		change func(*Directory)
		says   string
	}{
		{"none", Directory{}, func(*Directory) {}, ""},
		{"LDAP over TLS", ldap, func(*Directory) {}, ""},
		{"LDAP that turns to TLS", ldap, func(d *Directory) { d.Address = "ldap://id.yard.example" }, ""},
		{"OpenID", openID, func(*Directory) {}, ""},
		{"OpenID on this machine", openID, func(d *Directory) { d.Address = "http://127.0.0.1:9000" }, ""},
		{"OpenID in the clear", openID, func(d *Directory) { d.Address = "http://id.yard.example" }, "begins with https://"},
		{"LDAP at a web address", ldap, func(d *Directory) { d.Address = "https://id.yard.example" }, "begins with ldaps://"},
		{"no address", ldap, func(d *Directory) { d.Address = "id.yard.example" }, "no address of a directory"},
		{"a password in the address", ldap, func(d *Directory) { d.Address = "ldaps://a:b@id.yard.example" }, "no address of a directory"},
		{"no title", ldap, func(d *Directory) { d.Title = " " }, "what people call"},
		{"no credential", openID, func(d *Directory) { d.Credential = "" }, "vault's entry"},
		{"no base", ldap, func(d *Directory) { d.Base = "" }, "beneath which name"},
	} {
		c.change(&c.of)
		err := c.of.Whole().Check()
		if (err == nil) != (c.says == "") || err != nil && !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want %q", c.name, err, c.says)
		}
	}
	if d := ldap.Whole(); d.Name != "uid" || d.FullName != "cn" || d.Groups != "memberOf" {
		t.Errorf("usual attributes: %v", d)
	}
}

// TestRolesOfGroups: groups are met by their whole or plain name, and what two of them
// give alike is given once.
func TestRolesOfGroups(t *testing.T) {
	d := Directory{Members: []Membership{
		{Group: "operators", Project: "yard", Role: "operator", Area: "north"},
		{Group: "CN=Shift,OU=Groups,DC=yard", Project: "yard", Role: "operator", Area: "north"},
		{Group: "leads", Project: "yard", Role: "lead"},
		{Group: "operators", Project: "mill", Role: "viewer"},
	}}
	for _, c := range []struct {
		groups []string
		want   []string
	}{
		{nil, nil},
		{[]string{"others"}, nil},
		{[]string{"Operators"}, []string{"operator@north"}},
		{[]string{"cn=operators,ou=groups,dc=yard"}, []string{"operator@north"}},
		{[]string{"operators", "cn=shift,ou=groups,dc=yard"}, []string{"operator@north"}},
		{[]string{"leads", "operators"}, []string{"operator@north", "lead@"}},
		{[]string{"not operators", "operators2"}, nil},
		{[]string{"ou=operators"}, nil}, // a plain name that looks like one part: nothing tells that it is a group's
	} {
		var got []string
		for _, g := range d.RolesIn("yard", c.groups) {
			got = append(got, g.Role+"@"+g.Area)
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%q gives %q, want %q", c.groups, got, c.want)
		}
	}
}
