package project

import (
	"cmp"
	"slices"

	"readyrail/internal/core/access"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
)

// Asked is what is asked at a place, and by what.
type Asked struct {
	access.Asking
	By []AskedBy `json:"by"`
}

// AskedBy is one that asks: a rule, or the element or book itself where Rule is
// empty.
type AskedBy struct {
	Rule string        `json:"rule" doc:"its id; empty where the element or the book asks by itself"`
	Name string        `json:"name"`
	Asks access.Asking `json:"asks"`
}

// Itself is what is asked without the rules.
func (a Asked) Itself() Asked {
	out := Asked{By: slices.DeleteFunc(slices.Clone(a.By), func(by AskedBy) bool { return by.Rule != "" })}
	out.put()
	return out
}

// put puts together what each asks.
func (a *Asked) put() {
	each := make([]access.Asking, len(a.By))
	for i, x := range a.By {
		each[i] = x.Asks
	}
	a.Asking = access.Strictest(each...)
}

// RolesAt tells which roles who acts has in an area.
type RolesAt func(area string) []string

// asking gathers what is asked.
type asking struct {
	p     *Project
	rules []*access.Rule // those that have not asked yet
	by    []AskedBy
}

func (p *Project) asking() *asking {
	a := &asking{p: p}
	for _, id := range SortedKeys(p.Rules) {
		a.rules = append(a.rules, p.realRule(p.Rules[id]))
	}
	return a
}

// realRule is a rule with the ids that what it names of equipment has.
func (p *Project) realRule(r *access.Rule) *access.Rule {
	real := *r
	real.Tag, real.Folder = p.Real(r.Tag), p.Real(r.Folder)
	return &real
}

func (a *asking) itself(name string, asks access.Asking) {
	if asks.Any() {
		a.by = append(a.by, AskedBy{"", name, asks})
	}
}

// at adds what the rules ask at a place, each once.
func (a *asking) at(place access.Place) {
	a.rules = slices.DeleteFunc(a.rules, func(r *access.Rule) bool {
		asks := r.Asks()
		if !asks.Any() || !r.At(&place) {
			return false
		}
		a.by = append(a.by, AskedBy{r.ID, r.Name, asks})
		return true
	})
}

func (a *asking) all() Asked {
	out := Asked{By: a.by}
	if out.By == nil {
		out.By = []AskedBy{}
	}
	out.put()
	return out
}

// PlaceOf is where a tag is written, in an area; empty for the tag's own.
func (p *Project) PlaceOf(t *tag.Tag, does, area string) access.Place {
	out := access.Place{Does: does, Tag: t.ID, Areas: p.AreaPath(cmp.Or(area, p.AreaOf(t)))}
	for folder := t.Folder; folder != "" && len(out.Folders) < maxDepth; {
		f := p.Folders[folder]
		if f == nil {
			break
		}
		out.Folders = append(out.Folders, folder)
		if typ := p.TypeOf(folder); typ != "" {
			out.Types = append(out.Types, typ)
		}
		folder = f.Parent
	}
	return out
}

// AskedToWrite is what is asked before a tag is written.
func (p *Project) AskedToWrite(t *tag.Tag, roles []string) Asked {
	a := p.asking()
	place := p.PlaceOf(t, access.DoesWrite, "")
	place.Roles = roles
	a.at(place)
	return a.all()
}

// AskedByElement is what is asked before an element of a screen does what it
// does, the further steps of a button with it. A button that is held asks nothing:
// it acts while it is pressed.
func (p *Project) AskedByElement(e *screen.Element, area string, roles RolesAt) Asked {
	a := p.asking()
	if e.Action() == screen.ActionHold {
		return a.all()
	}
	a.itself(e.Label(), access.Asking{Confirm: e.Flag("confirm"), Reason: asks(e.Text("reason")), Sign: asks(e.Text("sign"))})
	writes := func(id string) {
		t, ok := p.Tag(id)
		if !ok {
			return
		}
		in := cmp.Or(p.AreaOf(t), area)
		place := p.PlaceOf(t, access.DoesWrite, in)
		place.Roles = roles(in)
		a.at(place)
	}
	if e.Writes() {
		writes(e.MainTag())
	}
	for _, step := range e.Then {
		if screen.ActionServed(step.Do) {
			writes(step.Tag)
		}
	}
	return a.all()
}

func asks(property string) string {
	if property == "none" {
		return ""
	}
	return property
}

// AskedToSend is what is asked before a recipe of a book is sent to a target.
func (p *Project) AskedToSend(b *recipe.Book, target string, roles RolesAt) Asked {
	a := p.asking()
	own := access.Asking{Confirm: b.Sending.Confirm}
	if b.Sending.Reason {
		own.Reason = access.ReasonRequired
	}
	if b.Sending.Sign {
		own.Sign = access.SignOwn
	}
	a.itself(b.Name, own)
	a.sending(b, target, roles)
	return a.all()
}

// sending adds what the rules ask of sending, and at each tag that is sent to.
func (a *asking) sending(b *recipe.Book, target string, roles RolesAt) {
	p := a.p
	area := p.TargetArea(b, target)
	has := roles(area)
	a.at(access.Place{Does: access.DoesDeliver, Book: b.ID, Areas: p.AreaPath(area), Roles: has})
	for i := range b.Fields {
		if t := p.BookTag(&b.Fields[i], target); t != nil {
			place := p.PlaceOf(t, access.DoesDeliver, cmp.Or(p.AreaOf(t), area))
			place.Book, place.Roles = b.ID, has
			a.at(place)
		}
	}
}

// Applies counts the tags that may be written, and the books, at which a rule
// asks, whoever acts; it ends at so many, 0 for all.
func (p *Project) Applies(r *access.Rule, most int) (n int) {
	anybody := p.realRule(r)
	anybody.Role, anybody.Confirm = "", true // it asks something
	if r.Does != access.DoesDeliver && r.Book == "" {
		for _, t := range p.Tags {
			if n == most && most > 0 {
				return n
			}
			if place := p.PlaceOf(t, access.DoesWrite, ""); t.Writable() && anybody.At(&place) {
				n++
			}
		}
	}
	if r.Does == access.DoesWrite {
		return n
	}
	for _, b := range p.Books {
		for _, target := range p.BookTargets(b) {
			a := &asking{p: p, rules: []*access.Rule{anybody}}
			if a.sending(b, target, func(string) []string { return nil }); len(a.by) > 0 {
				n++
				break
			}
		}
	}
	return n
}
