package store

import (
	"context"
	"encoding/json"
	"slices"

	"readyrail/internal/core/audit"
)

// TrailFilter says which records of the trail are looked for; what is empty takes
// all. Before is the number to go on before, 0 for the newest. From and To bound the
// time, in nanoseconds since 1970. Tag is an id: the record of one tag, whatever it
// was called. Path is one, or a pattern in which * stands for anything. Outcomes has
// an empty one for writes that are under way. Text is looked for in names, paths,
// panels, screens, elements, values and reasons.
type TrailFilter struct {
	Before, From, To int64
	Tag, Path        string
	Within           *TrailPlace // nil for everywhere
	Person           string      // part of the name
	Whats, Outcomes  []string
	Reason           Given
	Text             string
}

// TrailPlace is a part of the plant: a record is within it by its tag, or, where it has
// none, by what it names in a path's place.
type TrailPlace struct {
	Tags  []string // ids
	Names []string
}

// clause is the condition of a place. Its ids go as one text: there may be more than a
// query takes marks.
func (p *TrailPlace) clause(c *clauses) {
	list := func(of []string) string {
		text, _ := json.Marshal(of) // texts always can be
		return string(text)
	}
	c.and("(r.tag <> '' AND r.tag IN (SELECT value FROM json_each(?)) OR r.tag = '' AND r.path IN (SELECT value FROM json_each(?)))",
		list(p.Tags), list(p.Names))
}

// Given is whether something is there.
type Given string

// The empty one does not ask.
const (
	IsGiven  Given = "given"
	NotGiven Given = "none"
)

// trailWindow is how many records are looked through for one page where no index
// leads to what is wanted.
const trailWindow = 30_000

// List returns a page of the trail, newest first, outcomes folded into their
// intents. next is where it goes on, as the filter's Before, 0 at the end; a page may
// hold fewer records than there are, as one call looks through so many and no more.
func (a *Audit) List(ctx context.Context, f TrailFilter, limit int) (list []audit.Record, next int64, err error) {
	low, before, err := a.span(ctx, f)
	if err != nil || before <= low {
		return []audit.Record{}, 0, err
	}
	from := low
	if f.Tag != "" { // its own records are found by an index
		list, err = a.page(ctx, f, low, before, limit)
	} else {
		from = max(low, before-trailWindow)
		list, err = backwards(ctx, from, before, f.part(), limit, func(from, before int64, limit int) ([]audit.Record, error) {
			return a.page(ctx, f, from, before, limit)
		})
	}
	switch {
	case err != nil:
		return nil, 0, err
	case len(list) == limit && list[limit-1].Seq > low:
		next = list[limit-1].Seq
	case len(list) < limit && from > low:
		next = from
	}
	return list, next, nil
}

// part is how many records are looked through at a time: few where most are taken.
func (f *TrailFilter) part() int64 {
	if f.Path == "" && f.Within == nil && f.Person == "" && f.Text == "" && f.Reason == "" && len(f.Whats)+len(f.Outcomes) == 0 {
		return chunk
	}
	return look
}

// span are the numbers [low, before) of a filter's time.
func (a *Audit) span(ctx context.Context, f TrailFilter) (low, before int64, err error) {
	a.mu.Lock()
	before = a.seq + 1
	a.mu.Unlock()
	if f.Before > 0 {
		before = min(before, f.Before)
	}
	base := a.base.Load() + 1
	low = base
	// A clock that was set leaves times that are not in the order of the numbers, by
	// little: those beside an end are looked at, and judged by their own time.
	const first = "SELECT coalesce(min(seq), 0) FROM (SELECT seq FROM record WHERE at >= ? ORDER BY at LIMIT 1000)"
	if f.From > 0 {
		if err := a.db.GetContext(ctx, &low, first, f.From); err != nil || low == 0 {
			return 0, 0, err
		}
		low = max(low, base)
	}
	if f.To > 0 {
		newest := int64(0)
		const last = "SELECT coalesce(max(seq), 0) FROM (SELECT seq FROM record WHERE at < ? ORDER BY at DESC LIMIT 1000)"
		if err := a.db.GetContext(ctx, &newest, last, f.To); err != nil {
			return 0, 0, err
		}
		before = min(before, newest+1)
	}
	return low, before, nil
}

// clauses are the conditions of a filter within the numbers [low, before).
func (f *TrailFilter) clauses(low, before int64) *clauses {
	c := &clauses{}
	c.and("r.what <> 'outcome'")
	c.and("r.seq >= ? AND r.seq < ?", low, before)
	if f.From > 0 {
		c.and("+r.at >= ?", f.From)
	}
	if f.To > 0 {
		c.and("+r.at < ?", f.To)
	}
	if f.Tag != "" {
		c.and("r.tag <> '' AND r.tag = ?", f.Tag) // the index has those with a tag
	}
	c.like("r.path", f.Path)
	if f.Within != nil {
		f.Within.clause(c)
	}
	c.has(f.Person, "r.name")
	in(c, "r.what", f.Whats)
	in(c, "coalesce(o.outcome, r.outcome)", f.Outcomes)
	if slices.Contains(f.Outcomes, "") {
		c.and("(r.what = 'intent' OR coalesce(o.outcome, r.outcome) <> '')") // nothing else is under way
	}
	switch f.Reason {
	case IsGiven:
		c.and("r.reason <> ''")
	case NotGiven:
		c.and("r.reason = ''")
	}
	c.has(f.Text, "r.path", "r.name", "r.panel", "r.screen", "r.element", "r.old", "r.new", "r.reason", "r.sign", "r.captured")
	return c
}

// page returns the newest records of a filter within [low, before).
func (a *Audit) page(ctx context.Context, f TrailFilter, low, before int64, limit int) ([]audit.Record, error) {
	c := f.clauses(low, before)
	out := []audit.Record{}
	return out, a.db.SelectContext(ctx, &out, `SELECT r.seq, r.at, r.what, r.person, r.name, r.panel, r.screen, r.element, r.tag, r.path,
		r.old, r.new, coalesce(o.outcome, r.outcome) AS outcome,
		CASE WHEN coalesce(o.reason, '') = '' THEN r.reason WHEN r.reason = '' THEN o.reason ELSE r.reason || ' · ' || o.reason END AS reason,
		r.sign, r.captured, r.intent, r.key, r.hash
		FROM record r LEFT JOIN record o ON o.intent = r.seq AND o.intent > 0 AND o.what = 'outcome' AND r.what = 'intent'
		WHERE `+c.String()+` ORDER BY r.seq DESC LIMIT ?`, append(c.args, limit)...)
}

// Edits lists the newest records of edits from before a number, newest first.
func (a *Audit) Edits(ctx context.Context, before int64, most int) ([]audit.Record, error) {
	out := []audit.Record{}
	return out, a.db.SelectContext(ctx, &out, "SELECT * FROM record WHERE what = 'edit' AND seq < ? ORDER BY seq DESC LIMIT ?", before, most)
}

// CommentsOn lists what was said of a record, oldest first.
func (a *Audit) CommentsOn(ctx context.Context, seq int64) ([]audit.Record, error) {
	out := []audit.Record{}
	return out, a.db.SelectContext(ctx, &out, "SELECT * FROM record WHERE intent = ? AND intent > 0 AND what = 'comment' ORDER BY seq", seq)
}

// Has tells whether the trail has a record of a number that a person may say
// something of.
func (a *Audit) Has(ctx context.Context, seq int64) (bool, error) {
	n := 0
	err := a.db.GetContext(ctx, &n, "SELECT count(*) FROM record WHERE seq = ? AND what NOT IN ('outcome', 'comment')", seq)
	return n > 0, err
}
