package project

import (
	"encoding/json"
	"testing"
)

// TestWhatAChangeMayMean: what came, went, moved or is called otherwise changes paths;
// what may hold an id or a formula changes who names whom.
func TestWhatAChangeMayMean(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		path, before, after string
		moves, names        bool
	}{
		{"", "", `{"name":"Fan"}`, true, true},
		{"", `{"name":"Fan"}`, "", true, true},
		{"/name", `"Fan"`, `"Fan1"`, true, true},
		{"/folder", `"f1"`, `"f2"`, true, true},
		{"/description", `"a"`, `"b"`, false, false},
		{"/unit", "", `"°C"`, false, false},
		{"/high", "90", "95", false, false},
		{"/invert", "true", "false", false, false},
		{"/lowTag", `"t1"`, "", false, true},
		{"/formula", `"{t1|Fan}"`, `"{t2|Fan}"`, false, true},
		{"/elements/a/props/tag", `"t1"`, `"t2"`, false, true},
		{"/elements/a/x", "10", "20", false, false},
		{"/elements/a", "", `{"kind":"readout"}`, false, true},
	} {
		change := Change{Kind: KindTag, ID: "t", Path: c.path, Before: json.RawMessage(c.before), After: json.RawMessage(c.after)}
		if change.Moves() != c.moves || change.Names() != c.names {
			t.Errorf("%s from %s to %s: moves %v, names %v", c.path, c.before, c.after, change.Moves(), change.Names())
		}
	}
}
