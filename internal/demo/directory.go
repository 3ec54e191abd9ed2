package demo

import (
	"context"
	"fmt"

	"readyrail/internal/core/access"
	"readyrail/internal/directory/standin"
	"readyrail/internal/host"
)

// DirectoryPeople are the people of the stand-in directory who have a role in the yard.
var DirectoryPeople = []Person{
	{Name: "wren", FullName: "Wren Hazel", Password: "hazel-and-sloe", Role: "Operator, of the directory"},
	{Name: "rowan", FullName: "Rowan Maple", Password: "maple-and-lime", Role: "Shift lead, of the directory"},
}

// Directory starts a stand-in of a company's directory and has the yard use it, until it
// is closed.
func Directory(ctx context.Context, h *host.Host, kind access.DirectoryKind) (end func(), err error) {
	of := access.Directory{Kind: kind, Title: "Larchmoor", Credential: "directory", Members: []access.Membership{
		{Group: "yard-operators", Project: ID, Role: "r-operator"}, {Group: "yard-leads", Project: ID, Role: "r-lead"}}}
	user := standin.Client
	switch kind {
	case access.LDAP:
		side, err := standin.ServeLDAP("127.0.0.1:0", standin.Yard())
		if err != nil {
			return nil, err
		}
		of.Address, of.Authority, of.Base = "ldap://"+side.Address, side.Authority, standin.Base
		user, end = standin.ServerName, side.Close
	case access.OpenID:
		side, err := standin.ServeOpenID("127.0.0.1:0", standin.Yard())
		if err != nil {
			return nil, err
		}
		of.Address, end = side.Address, side.Close
	default:
		return nil, fmt.Errorf("--directory is ldap or openid, not %q", kind)
	}
	owner := host.Actor{Name: "Demo", Owner: true, Server: true}
	err = h.PutVault(ctx, owner, host.NewVaultEntry{Name: of.Credential, Kind: host.Password, User: user, Password: standin.ServerPassword,
		Hosts: []string{"127.0.0.1"}, Note: "The stand-in directory"})
	if err == nil {
		err = h.SetDirectory(ctx, owner, of)
	}
	if err != nil {
		end()
	}
	return end, err
}
