package project

import "readyrail/internal/core/access"

// KindRole are the roles that people may have in a project.
const KindRole = "role"

var roleKind = &kindOf[access.Role]{
	ThingKind: ThingKind{Name: KindRole, Stop: StopPeople},
	of:        func(p *Project) *map[string]*access.Role { return &p.Roles },
	read: func(_ *Project, id string, r *access.Role, _ bool) (*access.Role, error) {
		r.ID = id
		field, err := r.Check()
		return r, at("/"+field, err)
	},
	name: func(_ *Project, _ string, r *access.Role) string { return r.Name },
	check: func(c *checker) {
		for _, r := range c.p.Roles {
			if r.Has(access.Operate) {
				return
			}
		}
		c.add("people.operate", Warning, KindRole, "", "", c.p.Site().Name)
	},
	work: func(p *Project) int { return len(p.Roles) },
}
