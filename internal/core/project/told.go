package project

import (
	"encoding/json"
	"strings"
)

// mostTold bounds what is told of one thing.
const mostTold = 2000

// Told gives the fields that differ as people read them, with what they were or
// what they are: "limit 70; priority high". What is longer than 2,000 characters
// is cut, and ends so.
func (d *Difference) Told(before bool) string {
	var out strings.Builder
	for _, f := range d.Fields {
		value := f.After
		if before {
			value = f.Before
		}
		if value == nil {
			continue
		}
		if out.Len() > 0 {
			out.WriteString("; ")
		}
		if f.Path != "" {
			out.WriteString(strings.TrimPrefix(f.Path, "/") + " ")
		}
		var text string
		if json.Unmarshal(value, &text) != nil {
			text = string(value)
		}
		out.WriteString(text)
		if out.Len() > mostTold {
			break
		}
	}
	if all := []rune(out.String()); len(all) > mostTold {
		return string(all[:mostTold]) + " …"
	}
	return out.String()
}

// Stored are changes as the difference that they make to each thing, in the form
// that is stored, in the order in which the things were touched; the names are
// those that p has.
func (p *Project) Stored(changes []Change) []Difference {
	var out []Difference
	at := map[[2]string]int{}
	for _, c := range changes {
		key := [2]string{c.Kind, c.ID}
		i, seen := at[key]
		if !seen {
			i = len(out)
			at[key] = i
			d := Difference{Kind: c.Kind, ID: c.ID, Name: c.ID}
			if k := kindByName[c.Kind]; k != nil && k.called(p, c.ID) != "" {
				d.Name = k.called(p, c.ID)
			}
			out = append(out, d)
		}
		out[i].Fields = append(out[i].Fields, FieldDifference{c.Path, c.Before, c.After})
	}
	return out
}
