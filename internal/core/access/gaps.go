package access

import (
	"slices"
	"strings"
)

// Gap is something about who has which rights that whoever runs the plant should
// know of.
type Gap struct {
	Kind   GapKind
	Rights []Right // of GapNobody
	Area   string  // of GapArea, by id; empty for the whole plant
	Person string  // of GapEverything and GapBeyond, by id
	Giver  string  // of GapBeyond, the full name
}

// GapKind tells gaps apart.
type GapKind string

// The gaps.
const (
	GapNobody     GapKind = "nobody"     // nobody but the owner has rights that running the plant takes
	GapArea       GapKind = "area"       // nobody may acknowledge the alarms of an area
	GapEverything GapKind = "everything" // a person has every right everywhere, and is not the owner
	GapBeyond     GapKind = "beyond"     // a person was given rights that who gave them did not have
)

// Gaps finds what is amiss with who has which rights. people are those that may sign
// in and are not the owner; alarmed are the areas that alarms lie in. While none of
// them has a role yet there is nothing to say.
func (p *Policy) Gaps(people, alarmed []string) []Gap {
	given := false
	for _, id := range people {
		given = given || len(p.RolesAnywhere(id)) > 0
	}
	if !given {
		return nil
	}
	var out []Gap
	var missing []Right
	for _, info := range Rights {
		if info.Right == Control && !p.asksForControl() {
			continue
		}
		if AtTheDesk(info.Right) && !p.somebody(people, func(id string) bool { return p.MayAnywhere(id, info.Right) }) {
			missing = append(missing, info.Right)
		}
	}
	if len(missing) > 0 {
		out = append(out, Gap{Kind: GapNobody, Rights: missing})
	}
	acknowledged := !slices.Contains(missing, Acknowledge)
	for _, area := range alarmed {
		if acknowledged && !p.somebody(people, func(id string) bool { return p.May(id, Acknowledge, area) }) {
			out = append(out, Gap{Kind: GapArea, Area: area})
		}
	}
	for _, id := range people {
		if p.everything(id) {
			out = append(out, Gap{Kind: GapEverything, Person: id})
		}
	}
	for _, g := range p.Grants {
		if g.Beyond == "" || !slices.Contains(people, g.Person) {
			continue
		}
		var rights []Right
		for right := range strings.SplitSeq(g.Beyond, ",") {
			if r := p.Roles[g.Role]; r != nil && r.Has(Right(right)) {
				rights = append(rights, Right(right))
			}
		}
		if len(rights) > 0 {
			out = append(out, Gap{Kind: GapBeyond, Person: g.Person, Giver: g.Giver, Rights: rights})
		}
	}
	return out
}

func (p *Policy) somebody(people []string, may func(id string) bool) bool {
	for _, id := range people {
		if may(id) {
			return true
		}
	}
	return false
}

func (p *Policy) everything(person string) bool {
	for _, info := range Rights {
		if !p.May(person, info.Right, "") {
			return false
		}
	}
	return true
}

// RolesAnywhere lists the roles that a person has in any area, by id.
func (p *Policy) RolesAnywhere(person string) []string {
	var out []string
	for _, g := range p.Grants {
		if g.Person == person && p.Roles[g.Role] != nil {
			out = append(out, g.Role)
		}
	}
	return out
}
