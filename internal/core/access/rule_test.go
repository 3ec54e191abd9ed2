package access

import (
	"reflect"
	"strings"
	"testing"
)

// TestWhereARuleApplies: what a rule leaves empty names every place; what it names
// has to be the place, or that which the place lies in.
func TestWhereARuleApplies(t *testing.T) {
	place := Place{Does: DoesWrite, Areas: []string{"k1", "kilns"}, Folders: []string{"burner", "kiln1"}, Types: []string{"kiln"}, Tag: "sp",
		Roles: []string{"op"}}
	for _, c := range []struct {
		rule Rule
		want bool
	}{
		{Rule{}, true},
		{Rule{Area: "kilns"}, true}, {Rule{Area: "k1"}, true}, {Rule{Area: "car"}, false},
		{Rule{Folder: "kiln1"}, true}, {Rule{Folder: "kiln2"}, false},
		{Rule{Type: "kiln"}, true}, {Rule{Type: "fan"}, false},
		{Rule{Tag: "sp"}, true}, {Rule{Tag: "pv"}, false},
		{Rule{Book: "drying"}, false},
		{Rule{Does: DoesWrite}, true}, {Rule{Does: DoesDeliver}, false},
		{Rule{Role: "op"}, true}, {Rule{Role: "lead"}, false},
		{Rule{Area: "kilns", Type: "kiln", Role: "op", Does: DoesWrite}, true},
		{Rule{Area: "kilns", Type: "kiln", Role: "lead", Does: DoesWrite}, false},
	} {
		if got := c.rule.At(&place); got != c.want {
			t.Errorf("%+v: %v", c.rule, got)
		}
	}
}

// TestStrictest: several rules together ask no less than each of them.
func TestStrictest(t *testing.T) {
	for _, c := range []struct {
		name string
		all  []Asking
		want Asking
	}{
		{"nothing", nil, Asking{}},
		{"one alone", []Asking{{Reason: ReasonOffered}}, Asking{Reason: ReasonOffered}},
		{"required over offered", []Asking{{Reason: ReasonRequired}, {Reason: ReasonOffered}}, Asking{Reason: ReasonRequired}},
		{"in the other order", []Asking{{Reason: ReasonOffered}, {Reason: ReasonRequired}}, Asking{Reason: ReasonRequired}},
		{"none takes nothing away", []Asking{{Reason: ReasonOffered, Sign: SignOwn}, {}}, Asking{Reason: ReasonOffered, Sign: SignOwn}},
		{"a list over free words", []Asking{{Reason: ReasonRequired}, {Reason: ReasonOffered, Reasons: []string{"worn", "wet"}}},
			Asking{Reason: ReasonRequired, Reasons: []string{"worn", "wet"}}},
		{"lists together", []Asking{{Reason: ReasonOffered, Reasons: []string{"worn", "wet"}},
			{Reason: ReasonOffered, Reasons: []string{"wet", "test"}}},
			Asking{Reason: ReasonOffered, Reasons: []string{"worn", "wet", "test"}}},
		{"own and second", []Asking{{Sign: SignOwn, Meanings: []string{"done"}},
			{Sign: SignSecond, Roles: []string{"lead"}, Meanings: []string{"checked"}}},
			Asking{Sign: SignBoth, Roles: []string{"lead"}, Meanings: []string{"done", "checked"}}},
		{"second alone", []Asking{{Sign: SignSecond}, {Confirm: true}}, Asking{Confirm: true, Sign: SignSecond}},
		{"both", []Asking{{Sign: SignBoth}, {Sign: SignOwn}}, Asking{Sign: SignBoth}},
		{"every role", []Asking{{Sign: SignSecond, Roles: []string{"lead"}}, {Sign: SignSecond, Roles: []string{"quality", "lead"}}},
			Asking{Sign: SignSecond, Roles: []string{"lead", "quality"}}},
		{"captured of each", []Asking{{Capture: []string{"a", "b"}}, {Reason: ReasonOffered, Capture: []string{"b", "c"}}},
			Asking{Reason: ReasonOffered, Capture: []string{"a", "b", "c"}}},
	} {
		if got := Strictest(c.all...); !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %+v; want %+v", c.name, got, c.want)
		}
	}
}

// TestAnAskingKeepsToItself: putting several together leaves each as it was.
func TestAnAskingKeepsToItself(t *testing.T) {
	reasons := make([]string, 1, 8)
	reasons[0] = "worn"
	a := Asking{Reason: ReasonOffered, Reasons: reasons}
	Strictest(a, Asking{Reasons: []string{"wet"}})
	Strictest(a, Asking{Reasons: []string{"test"}})
	if x := reasons[:2]; x[1] != "" {
		t.Errorf("the rule's own list has become %v", x)
	}
}

func TestRulesThatCannotBe(t *testing.T) {
	for field, r := range map[string]Rule{
		"":        {Name: "Set points", Reason: ReasonRequired, Reasons: []string{"worn"}, Sign: SignSecond, By: "lead", Meaning: "checked"},
		"name":    {Name: " "},
		"does":    {Name: "x", Does: "fly"},
		"reason":  {Name: "x", Reason: "none"},
		"sign":    {Name: "x", Sign: "third"},
		"reasons": {Name: "x", Reasons: []string{" "}},
		"meaning": {Name: "x", Meaning: strings.Repeat("x", 61)},
	} {
		if got, err := r.Check(); got != field || (err == nil) != (field == "") {
			t.Errorf("%+v: %q, %v; want %q", r, got, err, field)
		}
	}
}

// TestAsksOfARule: what has no sense without something else is left out.
func TestAsksOfARule(t *testing.T) {
	r := Rule{Reasons: []string{"worn"}, By: "lead", Meaning: "checked"}
	if got := r.Asks(); got.Any() || got.Reasons != nil || got.Roles != nil || got.Meanings != nil {
		t.Errorf("a rule that asks nothing: %+v", got)
	}
	r.Sign = SignOwn
	if got := r.Asks(); got.Roles != nil || len(got.Meanings) != 1 {
		t.Errorf("one's own signature: %+v", got)
	}
}

func TestRolesIn(t *testing.T) {
	for area, want := range map[string]string{"k1": "op v", "car": "v", "": "v"} {
		if got := strings.Join(policy().RolesIn("tom", area), " "); got != want {
			t.Errorf("in %q: %s; want %s", area, got, want)
		}
	}
}
