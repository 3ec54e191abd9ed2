// Package bench measures the product beside limits that are measured in the
// same run, so that a figure says something on any machine.
package bench

import (
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"text/tabwriter"
)

// Figure is one measured value beside its limit.
type Figure struct {
	Name  string  `json:"name"`
	Value float64 `json:"value"`
	Unit  string  `json:"unit"`
	Limit float64 `json:"limit"` // what it is held against, same unit; 0 for none
	Ratio float64 `json:"ratio"` // value to limit; 0 for none
	Goal  string  `json:"goal"`
	Met   bool    `json:"met"`
}

// ratio makes a figure whose goal is at most a multiple of its limit.
func ratio(name, unit string, value, limit, atMost float64) Figure {
	r := value / limit
	return Figure{name, value, unit, limit, r, fmt.Sprintf("≤ %g×", atMost), r <= atMost}
}

// below makes a figure that has a greatest value of its own.
func below(name, unit string, value, atMost float64) Figure {
	return Figure{Name: name, Value: value, Unit: unit, Goal: fmt.Sprintf("≤ %g %s", atMost, unit), Met: value <= atMost}
}

// above makes a figure that has a smallest value of its own.
func above(name, unit string, value, atLeast float64) Figure {
	return Figure{Name: name, Value: value, Unit: unit, Goal: fmt.Sprintf("≥ %g %s", atLeast, unit), Met: value >= atLeast}
}

type bench struct {
	name string
	run  func() ([]Figure, error)
}

var benches = []bench{{"formula", formulas}, {"engine", engines}, {"alarms", alarms}, {"edit", edits}, {"poll", polls},
	{"scene", scenes}, {"open", opens}, {"import", imports}, {"door", doors}, {"trail", trails}, {"log", logs},
	{"recorder", recorders}, {"trend", trends},
	{"find", finds}, {"replay", replays}, {"recipe", recipes}, {"versions", versions}, {"backup", backups}}

// Names are those of the benches, in the order in which they run.
func Names() (out []string) {
	for _, b := range benches {
		out = append(out, b.name)
	}
	return out
}

// Run measures one bench, or all where name is empty, and prints each figure.
func Run(w io.Writer, name string, asJSON bool) error {
	t := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	if !asJSON {
		fmt.Fprintln(t, "figure\tvalue\tlimit\tratio\tgoal\tmet")
	}
	found := false
	for _, b := range benches {
		if name != "" && b.name != name {
			continue
		}
		found = true
		figures, err := b.run()
		if err != nil {
			return fmt.Errorf("bench %s: %w", b.name, err)
		}
		for _, f := range figures {
			if asJSON {
				if err := json.NewEncoder(w).Encode(f); err != nil {
					return err
				}
				continue
			}
			limit, r := "", ""
			if f.Limit > 0 {
				limit, r = number(f.Limit)+" "+f.Unit, number(f.Ratio)+"×"
			}
			fmt.Fprintf(t, "%s\t%s %s\t%s\t%s\t%s\t%v\n", f.Name, number(f.Value), f.Unit, limit, r, f.Goal, f.Met)
		}
	}
	if !found {
		var names []string
		for _, b := range benches {
			names = append(names, b.name)
		}
		return fmt.Errorf("there is no bench %q: use one of %s", name, strings.Join(names, ", "))
	}
	return t.Flush()
}

func number(f float64) string {
	switch {
	case f >= 100:
		return fmt.Sprintf("%.0f", f)
	case f >= 10:
		return fmt.Sprintf("%.1f", f)
	}
	return fmt.Sprintf("%.2f", f)
}
