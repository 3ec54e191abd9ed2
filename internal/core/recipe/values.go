package recipe

import (
	"maps"
	"math"
	"strconv"

	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Tidy reads what was given for the fields of a book and returns it as it is
// kept: by the ids of fields that are there and not computed, each in one form.
// What cannot be read is refused with the field.
func (b *Book) Tidy(given Values) (Values, error) {
	out := make(Values, len(given))
	for i := range b.Fields {
		f := &b.Fields[i]
		text, ok := given[f.ID]
		if !ok || f.Formula != "" {
			continue
		}
		v, err := f.Parse(text)
		if err != nil {
			return nil, say.Errorf("%s: %w", f.Called(), err)
		}
		out[f.ID] = v.Text()
	}
	for _, id := range b.strangers(given) {
		return nil, say.Errorf("the book %s has no field %s", b.Name, id)
	}
	return out, nil
}

// strangers are the ids of values that are of no field of the book.
func (b *Book) strangers(values Values) (ids []string) {
	own := 0
	for i := range b.Fields {
		if _, ok := values[b.Fields[i].ID]; ok {
			own++
		}
	}
	if own == len(values) {
		return nil
	}
	for id := range values {
		if _, ok := b.FindField(id); !ok {
			ids = append(ids, id)
		}
	}
	return ids
}

// Defaults are the values that a new recipe begins with.
func (b *Book) Defaults() Values {
	out := Values{}
	for i := range b.Fields {
		f := &b.Fields[i]
		if f.Default == "" || f.Formula != "" {
			continue
		}
		if v, err := f.Parse(f.Default); err == nil {
			out[f.ID] = v.Text()
		}
	}
	return out
}

// Change is what carrying over does to one field.
type Change string

// The changes.
const (
	Added     Change = "added"     // it is new and has its default
	Converted Change = "converted" // its value is the same in another type
	Unfit     Change = "unfit"     // its value does not fit its type, and stays as it was until somebody mends it
	Aside     Change = "aside"     // the book has it no more; its value is kept
)

// Carried is one change.
type Carried struct {
	Field string `json:"field"`
	What  Change `json:"what"`
	Old   string `json:"old"`
	New   string `json:"new"`
}

// Carry turns the values of a recipe that was written for an earlier book into
// those that it has in this one. Nothing is lost: what the book has no field for
// stays in kept, and is there again where the book has the field again.
func (b *Book) Carry(kept Values) (now Values, changes []Carried) {
	now = Values{}
	for i := range b.Fields {
		f := &b.Fields[i]
		if f.Formula != "" {
			continue
		}
		old, had := kept[f.ID]
		if !had && f.Default == "" && f.Type.Kind == value.STRING {
			now[f.ID] = "" // a text that was not given is an empty one
			continue
		}
		if !had {
			if f.Default != "" {
				if v, err := f.Parse(f.Default); err == nil {
					now[f.ID] = v.Text()
				}
			}
			changes = append(changes, Carried{f.ID, Added, "", now[f.ID]})
			continue
		}
		v, err := f.convert(old)
		if err != nil {
			now[f.ID] = old
			changes = append(changes, Carried{f.ID, Unfit, old, ""})
			continue
		}
		if now[f.ID] = v.Text(); now[f.ID] != old {
			changes = append(changes, Carried{f.ID, Converted, old, now[f.ID]})
		}
	}
	for _, id := range b.strangers(kept) {
		changes = append(changes, Carried{id, Aside, kept[id], ""})
	}
	return now, changes
}

// convert reads what was kept for another type: a whole number that was kept as
// a decimal one is taken, one with a fraction is not.
func (f *Field) convert(old string) (value.Value, error) {
	v, err := f.Parse(old)
	if err == nil || !f.Type.Kind.IsInteger() {
		return v, err
	}
	x, wrong := strconv.ParseFloat(old, 64)
	if wrong != nil || x != math.Trunc(x) {
		return v, err
	}
	return value.FromFloat(f.Type.Kind, x)
}

// Alters tells whether carrying over altered anything that is sent or read: a
// field that is gone does not.
func Alters(changes []Carried) bool {
	for _, c := range changes {
		if c.What != Aside {
			return true
		}
	}
	return false
}

// Merge is what is kept of a recipe after an edit: the new values, and those of
// fields that the book does not have now.
func (b *Book) Merge(kept, edited Values) Values {
	out := maps.Clone(edited)
	for _, id := range b.strangers(kept) {
		out[id] = kept[id]
	}
	return out
}

// Scale returns the values for a quantity: those of fields that scale times
// what it is of the book's own, rounded to what the field can hold and shows.
func (b *Book) Scale(values Values, quantity float64) (Values, error) {
	q := b.Quantity
	switch {
	case q == nil:
		return nil, say.Errorf("the book %s has no quantity", b.Name)
	case !(quantity >= q.Low && quantity <= q.High):
		return nil, say.Errorf("%s is %v to %v %s", q.Name, q.Low, q.High, q.Unit)
	}
	out := maps.Clone(values)
	for i := range b.Fields {
		f := &b.Fields[i]
		text, ok := values[f.ID]
		if !f.Scales || !ok {
			continue
		}
		v, err := f.Parse(text)
		if err != nil {
			return nil, say.Errorf("%s: %w", f.Called(), err)
		}
		x := v.Float() * quantity / q.Base
		if f.Step > 0 {
			x = math.Round(x/f.Step) * f.Step
		}
		if f.Decimals != nil {
			p := math.Pow10(*f.Decimals)
			x = math.Round(x*p) / p
		}
		if v, err = value.FromFloat(f.Type.Kind, x); err != nil {
			return nil, say.Errorf("%s: %w", f.Called(), err)
		}
		out[f.ID] = v.Text()
	}
	return out, nil
}

// Differ lists the ids of the fields in which two recipes differ, in the book's
// order.
func (b *Book) Differ(one, other Values) []string {
	out := []string{}
	for i := range b.Fields {
		f := &b.Fields[i]
		if one[f.ID] != other[f.ID] {
			out = append(out, f.ID)
		}
	}
	return out
}

// Order lists the numbers of the fields that go anywhere, in the order in which
// they are written; ends are where a turn ends.
func (b *Book) Order() (fields []int, ends []int) {
	for _, turn := range []Turn{First, Among, Last} {
		for i := range b.Fields {
			if b.Fields[i].Goes() && b.Fields[i].Turn == turn {
				fields = append(fields, i)
			}
		}
		if n := len(fields); n > 0 && (len(ends) == 0 || ends[len(ends)-1] != n) {
			ends = append(ends, n)
		}
	}
	return fields, ends
}
