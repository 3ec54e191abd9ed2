package record

import (
	"reflect"
	"slices"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// logPlan is a log as it is to be kept now.
type logPlan struct {
	log   *history.Log
	tags  []logTag
	cuts  []logCut
	holds *Condition // nil where it has none
	rises *Condition
	spans *Condition
	// broken says that its condition is no formula: whether it is to be at work
	// cannot be told.
	broken bool
}

// logTag is one that is kept, with the move that is not worth keeping.
type logTag struct {
	id   string
	kind value.Kind
	band float64
}

// logCut is a tag that cuts a log into spans, of some equipment or none; name is
// what the span is called during a value, empty for no span.
type logCut struct {
	tag  string
	of   string
	name func(v value.Value) string
}

// planLogs says what the logs of a version are to do. What is no formula is left
// out: the check of the project has it as an error.
func planLogs(p *project.Project) []logPlan {
	out := make([]logPlan, 0, len(p.Logs))
	for _, id := range project.SortedKeys(p.Logs) {
		l := p.Logs[id]
		plan := logPlan{log: l}
		for _, tag := range p.LogTags(l) {
			plan.tags = append(plan.tags, logTag{tag, p.Tags[tag].Kind(), p.LogBand(l, tag)})
		}
		plan.tags = plan.tags[:min(len(plan.tags), history.MostLogTags)]
		for _, c := range p.Cuts(l) {
			t := p.Tags[c.Tag]
			plan.cuts = append(plan.cuts, logCut{c.Tag, c.Of, func(v value.Value) string {
				if v.Kind != value.STRING && v.Float() == 0 {
					return ""
				}
				return t.Show(v, false)
			}})
		}
		for place, text := range l.Formulas() {
			c, err := ConditionOf(p, *text)
			if err != nil {
				plan.broken = plan.broken || place == "/while/holds"
				continue
			}
			switch place {
			case "/while/holds":
				plan.holds = c
			case "/how/rises":
				plan.rises = c
			default:
				plan.spans = c
			}
		}
		out = append(out, plan)
	}
	return out
}

// same tells whether a plan has a log do what another one has it do.
func (p *logPlan) same(q *logPlan) bool {
	return reflect.DeepEqual(p.log, q.log) && p.broken == q.broken && slices.Equal(p.tags, q.tags) && p.holds.same(q.holds) &&
		p.rises.same(q.rises) && p.spans.same(q.spans) &&
		slices.EqualFunc(p.cuts, q.cuts, func(a, b logCut) bool { return a.tag == b.tag && a.of == b.of })
}

// same tells whether two conditions of one text mean the same.
func (c *Condition) same(d *Condition) bool {
	if c == nil || d == nil {
		return c == d
	}
	return slices.Equal(c.Tags, d.Tags) && slices.Equal(c.Kinds, d.Kinds)
}

// ConditionOf compiles a condition in stored form. The error is a *formula.Error,
// or says that it is no condition.
func ConditionOf(p *project.Project, stored string) (*Condition, error) {
	c := &Condition{}
	slots := map[string]int32{}
	var err error
	scope := formula.Scope{Path: p.Path, Tag: func(id string) (int32, value.Kind, bool) {
		t, ok := p.Tag(id)
		if !ok {
			return 0, 0, false
		}
		slot, known := slots[t.ID]
		if !known {
			slot = int32(len(c.Tags))
			slots[t.ID] = slot
			c.Tags, c.Kinds = append(c.Tags, t.ID), append(c.Kinds, t.Kind())
		}
		return slot, t.Kind(), true
	}}
	c.Program, err = formula.Compile(stored, scope)
	switch {
	case err != nil:
		return nil, err
	case c.Program.Kind() != value.BOOL:
		return nil, say.Errorf("a condition is true or false, such as DryBulb > 80; this gives %s", c.Program.Kind())
	case len(c.Tags) == 0:
		return nil, say.Errorf("a condition names at least one tag")
	}
	c.Bounds, err = formula.BoundsOf(stored, scope)
	return c, err
}
