package access

import (
	"fmt"
	"testing"
	"time"
)

var noon = time.Date(2026, 6, 1, 12, 0, 0, 0, time.UTC)

func TestGuessesAreCountedBeforeTheyAreCompared(t *testing.T) {
	var g Guesses
	compared := 0
	for range 300 {
		if g.Begin("tom", "10.0.0.7", noon) == 0 {
			compared++
		}
	}
	if compared != 5 {
		t.Errorf("%d of 300 at once were compared, want 5", compared)
	}
	if wait := g.Begin("Tom ", "10.0.0.7", noon.Add(9*time.Second)); wait != time.Second {
		t.Errorf("after 9 s: %v", wait)
	}
	if wait := g.Begin("tom", "10.0.0.7", noon.Add(10*time.Second)); wait != 0 {
		t.Errorf("after 10 s: %v", wait)
	}
	if wait := g.Begin("tom", "10.0.0.7", noon.Add(10*time.Second)); wait != 20*time.Second {
		t.Errorf("the wait does not grow: %v", wait)
	}
}

func TestAStrangerLocksNobodyOutElsewhere(t *testing.T) {
	var g Guesses
	for range 20 {
		g.Begin("tom", "10.0.0.7", noon)
	}
	if wait := g.Begin("tom", "panel Kiln house", noon); wait != 0 {
		t.Errorf("at the panel: %v", wait)
	}
	until, places := g.Locked("tom", noon)
	if len(places) != 1 || places[0] != "10.0.0.7" || until.Sub(noon) != 10*time.Second {
		t.Errorf("%v %v", until, places)
	}
	g.Lift("TOM")
	if wait := g.Begin("tom", "10.0.0.7", noon); wait != 0 {
		t.Errorf("after it was lifted: %v", wait)
	}
}

func TestOnePlaceGuessesAtManyNames(t *testing.T) {
	var g Guesses
	g.Begin("ada", "10.0.0.7", noon)
	g.Good("ada", "10.0.0.7", noon)
	compared := 0
	for i := range 300 {
		if g.Begin(fmt.Sprint("name", i), "10.0.0.7", noon) == 0 {
			compared++
		}
	}
	if compared < 10 || compared > mostFromOnePlace+5 {
		t.Errorf("%d were compared", compared)
	}
	if wait := g.Begin("ada", "10.0.0.7", noon); wait != 0 {
		t.Errorf("who signed in from there before waits %v", wait)
	}
	if wait := g.Begin("tom", "10.0.0.7", noon); wait == 0 {
		t.Error("who did not is compared")
	}
}

func TestGuessesAreForgotten(t *testing.T) {
	var g Guesses
	for range 4 {
		g.Begin("tom", "x", noon)
	}
	later := noon.Add(3 * time.Hour)
	for range 4 {
		if wait := g.Begin("tom", "x", later); wait != 0 {
			t.Errorf("hours later: %v", wait)
		}
	}
	for i := range 3 * mostPairs {
		g.Begin(fmt.Sprint(i), fmt.Sprint(i), later)
	}
	if len(g.pairs) > mostPairs || len(g.places) > mostPairs {
		t.Errorf("%d and %d are kept", len(g.pairs), len(g.places))
	}
}

func TestNames(t *testing.T) {
	for name, ok := range map[string]bool{"Ada Birch": true, "Łucja Brzoza-Dąb": true, "Ada\nBirch": false, "Ada\u202eBirch": false,
		"Ada\u200bBirch": false, "": false, " ": false,
		string(make([]byte, 10_000)): false, "Ada\x00": false, "\ufeffAda": false} {
		if (CheckFullName(name) == nil) != ok {
			t.Errorf("%.20q: %v", name, CheckFullName(name))
		}
	}
}

func TestPasswords(t *testing.T) {
	for password, ok := range map[string]bool{"oak-and-ash": true, "password": false, "Password1": false, "12345678": false,
		"qwertzuiop": false, "iloveyou": false, "aaaaaaaa": false, "short": false,
		"Passw0rd!": false, "tom-tom-tom": true, "tomtomtom": true, "tom.alder": false} {
		if (Lengths{}.CheckPassword(password, "tom.alder", "Tom Alder") == nil) != ok {
			t.Errorf("%q: %v", password, Lengths{}.CheckPassword(password, "tom.alder", "Tom Alder"))
		}
	}
}

// TestLengthsOfSecrets: a server asks for longer ones, and for none that nobody
// could ask for.
func TestLengthsOfSecrets(t *testing.T) {
	for _, c := range []struct {
		ask Lengths
		ok  bool
	}{
		{Lengths{}, true}, {Lengths{12, 6}, true}, {Lengths{64, 8}, true}, {Lengths{8, 4}, true},
		{Lengths{7, 0}, false}, {Lengths{65, 0}, false}, {Lengths{0, 3}, false}, {Lengths{0, 9}, false}, {Lengths{-1, 0}, false},
	} {
		whole, err := c.ask.Whole()
		if (err == nil) != c.ok || c.ok && (whole.Password < 8 || whole.PIN < 4) {
			t.Errorf("%+v: %+v %v", c.ask, whole, err)
		}
	}
	long := Lengths{12, 6}
	for password, ok := range map[string]bool{"kiln-3-oak": false, "kiln-3-oak-2": true} {
		if (long.CheckPassword(password) == nil) != ok {
			t.Errorf("%s: %v", password, long.CheckPassword(password))
		}
	}
	for pin, ok := range map[string]bool{"14702": false, "147025": true, "147025369": false} {
		if (long.CheckPIN(pin) == nil) != ok {
			t.Errorf("%s: %v", pin, long.CheckPIN(pin))
		}
	}
}

// TestAGuessThatNobodyCouldJudge counts neither at the account nor at the place.
func TestAGuessThatNobodyCouldJudge(t *testing.T) {
	var g Guesses
	now := time.Unix(1_800_000_000, 0)
	for i := range 200 {
		if wait := g.Begin("wren", "10.0.0.7", now); wait > 0 {
			t.Fatalf("guess %d waits %v", i, wait)
		}
		g.Withdraw("wren", "10.0.0.7", now)
	}
	for range 4 {
		g.Begin("wren", "10.0.0.7", now)
	}
	g.Begin("wren", "10.0.0.7", now)
	if g.Begin("wren", "10.0.0.7", now) == 0 {
		t.Error("guesses that were judged wait no longer")
	}
}
