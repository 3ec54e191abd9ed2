package project

import (
	"cmp"
	"slices"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
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
	real.Capture = make([]string, len(r.Capture))
	for i, id := range r.Capture {
		real.Capture[i] = p.Real(id)
	}
	return &real
}

func (a *asking) itself(name string, asks access.Asking) {
	if asks.Some() {
		a.by = append(a.by, AskedBy{"", name, asks})
	}
}

// at adds what the rules ask at a place, each once.
func (a *asking) at(place access.Place) {
	a.rules = slices.DeleteFunc(a.rules, func(r *access.Rule) bool {
		asks := r.Asks()
		if !asks.Some() || !r.At(&place) {
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

// AskedAt is what is asked before an act is done at a tag: to write it, to hold
// it at a value, to change the limit of an alarm of it or to shelve that. The area
// is that of the alarm, or empty for the tag's own.
func (p *Project) AskedAt(t *tag.Tag, does, area string, roles RolesAt) Asked {
	a := p.asking()
	if does != access.DoesWrite {
		path, _ := p.Path(t.ID)
		a.itself(path, access.Asking{Reason: access.ReasonRequired})
	}
	a.at(p.placed(t, does, area, roles))
	return a.all()
}

// placed is a place for who has roles there.
func (p *Project) placed(t *tag.Tag, does, area string, roles RolesAt) access.Place {
	place := p.PlaceOf(t, does, area)
	place.Roles = roles(cmp.Or(area, p.AreaOf(t)))
	return place
}

// AskedOfAlarm is what is asked before the limit of an alarm is changed, or
// before it is shelved.
func (p *Project) AskedOfAlarm(x *alarm.Alarm, does string, roles RolesAt) Asked {
	t, ok := p.Tag(x.Tag)
	if !ok {
		t = &tag.Tag{} // its signal is no tag: the area alone says where it is
	}
	asked := p.AskedAt(t, does, p.AlarmArea(x), roles)
	if len(asked.By) > 0 {
		asked.By[0].Name = p.AlarmName(x) // what asks by itself
	}
	return asked
}

// Together is what is asked where several places are acted on at once.
func Together(all ...Asked) Asked {
	out := Asked{By: []AskedBy{}}
	seen := map[string]bool{}
	for _, x := range all {
		for _, by := range x.By {
			if key := by.Rule + "/" + by.Name; !seen[key] {
				seen[key] = true
				out.By = append(out.By, by)
			}
		}
	}
	out.put()
	return out
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
		a.at(p.placed(t, access.DoesWrite, cmp.Or(p.AreaOf(t), area), roles))
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
	a.book(b, access.DoesDeliver, target, roles)
	return a.all()
}

// AskedToApprove is what is asked before a version of a recipe is approved: what
// the rules ask of any target that the recipe may be sent to.
func (p *Project) AskedToApprove(b *recipe.Book, roles RolesAt) Asked {
	a := p.asking()
	a.targets(b, access.DoesApprove, roles)
	return a.all()
}

// targets adds what the rules ask of any target of a book.
func (a *asking) targets(b *recipe.Book, does string, roles RolesAt) {
	targets := a.p.BookTargets(b)
	if len(targets) == 0 {
		a.at(access.Place{Does: does, Book: b.ID, Roles: roles("")})
	}
	for _, target := range targets {
		a.book(b, does, target, roles)
	}
}

// book adds what the rules ask of sending or approving, and at each tag that is
// sent to.
func (a *asking) book(b *recipe.Book, does, target string, roles RolesAt) {
	p := a.p
	area := p.TargetArea(b, target)
	has := roles(area)
	a.at(access.Place{Does: does, Book: b.ID, Areas: p.AreaPath(area), Roles: has})
	for i := range b.Fields {
		if t := p.BookTag(&b.Fields[i], target); t != nil {
			place := p.PlaceOf(t, does, cmp.Or(p.AreaOf(t), area))
			place.Book, place.Roles = b.ID, has
			a.at(place)
		}
	}
}

// Applies counts the tags, the alarms and the books at which a rule asks, whoever
// acts; it ends at so many, 0 for all.
func (p *Project) Applies(r *access.Rule, most int) (n int) {
	anybody := p.realRule(r)
	anybody.Role, anybody.Confirm = "", true // it asks something
	at := func(t *tag.Tag, area string) bool {
		place := p.PlaceOf(t, r.Does, area)
		return anybody.At(&place)
	}
	count := func(is bool) (enough bool) {
		if is {
			n++
		}
		return n == most && most > 0
	}
	if r.Book == "" && slices.Contains([]string{"", access.DoesWrite, access.DoesHold}, r.Does) {
		for _, t := range p.Tags {
			if count((r.Does != access.DoesWrite || t.Writable()) && at(t, "")) {
				return n
			}
		}
	}
	if r.Book == "" && slices.Contains([]string{"", access.DoesLimit, access.DoesShelve}, r.Does) {
		for _, x := range p.Alarms {
			t, ok := p.Tag(x.Tag)
			_, limited := AdjustableLimit(x)
			if count(ok && (r.Does != access.DoesLimit || limited) && at(t, p.AlarmArea(x))) {
				return n
			}
		}
	}
	for _, b := range p.Books {
		a := &asking{p: p, rules: []*access.Rule{anybody}}
		for _, does := range []string{access.DoesDeliver, access.DoesApprove} {
			a.targets(b, does, func(string) []string { return nil })
		}
		if count(len(a.by) > 0) {
			return n
		}
	}
	return n
}
