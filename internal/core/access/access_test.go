package access

import (
	"testing"
	"time"
)

func policy() *Policy {
	return &Policy{
		Roles: map[string]*Role{
			"op": {ID: "op", Name: "Operator", Rights: []Right{View, Operate}},
			"v":  {ID: "v", Name: "Viewer", Rights: []Right{View}},
		},
		Areas:  []Area{{ID: "kilns", Name: "Kilns"}, {ID: "k1", Name: "Chamber 1", Parent: "kilns"}, {ID: "car", Name: "Rail car"}},
		Grants: []Grant{{Person: "tom", Role: "op", Area: "kilns"}, {Person: "tom", Role: "v", Area: ""}, {Person: "sam", Role: "v", Area: ""}},
	}
}

func TestMay(t *testing.T) {
	for _, c := range []struct {
		person string
		right  Right
		area   string
		want   bool
	}{
		{"tom", Operate, "kilns", true}, {"tom", Operate, "k1", true}, {"tom", Operate, "car", false},
		{"tom", Operate, "", false}, {"tom", View, "car", true}, {"sam", View, "k1", true},
		{"sam", Operate, "k1", false}, {"nobody", View, "", false},
	} {
		if got := policy().May(c.person, c.right, c.area); got != c.want {
			t.Errorf("%s %s in %q: %v, want %v", c.person, c.right, c.area, got, c.want)
		}
	}
}

func TestDeniedNamesTheRightAndWhoHasIt(t *testing.T) {
	err := policy().Require("sam", Operate, "k1")
	want := "the right to enter values and press buttons is missing in Chamber 1; it comes with the role Operator"
	if err == nil || err.Error() != want {
		t.Errorf("%v, want %q", err, want)
	}
}

func TestAreaCycleEnds(t *testing.T) {
	p := policy()
	p.Areas = []Area{{ID: "a", Parent: "b"}, {ID: "b", Parent: "a"}}
	if p.within("a", "z") {
		t.Error("a cycle of areas lies in nothing else")
	}
}

func TestLockoutGrows(t *testing.T) {
	for n, want := range map[int]time.Duration{0: 0, 4: 0, 5: 10 * time.Second, 6: 20 * time.Second, 8: 80 * time.Second, 40: time.Hour} {
		if got := Lockout(n); got != want {
			t.Errorf("%d failures: %v, want %v", n, got, want)
		}
	}
}

func TestCheckPIN(t *testing.T) {
	for pin, good := range map[string]bool{"2580": true, "90412": true, "123": false, "1111": false, "1234": false, "9876": false,
		"12a4": false, "123456789": false} {
		if (Lengths{}.CheckPIN(pin) == nil) != good {
			t.Errorf("PIN %s: %v", pin, Lengths{}.CheckPIN(pin))
		}
	}
}
