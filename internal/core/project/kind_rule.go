package project

import (
	"slices"

	"readyrail/internal/core/access"
)

// KindRule are the rules of what a write asks.
const KindRule = "rule"

var ruleKind = &kindOf[access.Rule]{
	ThingKind: ThingKind{Name: KindRule, Stop: StopPeople, Opens: true},
	of:        func(p *Project) *map[string]*access.Rule { return &p.Rules },
	read: func(_ *Project, id string, r *access.Rule, _ bool) (*access.Rule, error) {
		r.ID = id
		field, err := r.Check()
		return r, at("/"+field, err)
	},
	name: func(_ *Project, _ string, r *access.Rule) string { return r.Name },
	note: func(r *access.Rule) string { return r.Note },
	refers: func(_ *Project, r *access.Rule, say func(target, place, within string)) {
		say(r.Area, "/area", "")
		say(r.Folder, "/folder", "")
		say(r.Type, "/type", "")
		say(r.Tag, "/tag", "")
		say(r.Book, "/book", "")
		say(r.Role, "/role", "")
		say(r.By, "/by", "")
		for _, id := range r.Capture {
			say(id, "/capture", "")
		}
	},
	texts: func(_ *Project, _ string, r *access.Rule, say sayText) {
		for _, x := range r.Reasons {
			say(x, r.Name)
		}
		say(r.Meaning, r.Name)
	},
	check: func(c *checker) {
		for _, id := range SortedKeys(c.p.Rules) {
			c.rule(c.p.Rules[id])
		}
	},
}

// rule checks one rule. One that names what there is no more applies nowhere, so
// that less is asked than was meant: that is an error.
func (c *checker) rule(r *access.Rule) {
	say := func(rule string, severity Severity, place string, args ...any) {
		c.add(rule, severity, KindRule, r.ID, place, r.Name, args...)
	}
	gone := false
	there := func(place string, named string, is bool) {
		if named != "" && !is {
			gone = true
			say("rule.gone", Error, place)
		}
	}
	p := c.p
	there("/area", r.Area, p.HasArea(r.Area))
	there("/folder", r.Folder, p.Folders[p.Real(r.Folder)] != nil)
	there("/type", r.Type, p.Types[r.Type] != nil)
	there("/tag", r.Tag, p.Tags[p.Real(r.Tag)] != nil)
	there("/book", r.Book, p.Books[r.Book] != nil)
	there("/role", r.Role, p.Roles[r.Role] != nil)
	there("/by", r.By, p.Roles[r.By] != nil)
	if gone {
		return
	}
	for _, id := range r.Capture {
		if p.Tags[p.Real(id)] == nil {
			say("rule.capture", Warning, "/capture")
		}
	}
	asks := r.Asks()
	if !asks.Some() {
		say("rule.nothing", Warning, "/reason")
		return
	}
	if !access.OfBook(r.Does) && r.Book != "" {
		say("rule.book", Warning, "/book")
	}
	if p.Applies(r, 1) == 0 {
		say("rule.nowhere", Warning, "/area")
	}
	acts := access.Acts
	if r.Does != "" {
		acts = []string{r.Does}
	}
	may := func(does string) bool { return p.Roles[r.By].Has(access.RightTo(does)) }
	if len(asks.Roles) > 0 && !slices.ContainsFunc(acts, may) {
		say("rule.second", Warning, "/by", "role", p.Roles[r.By].Name)
	}
}
