package access

import "testing"

// An area under control takes those that lie in it along, but for one that asks for
// a place of its own.
func TestInControl(t *testing.T) {
	areas := []Area{
		{ID: "kilns", Control: true}, {ID: "one", Parent: "kilns"}, {ID: "fans", Parent: "one"},
		{ID: "two", Parent: "kilns", Control: true}, {ID: "car"},
		{ID: "round", Parent: "trip"}, {ID: "trip", Parent: "round"},
	}
	for area, want := range map[string]string{
		"kilns": "kilns", "one": "kilns", "fans": "kilns", "two": "two", "car": "", "": "", "gone": "", "round": "",
	} {
		if got := InControl(areas, area); got != want {
			t.Errorf("%q is under %q, want %q", area, got, want)
		}
	}
}

// That nobody may take control away is told only where control is asked for.
func TestNobodyTakesControlAway(t *testing.T) {
	var all []Right
	for _, info := range Rights {
		if info.Right != Control {
			all = append(all, info.Right)
		}
	}
	p := &Policy{Roles: map[string]*Role{"r": {ID: "r", Rights: all}}, Areas: []Area{{ID: "a"}},
		Grants: []Grant{{Person: "tom", Role: "r"}}}
	if gaps := p.Gaps([]string{"tom"}, nil); len(gaps) != 0 {
		t.Errorf("%+v", gaps)
	}
	p.Areas[0].Control = true
	if gaps := p.Gaps([]string{"tom"}, nil); len(gaps) != 1 || gaps[0].Kind != GapNobody || gaps[0].Rights[0] != Control {
		t.Errorf("%+v", gaps)
	}
}
