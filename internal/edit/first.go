package edit

import (
	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
)

// NewProject returns an empty project with the usual roles.
func NewProject(name string) *project.Project {
	p := project.New(name)
	for id, r := range map[string]access.Role{
		"r-viewer": {Name: "Viewer", Rights: []access.Right{access.View}},
		"r-operator": {Name: "Operator", Rights: []access.Right{access.View, access.Operate, access.Acknowledge, access.Recipes,
			access.Deliver}},
		"r-lead": {Name: "Shift lead", Rights: []access.Right{access.View, access.Operate, access.Acknowledge, access.Shelve,
			access.Limits, access.Archive, access.Logs, access.Audit, access.Recipes, access.Approve, access.Deliver,
			access.Control}},
		"r-maint": {Name: "Maintenance", Rights: []access.Right{access.View, access.Operate, access.Acknowledge, access.Shelve, access.Limits,
			access.Logs, access.Override, access.Commission, access.Recipes, access.Deliver}},
		"r-quality": {Name: "Quality", Rights: []access.Right{access.View, access.Logs, access.Audit, access.Recipes, access.Approve}},
		"r-engineer": {Name: "Engineer", Rights: []access.Right{access.View, access.Operate, access.Acknowledge, access.Shelve,
			access.Limits, access.Archive, access.Logs, access.Override, access.Commission, access.Engineer, access.Release, access.Audit,
			access.People, access.Panels, access.Recipes, access.Approve, access.Deliver, access.Control}},
	} {
		r.ID = id
		p.Roles[id] = &r
	}
	return p
}
