package host

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
)

// grants are who has which role in each project, in memory: rights are asked
// for at every look and every press.
type grants struct {
	mu sync.RWMutex
	by map[string][]access.Grant // by project
}

// Require returns nil when a person has a right in an area of a project, and
// an *access.Denied otherwise. Rights that shape the project are those of the
// draft's roles; rights at the Desk are those of the running release.
func (p *Project) Require(ctx context.Context, who Actor, right access.Right, area string) error {
	if err := strong(who, right); err != nil {
		return err
	}
	if who.Owner || p.watched(who, right) {
		return nil
	}
	policy, err := p.policy(ctx, who, right)
	if err != nil {
		return err
	}
	return policy.Require(who.ID, right, area)
}

// May is Require as a question; anywhere asks for any area at all.
func (p *Project) May(ctx context.Context, who Actor, right access.Right, anywhere bool) bool {
	if strong(who, right) != nil {
		return false
	}
	if who.Owner || p.watched(who, right) {
		return true
	}
	policy, err := p.policy(ctx, who, right)
	if err != nil {
		return false
	}
	if anywhere {
		return policy.MayAnywhere(who.ID, right)
	}
	return policy.May(who.ID, right, "")
}

// Somewhere is Require for a right that is had in any area at all.
func (p *Project) Somewhere(ctx context.Context, who Actor, right access.Right) error {
	if p.May(ctx, who, right, true) {
		return nil
	}
	return p.Require(ctx, who, right, "")
}

// watched tells whether a right is the one that a panel has with nobody signed
// in: to look at its own project.
func (p *Project) watched(who Actor, right access.Right) bool {
	return who.Watches == p.id && right == access.View
}

func (p *Project) policy(ctx context.Context, who Actor, right access.Right) (*access.Policy, error) {
	list, err := p.grantsFor(ctx, who)
	if err != nil {
		return nil, err
	}
	from := p.Draft()
	if r := p.Released(); r != nil && access.AtTheDesk(right) {
		from = r
	}
	return &access.Policy{Roles: from.Roles, Areas: from.Site().Areas, Grants: list}, nil
}

// grantsFor are the roles that people have in the project, as they count for who
// asks: one that looks as a role has that one alone.
func (p *Project) grantsFor(ctx context.Context, who Actor) ([]access.Grant, error) {
	if as := who.As; as != nil {
		if as.Project != p.id {
			return nil, nil
		}
		return []access.Grant{{Person: who.ID, Role: as.Role, Area: as.Area}}, nil
	}
	list, err := p.Grants(ctx)
	if err != nil {
		return nil, say.Errorf("reading who has which role: %w", err)
	}
	if who.Role != "" {
		list = append(slices.Clone(list), access.Grant{Person: who.ID, Role: who.Role})
	}
	return list, nil
}

// Grants lists who has which role in the project.
func (p *Project) Grants(ctx context.Context) ([]access.Grant, error) {
	g := &p.host.grants
	g.mu.RLock()
	list, known := g.by[p.id]
	g.mu.RUnlock()
	if known {
		return list, nil
	}
	g.mu.Lock()
	defer g.mu.Unlock()
	list, err := p.host.server.Grants(ctx, p.id)
	if err == nil {
		g.by[p.id] = list
	}
	return list, err
}

// GiveRoles is SetGrants by a person; the trail says which roles the account had, and has.
func (p *Project) GiveRoles(ctx context.Context, who Actor, person string, list []access.Grant) error {
	account, err := p.host.server.Person(ctx, person)
	if err != nil {
		return err
	}
	had, err := p.grantsOf(ctx, person)
	if err != nil {
		return err
	}
	if err := p.SetGrants(ctx, who, person, list); err != nil {
		return err
	}
	has, err := p.grantsOf(ctx, person)
	if err != nil {
		return err
	}
	_, err = p.records.Trail.Append(context.WithoutCancel(ctx), audit.Record{At: time.Now().UnixNano(), What: audit.People, Person: who.ID,
		Name: who.Name, Panel: who.Panel, Path: "roles of " + account.Name, Old: p.rolesTold(had), New: p.rolesTold(has)})
	return err
}

// SetGrants replaces what roles a person has in the project. Every look and
// every hold asks anew within a moment. What is given stands with who gave it, and with
// the rights that they do not have there themselves.
func (p *Project) SetGrants(ctx context.Context, who Actor, person string, list []access.Grant) error {
	draft := p.Draft()
	for _, x := range list {
		if !draft.Has("role", x.Role) {
			return refused("there is no role %s", x.Role)
		}
		if x.Area != "" && !draft.HasArea(x.Area) {
			return refused("there is no area %s", x.Area)
		}
	}
	if _, err := p.host.server.Person(ctx, person); err != nil {
		return err
	}
	all, err := p.Grants(ctx)
	if err != nil {
		return err
	}
	had, err := p.grantsOf(ctx, person)
	if err != nil {
		return err
	}
	policy := &access.Policy{Roles: draft.Roles, Areas: draft.Site().Areas, Grants: all}
	next := make([]access.Grant, len(list))
	for i, x := range list {
		next[i] = given(policy, who, had, access.Grant{Person: person, Role: x.Role, Area: x.Area})
	}
	for _, x := range had {
		if x.Directory && !slices.ContainsFunc(next, x.Same) {
			return refused("the company's directory gives the role %s: take the person out of the group there", p.rolesTold([]access.Grant{x}))
		}
	}
	return p.putGrants(ctx, person, next)
}

// putGrants keeps what roles a person has.
func (p *Project) putGrants(ctx context.Context, person string, next []access.Grant) error {
	g := &p.host.grants
	g.mu.Lock()
	defer g.mu.Unlock()
	delete(g.by, p.id)
	return p.host.server.SetGrants(ctx, p.id, person, next)
}

// grantsOf are the roles that one person has in the project.
func (p *Project) grantsOf(ctx context.Context, person string) (out []access.Grant, err error) {
	all, err := p.Grants(ctx)
	for _, g := range all {
		if g.Person == person {
			out = append(out, g)
		}
	}
	return out, err
}

// rolesTold are roles as the trail tells them.
func (p *Project) rolesTold(list []access.Grant) string {
	version := p.Draft()
	var out []string
	for _, g := range list {
		name := strings.Join(version.RoleNames([]string{g.Role}), "")
		if g.Area != "" {
			name += " in " + version.AreaName(g.Area)
		}
		out = append(out, name)
	}
	slices.Sort(out)
	return cmp.Or(strings.Join(out, ", "), "none")
}

// given is a grant as it was, where the person had it, or with who gives it.
func given(policy *access.Policy, who Actor, had []access.Grant, g access.Grant) access.Grant {
	if i := slices.IndexFunc(had, g.Same); i >= 0 {
		return had[i]
	}
	g.Giver = who.Name
	if !who.Owner {
		var beyond []string
		for _, right := range policy.Beyond(who.ID, g.Role, g.Area) {
			beyond = append(beyond, string(right))
		}
		g.Beyond = strings.Join(beyond, ",")
	}
	return g
}

// MayLookAtDraft asks for the right to look at what is being built or proved:
// to engineer it, to prove it, or to hold its tags.
func (p *Project) MayLookAtDraft(ctx context.Context, who Actor) error {
	if p.May(ctx, who, access.Commission, true) || p.May(ctx, who, access.Override, true) {
		return nil
	}
	return p.Require(ctx, who, access.Engineer, "")
}

// MayLookAs refuses a role or an area that there is not, as who looks with the
// rights of one is to see what its people see.
func (p *Project) MayLookAs(as access.As) error {
	version := p.Released()
	if version == nil {
		return refused("nothing is released yet: there is nothing to look at")
	}
	if version.Roles[as.Role] == nil {
		return refused("there is no role %s", as.Role)
	}
	if as.Area != "" && !version.HasArea(as.Area) {
		return refused("there is no area %s", as.Area)
	}
	return nil
}
