package say

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"testing"
)

// TestSentence: a refusal is said in a language with the refusals among its
// arguments, and is in English what package fmt makes of it.
func TestSentence(t *testing.T) {
	lists["xx"] = map[string]string{"%s is bad: %v": "%s taugt nicht: %v", "no value": "kein Wert", "out of range": "daneben",
		"reading %s: %w": "beim Lesen von %s: %w", "%d %% of %s": "%[2]s zu %[1]d %%", "half 50 %% full": "halb 50 %% voll"}
	defer delete(lists, "xx")
	sentinel := New("no value")
	for name, c := range map[string]struct {
		err     error
		en, xx  string
		wrapped error
	}{
		"plain":            {sentinel, "no value", "kein Wert", sentinel},
		"a term":           {Errorf("%s is bad: %v", "Fan", Term("out of range")), "Fan is bad: out of range", "Fan taugt nicht: daneben", nil},
		"an unknown term":  {Errorf("%s is bad: %v", "Fan", Term("worn")), "Fan is bad: worn", "Fan taugt nicht: worn", nil},
		"one in another":   {Errorf("%s is bad: %v", "Fan", sentinel), "Fan is bad: no value", "Fan taugt nicht: kein Wert", nil},
		"one that is kept": {Errorf("reading %s: %w", "Fan", sentinel), "reading Fan: no value", "beim Lesen von Fan: kein Wert", sentinel},
		"somebody's own": {Errorf("reading %s: %w", "Fan", fs.ErrNotExist), "reading Fan: file does not exist",
			"beim Lesen von Fan: file does not exist", fs.ErrNotExist},
		"in another order":   {Errorf("%d %% of %s", 5, "all"), "5 % of all", "all zu 5 %", nil},
		"nothing to fill in": {Errorf("half 50 %% full"), "half 50 % full", "halb 50 % voll", nil},
		"without words":      {New("nobody wrote this"), "nobody wrote this", "nobody wrote this", nil},
		"several": {errors.Join(sentinel, Errorf("reading %s: %w", "Fan", sentinel)), "no value\nreading Fan: no value",
			"kein Wert\nbeim Lesen von Fan: kein Wert", sentinel},
		"with a place":      {fmt.Errorf("%w", sentinel), "no value", "kein Wert", sentinel},
		"wrapped elsewhere": {fmt.Errorf("%w and %w", sentinel, sentinel), "no value and no value", "no value and no value", sentinel},
	} {
		if got := c.err.Error(); got != c.en {
			t.Errorf("%s: %q", name, got)
		}
		if got := In("xx", c.err); got != c.xx {
			t.Errorf("%s: %q; want %q", name, got, c.xx)
		}
		if got := In("yy", c.err); got != c.en {
			t.Errorf("%s in a language that is not there: %q", name, got)
		}
		if c.wrapped != nil && !errors.Is(c.err, c.wrapped) {
			t.Errorf("%s does not wrap what it is about", name)
		}
	}
	if Any("xx", 5) != "5" || Any("xx", sentinel) != "kein Wert" || Any("xx", Term("no value")) != "kein Wert" {
		t.Error("arguments of findings")
	}
	if errors.Is(New("no value"), sentinel) {
		t.Error("two sentences are one error")
	}
}

// TestTell puts the sentences within an answer into a language, wherever they lie, and
// leaves everything else.
func TestTell(t *testing.T) {
	lists["xx"] = map[string]string{"no value": "kein Wert"}
	defer delete(lists, "xx")
	type line struct {
		Name string
		Why  Text
		more *line
	}
	type answer struct {
		Lines []line
		One   *line
		Every [2]Text
		Same  *answer
	}
	why := Text{New("no value")}
	given := answer{Lines: []line{{Name: "no value", Why: why}, {Name: "b"}}, One: &line{Why: why, more: &line{Why: why}}, Every: [2]Text{why},
		Same: &answer{Every: [2]Text{1: why}}}
	got := Tell("xx", given).(answer)
	if got.Lines[0].Why.String() != "kein Wert" || got.Lines[0].Name != "no value" || !got.Lines[1].Why.IsZero() ||
		got.One.Why.String() != "kein Wert" || got.One.more.Why.String() != "no value" || got.Every[0].String() != "kein Wert" ||
		got.Same.Every[1].String() != "kein Wert" {
		t.Errorf("%+v %+v %+v", got, got.One, got.Same)
	}
	// Two types that hold each other are looked through from either side.
	Tell("xx", parent{})
	back := Tell("xx", child{Of: &parent{Why: why}}).(child)
	if back.Of.Why.String() != "kein Wert" || Tell("xx", parent{Why: why}).(parent).Why.String() != "kein Wert" {
		t.Error("of types that hold each other one was not looked through")
	}
	if Tell("xx", 5) != 5 || Tell("xx", nil) != nil {
		t.Error("what holds no sentence is another")
	}
	data, err := json.Marshal(got.Lines[:1])
	if err != nil || string(data) != `[{"Name":"no value","Why":"kein Wert"}]` {
		t.Errorf("%s %v", data, err)
	}
	var read []line
	if err := json.Unmarshal(data, &read); err != nil || read[0].Why.String() != "kein Wert" {
		t.Errorf("%+v %v", read, err)
	}
}

type parent struct {
	Child *child
	Why   Text
}

type child struct{ Of *parent }

// TestPack: a sentence is the same in another process, in every language.
func TestPack(t *testing.T) {
	lists["xx"] = map[string]string{"%s is bad: %v": "%s taugt nicht: %v", "no value": "kein Wert", "%q within %.1f s: %w": "%q in %.1f s: %w",
		"out of range": "daneben"}
	defer delete(lists, "xx")
	for _, err := range []error{
		New("no value"),
		Errorf("%s is bad: %v", "Fan", New("no value")),
		Errorf("%s is bad: %v", "Fan", Term("out of range")),
		Errorf("%q within %.1f s: %w", "Fan", 2.25, Errorf("%s is bad: %v", "Fan", fs.ErrNotExist)),
		Errorf("%d of %d", 1, 2),
		fs.ErrNotExist,
		fmt.Errorf("about %w", New("no value")),
	} {
		back := Pack(err).Err()
		if back.Error() != err.Error() || In("xx", back) != In("xx", err) {
			t.Errorf("%q came as %q; %q as %q", err, back, In("xx", err), In("xx", back))
		}
	}
}
