package host

import (
	"context"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/door"
)

// Rest is how long somebody may do nothing before they are signed out: the
// shortest of what their panel says and what their roles in any project say. It
// is 0 where nothing ends a session.
func (h *Host) Rest(ctx context.Context, who Actor, panel PanelInfo) (time.Duration, error) {
	least := panel.Rest
	for _, p := range h.Projects() {
		policy, err := p.policy(ctx, who, access.View)
		if err != nil {
			return 0, err
		}
		for _, g := range policy.Grants {
			role := policy.Roles[g.Role]
			if g.Person == who.ID && role != nil && role.Rest > 0 && (least == 0 || role.Rest < least) {
				least = role.Rest
			}
		}
	}
	return time.Duration(least) * time.Minute, nil
}

// Busy tells whether somebody holds a button, or a recipe that they sent is under
// way: neither is left behind by a session that ends of rest.
func (h *Host) Busy(who Actor) bool {
	its := func(w door.Who) bool { return w.Session == who.Session }
	for _, p := range h.Projects() {
		if p.runs.Door().Holds(its) || p.shelf.under.any(its) {
			return true
		}
	}
	return false
}
