package demo

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"readyrail/internal/core/project"
)

// told is what differs, in one line for each thing.
func told(list []project.Difference) string {
	var out []string
	for _, d := range list {
		line := d.Kind + " " + d.Name
		switch {
		case d.Made:
			line += " made"
		case d.Gone:
			line += " gone"
		case d.Was != "":
			line += " was " + d.Was
		}
		if !d.Made && !d.Gone {
			for _, f := range d.Fields {
				line += fmt.Sprintf(" %s:%s→%s", f.Path, f.Before, f.After)
			}
		}
		out = append(out, line)
	}
	return strings.Join(out, "; ")
}

// TestDifferences: what differs between two versions of the yard, field by field
// and as people read it. A rename is a rename: what refers to the thing differs in
// nothing.
func TestDifferences(t *testing.T) {
	p := yard(t)
	sp, _ := p.FindPath("Kiln2.DryBulbSP")
	car, _ := p.FindPath("Car.VelocitySP")
	op := func(kind, id, path, value string) project.Op {
		o := project.Op{Kind: kind, ID: id, Path: path}
		if value != "" {
			o.Value = json.RawMessage(value)
		}
		return o
	}
	for name, c := range map[string]struct {
		ops  []project.Op
		want string
	}{
		"nothing": {nil, ""},
		"a field": {[]project.Op{op("rule", "q-zero", "/note", `"moved"`)},
			`rule Origin of the car /note:"A wrong origin moves every stop of the car"→"moved"`},
		"of a list": {[]project.Op{op("rule", "q-zero", "/reasons", `["one"]`)},
			`rule Origin of the car /reasons:["After work on the rail","After an emergency stop","The position was lost"]→["one"]`},
		"a field gone": {[]project.Op{op("rule", "q-zero", "/meaning", "")}, `rule Origin of the car /meaning:"checked at the mark"→`},
		"made":         {[]project.Op{op("rule", "q-new", "", `{"name":"New"}`)}, "rule New made"},
		"gone":         {[]project.Op{op("rule", "q-zero", "", "")}, "rule Origin of the car gone"},
		"a rename":     {[]project.Op{op("tag", car, "/name", `"SpeedSP"`)}, `tag Car.SpeedSP was Car.VelocitySP /name:"VelocitySP"→"SpeedSP"`},
	} {
		next := p
		if len(c.ops) > 0 {
			var err error
			if next, _, err = p.Edit(c.ops); err != nil {
				t.Errorf("%s: %v", name, err)
				continue
			}
		}
		if got := told(project.Differences(p, next)); got != c.want {
			t.Errorf("%s: %s\nwant %s", name, got, c.want)
		}
		back := told(project.Differences(next, p))
		if (back == "") != (c.want == "") {
			t.Errorf("%s, the other way: %s", name, back)
		}
	}
	if d, ok := project.DifferenceOf(p, p, "tag", sp); ok {
		t.Errorf("a tag differs from itself: %+v", d)
	}
}
