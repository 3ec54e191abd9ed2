package project

import "strings"

// Hit is something that the finder found.
type Hit struct {
	Kind string `json:"kind" enum:"alarm,tag,screen,device,type,equipment,stop,book,view,log,recipe,span"`
	ID   string `json:"id"`
	Name string `json:"name"`
	Note string `json:"note"`
	// In is the id of what has it: the book of a recipe, the log of a span. Both are
	// of the plant and not of a version.
	In string `json:"in,omitempty"`
}

func (k *kindOf[T]) found(p *Project, has func(text string) bool, most int) []Hit {
	if k.note == nil {
		return nil
	}
	var ids []string
	if k.find != nil {
		ids = k.find(p, has, most)
	} else {
		for _, id := range k.ids(p) {
			t := k.things(p)[id]
			if len(ids) < most && has(strings.ToLower(k.name(p, id, t)+"\n"+k.note(t))) {
				ids = append(ids, id)
			}
		}
	}
	out := make([]Hit, len(ids))
	for i, id := range ids {
		t := k.things(p)[id]
		out[i] = Hit{Kind: k.Name, ID: id, Name: k.name(p, id, t), Note: k.note(t)}
	}
	return out
}

// Find lists at most so many things whose name or description has a text. has
// is asked with lower case. Each kind has its share of the list, so that many
// tags hide no device; what one does not use goes to the others.
func (p *Project) Find(has func(text string) bool, most int) []Hit {
	found := make([][]Hit, len(kinds))
	for i, k := range kinds {
		found[i] = k.found(p, has, most)
	}
	take := make([]int, len(kinds))
	for free, gave := most, true; free > 0 && gave; {
		gave = false
		for i := range kinds {
			if free > 0 && take[i] < len(found[i]) {
				take[i]++
				free--
				gave = true
			}
		}
	}
	out := []Hit{}
	for i := range kinds {
		out = append(out, found[i][:take[i]]...)
	}
	return out
}
