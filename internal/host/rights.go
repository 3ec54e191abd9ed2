package host

import (
	"context"
	"slices"
	"sync"

	"readyrail/internal/core/access"
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

// SetGrants replaces what roles a person has in the project. Every look and
// every hold asks anew within a moment.
func (p *Project) SetGrants(ctx context.Context, person string, list []access.Grant) error {
	for _, x := range list {
		if !p.Draft().Has("role", x.Role) {
			return refused("there is no role %s", x.Role)
		}
		if x.Area != "" && !p.Draft().HasArea(x.Area) {
			return refused("there is no area %s", x.Area)
		}
	}
	if _, err := p.host.server.Person(ctx, person); err != nil {
		return err
	}
	g := &p.host.grants
	g.mu.Lock()
	defer g.mu.Unlock()
	delete(g.by, p.id)
	return p.host.server.SetGrants(ctx, p.id, person, list)
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
