// Package access holds who may do what: rights, roles, areas, and the rules of
// lockout. Accounts belong to the server; roles and who has them belong to a
// project.
package access

import (
	"slices"
	"sort"
	"strings"

	"readyrail/internal/core/say"
)

// Right is one thing that a person may be allowed to do.
type Right string

// The rights.
const (
	View        Right = "view"        // open screens at the Desk
	Operate     Right = "operate"     // enter values and press buttons
	Override    Right = "override"    // hold a tag at a value
	Acknowledge Right = "acknowledge" // acknowledge and reset alarms, and comment on them
	Shelve      Right = "shelve"      // shelve alarms, and take them out of service
	Limits      Right = "limits"      // change the limits of alarms that allow it, at the Desk
	Archive     Right = "archive"     // close the journal and put it away, sealed
	Logs        Right = "logs"        // start, stop and mark logs, write them out and clear them
	Recipes     Right = "recipes"     // make and change recipes, and delete them
	Approve     Right = "approve"     // approve and withdraw versions of recipes
	Deliver     Right = "deliver"     // send recipes to devices, and read them from there
	Control     Right = "control"     // take control of an area away from another place
	Commission  Right = "commission"  // prove points, and write from the draft in a turn of one's own
	Engineer    Right = "engineer"    // see and change the draft in the Workshop
	Release     Right = "release"     // make the draft what the Desk runs
	Audit       Right = "audit"       // read the audit trail
	People      Right = "people"      // give and take roles, add accounts
	Panels      Right = "panels"      // enrol browsers as panels
)

// Info names a right for people.
type Info struct {
	Right Right    `json:"right"`
	Does  say.Term `json:"does"`
}

// Rights lists every right in the order in which the interface shows them.
var Rights = []Info{
	{View, "open screens at the Desk"},
	{Operate, "enter values and press buttons"},
	{Override, "hold a tag at a value"},
	{Acknowledge, "acknowledge and reset alarms"},
	{Shelve, "shelve alarms and take them out of service"},
	{Limits, "change limits of alarms at the Desk"},
	{Archive, "close the journal and put it away"},
	{Logs, "start, stop, write out and clear logs"},
	{Recipes, "make, change and delete recipes"},
	{Approve, "approve and withdraw recipes"},
	{Deliver, "send recipes to devices"},
	{Control, "take control of an area away"},
	{Commission, "prove points and write from the draft"},
	{Engineer, "change the draft in the Workshop"},
	{Release, "release the draft"},
	{Audit, "read the audit trail"},
	{People, "manage accounts and roles"},
	{Panels, "enrol panels"},
}

// AtTheDesk tells whether a right is about the running plant, so that the roles
// of the release say who has it and not those of the draft.
func AtTheDesk(r Right) bool {
	switch r {
	case View, Operate, Acknowledge, Shelve, Limits, Archive, Logs, Recipes, Approve, Deliver, Control:
		return true
	}
	return false
}

// Does says what a right lets people do.
func (r Right) Does() say.Term {
	for _, i := range Rights {
		if i.Right == r {
			return i.Does
		}
	}
	return say.Term(r)
}

// RightList says several rights in a sentence.
type RightList []Right

// Say lists what they let people do.
func (l RightList) Say(language string) string {
	does := make([]string, len(l))
	for i, r := range l {
		does[i] = r.Does().Say(language)
	}
	return strings.Join(does, "; ")
}

// Known tells whether r is a right.
func Known(r Right) bool {
	for _, i := range Rights {
		if i.Right == r {
			return true
		}
	}
	return false
}

// Role is a named set of rights.
type Role struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Rights []Right `json:"rights"`
	// Rest is how many minutes somebody with the role may do nothing before they are
	// signed out; 0 for no end.
	Rest int `json:"rest,omitempty"`
}

// MostRest is how many minutes of rest can be asked for.
const MostRest = 24 * 60

// CheckRest refuses minutes of rest that cannot be.
func CheckRest(minutes int) error {
	if minutes < 0 || minutes > MostRest {
		return say.Errorf("somebody is signed out after 1 to %d minutes of rest, or never (0), not after %d", MostRest, minutes)
	}
	return nil
}

// Has tells whether the role includes the right.
func (r *Role) Has(right Right) bool {
	for _, x := range r.Rights {
		if x == right {
			return true
		}
	}
	return false
}

// Check refuses a role that cannot be.
func (r *Role) Check() (field string, err error) {
	if strings.TrimSpace(r.Name) == "" || len(r.Name) > 60 {
		return "name", say.Errorf("a role needs a name of at most 60 characters")
	}
	for _, x := range r.Rights {
		if !Known(x) {
			return "rights", say.Errorf("the right %q is not known", x)
		}
	}
	if err := CheckRest(r.Rest); err != nil {
		return "rest", err
	}
	return "", nil
}

// Area is a part of the plant. An area lies in its parent.
type Area struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Parent string `json:"parent,omitempty"`
	// Control says that one place at a time, a panel or a person at none, acts in the
	// area and in what lies in it.
	Control bool `json:"control,omitempty"`
}

// Grant gives a person a role in an area and all that lies in it; the empty
// area is the whole plant.
type Grant struct {
	Person string `json:"person" db:"person"`
	Role   string `json:"role" db:"role"`
	Area   string `json:"area" db:"area"`
	// Giver is the full name of who gave it, and Beyond are the rights, parted by commas,
	// that they did not have there themselves when they did; the server says both.
	Giver  string `json:"giver,omitempty" db:"giver"`
	Beyond string `json:"beyond,omitempty" db:"beyond"`
	// Directory says that a group of the company's directory gives it.
	Directory bool `json:"directory,omitempty" db:"directory"`
}

// Same tells whether two grants give the same.
func (g Grant) Same(o Grant) bool {
	return g.Person == o.Person && g.Role == o.Role && g.Area == o.Area
}

// Beyond are the rights of a role that somebody doesn't have in an area themselves.
func (p *Policy) Beyond(person, role, area string) []Right {
	var out []Right
	if r := p.Roles[role]; r != nil {
		for _, right := range r.Rights {
			if !p.May(person, right, area) {
				out = append(out, right)
			}
		}
	}
	return out
}

// Policy answers who may do what in one project.
type Policy struct {
	Roles  map[string]*Role
	Areas  []Area
	Grants []Grant
}

// deepest is how deep areas lie in each other at most; what goes round ends there.
const deepest = 32

// AreaPath is an area and those that it lies in, the nearest first.
func AreaPath(areas []Area, id string) []string {
	var out []string
	for id != "" && len(out) < deepest {
		out = append(out, id)
		next := ""
		for _, a := range areas {
			if a.ID == id {
				next = a.Parent
			}
		}
		id = next
	}
	return out
}

// within tells whether area lies in outer, or is it.
func (p *Policy) within(area, outer string) bool {
	return outer == "" || slices.Contains(AreaPath(p.Areas, area), outer)
}

// May tells whether a person has a right in an area. A right that is not about
// a place (Engineer, Release, People, Panels, Audit) is asked for the area "".
func (p *Policy) May(person string, right Right, area string) bool {
	for _, g := range p.Grants {
		if r := p.Roles[g.Role]; g.Person == person && r != nil && r.Has(right) && p.within(area, g.Area) {
			return true
		}
	}
	return false
}

// MayAnywhere tells whether a person has the right in any area at all.
func (p *Policy) MayAnywhere(person string, right Right) bool {
	for _, g := range p.Grants {
		if r := p.Roles[g.Role]; g.Person == person && r != nil && r.Has(right) {
			return true
		}
	}
	return false
}

// RolesWith names the roles that have a right, for refusals.
func (p *Policy) RolesWith(right Right) []string {
	var out []string
	for _, r := range p.Roles {
		if r.Has(right) {
			out = append(out, r.Name)
		}
	}
	sort.Strings(out)
	return out
}

// Denied is the refusal of a right.
type Denied struct {
	Right Right
	Area  string   // its name; empty for the whole plant
	Roles []string // roles that have the right
}

func (d *Denied) Error() string { return d.Say(say.English) }

// Say gives the refusal in a language.
func (d *Denied) Say(language string) string { return say.In(language, d.sentence()) }

func (d *Denied) sentence() error {
	why := say.Errorf("the right to %s is missing", d.Right.Does())
	if d.Area != "" {
		why = say.Errorf("%v in %s", why, d.Area)
	}
	if len(d.Roles) > 0 {
		why = say.Errorf("%v; it comes with the role %s", why, strings.Join(d.Roles, ", "))
	}
	return why
}

// Require returns a *Denied unless the person has the right in the area.
func (p *Policy) Require(person string, right Right, area string) error {
	if p.May(person, right, area) {
		return nil
	}
	d := &Denied{Right: right, Roles: p.RolesWith(right)}
	for _, a := range p.Areas {
		if a.ID == area {
			d.Area = a.Name
		}
	}
	return d
}
