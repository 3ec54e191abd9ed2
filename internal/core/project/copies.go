package project

import (
	"encoding/json"
	"fmt"
	"strings"

	"readyrail/internal/core/device"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
)

// Copies makes copies of tags or of all that lies in a folder.
type Copies struct {
	Tags        []string `json:"tags,omitempty" maxItems:"20000" doc:"ids"`
	Folder      string   `json:"folder,omitempty" maxLength:"64" doc:"id; in place of tags"`
	Count       int      `json:"count" minimum:"1" maximum:"1000"`
	NameStep    int      `json:"nameStep,omitempty" doc:"added to the last number of a name with each copy; used where nothing is replaced"`
	AddressStep int      `json:"addressStep,omitempty" doc:"registers, with each copy; bits of registers stay the bits that they are"`
	BitStep     int      `json:"bitStep,omitempty" doc:"coils, discrete inputs and bits of registers, with each copy"`
	Find        string   `json:"find,omitempty" maxLength:"200" doc:"text in paths, addresses and descriptions"`
	Replace     string   `json:"replace,omitempty" maxLength:"200" doc:"what comes in its place; {n} is the number of the copy"`
	Device      string   `json:"device,omitempty" maxLength:"64" doc:"id of the device that the copies read"`
	Texts       bool     `json:"texts,omitempty" doc:"the number that changes in a name changes in descriptions and alarm texts too"`
	Alarms      bool     `json:"alarms,omitempty" doc:"the tags' own alarms are copied too"`
}

// PlanCopies says what the copies would be. References among what is copied
// follow: a formula in a copy names the copies beside it.
func (p *Project) PlanCopies(c Copies, newID func(string) string) ([]Planned, []Op, error) {
	var ids []string
	if c.Folder != "" {
		_, below := p.Below(c.Folder)
		c.Tags = SortedKeys(below)
	}
	chosen := map[string]bool{}
	for _, id := range c.Tags {
		chosen[id] = true
	}
	for _, id := range p.SortedTags() {
		if chosen[id] {
			ids = append(ids, id)
		}
	}
	switch {
	case len(ids) == 0:
		return nil, nil, say.New("there is nothing to copy")
	case len(ids)*c.Count > tag.MaxRanged:
		return nil, nil, say.Errorf("that would be %d tags; %d is the most at once", len(ids)*c.Count, tag.MaxRanged)
	case c.Find == "" && c.NameStep == 0:
		return nil, nil, say.New("say what to replace in the names, or by how much their number steps")
	case c.Device != "" && p.Devices[c.Device] == nil:
		return nil, nil, say.New("there is no such device")
	}
	plan := p.newPlan(newID)
	for n := 1; n <= c.Count; n++ {
		p.newCopy(plan, c, ids, n).make()
	}
	return plan.done()
}

// copying is one copy of the tags.
type copying struct {
	p       *Project
	plan    *plan
	c       Copies
	n       int
	ids     []string
	replace *strings.Replacer
	renamed map[string]string // paths of the copies by the ids of what they come from
}

func (p *Project) newCopy(plan *plan, c Copies, ids []string, n int) *copying {
	o := &copying{p: p, plan: plan, c: c, n: n, ids: ids, renamed: map[string]string{}}
	o.replace = strings.NewReplacer(c.Find, o.replacement())
	for _, id := range ids {
		path := p.paths.of[id]
		if c.Find != "" {
			o.renamed[id] = o.subst(path)
		} else {
			o.renamed[id], _ = tag.StepName(path, n*c.NameStep)
		}
	}
	return o
}

func (o *copying) replacement() string {
	return strings.ReplaceAll(o.c.Replace, "{n}", fmt.Sprint(o.n))
}

func (o *copying) subst(s string) string {
	if o.c.Find == "" {
		return s
	}
	return o.replace.Replace(s)
}

// words are a text of a tag or of one of its alarms in the copy: what is
// replaced in names is replaced in it, and the number that changes with them.
func (o *copying) words(id, text string) string {
	text = o.subst(text)
	if !o.c.Texts {
		return text
	}
	from, to := o.p.paths.of[id], o.renamed[id]
	if o.c.Find != "" {
		from, to = o.c.Find, o.replacement()
	}
	was, ok := tag.LastNumber(from)
	is, also := tag.LastNumber(to)
	if !ok || !also {
		return text
	}
	return tag.StepText(text, was, is)
}

// pathOf gives the path by which a copy refers to something.
func (o *copying) pathOf(id string) (string, bool) {
	if to, ok := o.renamed[id]; ok {
		return to, true
	}
	path, ok := o.p.wordPath(id)
	if to := o.subst(path); ok && to != path {
		if _, exists := o.p.FindPath(to); exists {
			return to, true
		}
	}
	return path, ok
}

func (o *copying) make() {
	for _, id := range o.ids {
		t := *o.p.Tags[id]
		path, problem := o.renamed[id], error(nil)
		if path == o.p.paths.of[id] {
			problem = say.New("the copy would have the same path")
		}
		t.Description, t.SourceName = o.words(id, t.Description), ""
		if t.Formula != "" {
			t.Formula = formula.Show(t.Formula, o.pathOf)
		}
		if o.c.Device != "" && t.Device != "" {
			t.Device = o.c.Device
		}
		if err := o.address(&t); err != nil {
			problem = err
		}
		if fresh := o.plan.add(path, t, o.p.paths.of[id], problem); fresh != "" && o.c.Alarms {
			o.alarms(id, fresh)
		}
	}
}

func (o *copying) address(t *tag.Tag) error {
	d := o.p.Devices[t.Device]
	if t.Source != tag.Device || d == nil {
		return nil
	}
	if d.Protocol != device.ModbusTCP {
		t.Address, t.WriteAddress = o.subst(t.Address), o.subst(t.WriteAddress)
	}
	for _, a := range []*string{&t.Address, &t.WriteAddress} {
		if *a == "" || o.c.AddressStep == 0 && o.c.BitStep == 0 {
			continue
		}
		next, err := d.Move(*a, t.Type, o.n*o.c.AddressStep, o.n*o.c.BitStep)
		if err != nil {
			return err
		}
		*a = next
	}
	return nil
}

// alarms copies the alarms that a tag has of its own; those of a type of
// equipment come with the type.
func (o *copying) alarms(id, fresh string) {
	for _, a := range o.p.AlarmsOf(id) {
		if _, made := o.p.GearAlarm(a.ID); made {
			continue
		}
		own, _, _ := a.Convert(
			func(f string) (string, error) { return formula.Show(f, o.pathOf), nil },
			func(t string) (string, error) { return formula.ShowTemplate(t, o.pathOf), nil })
		own.ID, own.Tag = o.plan.newID(KindAlarm), fresh
		for _, text := range own.Prose() {
			*text = outsideBraces(*text, func(s string) string { return o.words(id, s) })
		}
		doc, _ := json.Marshal(own)
		o.plan.ops = append(o.plan.ops, Op{Kind: KindAlarm, ID: own.ID, Value: doc})
		o.plan.list = append(o.plan.list, Planned{Path: o.renamed[id] + " · " + own.Name, From: o.p.paths.of[id] + " · " + a.Name,
			Text: own.Message})
	}
}

// outsideBraces changes the words of a template and leaves its formulas alone.
func outsideBraces(text string, change func(string) string) string {
	var b strings.Builder
	for text != "" {
		open := strings.IndexByte(text, '{')
		if open < 0 {
			open = len(text)
		}
		b.WriteString(change(text[:open]))
		text = text[open:]
		end := strings.IndexByte(text, '}') + 1
		b.WriteString(text[:end])
		if text = text[end:]; end == 0 && text != "" {
			b.WriteString(text)
			break
		}
	}
	return b.String()
}
