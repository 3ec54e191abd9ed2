package access

import (
	"slices"
	"strings"
	"time"
)

// Guesses counts sign-ins before each is compared, so that many at once are
// counted too. It counts by account and place (an enrolled panel, or else a
// network address): somebody elsewhere cannot lock a person out at their panel.
// A name that nobody has is counted alike, so that it cannot be told from one
// that somebody has. The zero value is ready; time is passed in, and one caller
// uses it at a time.
type Guesses struct {
	pairs  map[pair]*tries
	places map[string]*tries
}

type pair struct{ account, place string }

type tries struct {
	n     int
	until time.Time
	last  time.Time
	good  bool // somebody signed in to the account from the place before
}

const (
	// mostFromOnePlace is how many guesses at accounts that nobody signed in to
	// from there a place has before it waits.
	mostFromOnePlace = 40
	// forgetAfter is how long without a guess until the count begins anew.
	forgetAfter = 2 * time.Hour
	// mostPairs bounds what is kept; the oldest are forgotten.
	mostPairs = 20_000
)

// Begin counts a guess and tells how long its account or its place is still to
// wait; 0 lets it be compared.
func (g *Guesses) Begin(account, place string, now time.Time) (wait time.Duration) {
	t := g.pair(account, place, now)
	p := g.place(place, now)
	if now.Before(t.until) {
		return t.until.Sub(now)
	}
	if !t.good && now.Before(p.until) {
		return p.until.Sub(now)
	}
	t.count(now, Lockout(t.n+1))
	if !t.good {
		p.count(now, Lockout(p.n+1-mostFromOnePlace+4))
	}
	return 0
}

func (t *tries) count(now time.Time, wait time.Duration) {
	t.n++
	t.last = now
	t.until = now.Add(wait)
}

// Good says that what was guessed was right.
func (g *Guesses) Good(account, place string, now time.Time) {
	t := g.pair(account, place, now)
	if p := g.place(place, now); !t.good && p.n > 0 {
		p.n--
		p.until = time.Time{}
	}
	t.n, t.until, t.good = 0, time.Time{}, true
}

// Withdraw takes back a guess that nobody could judge.
func (g *Guesses) Withdraw(account, place string, now time.Time) {
	t, p := g.pair(account, place, now), g.place(place, now)
	for _, x := range []*tries{t, p} {
		if x == p && t.good {
			break // it was not counted there
		}
		if x.n > 0 {
			x.n--
			x.until = time.Time{}
		}
	}
}

// Lift lets an account be signed in to again at once, from everywhere.
func (g *Guesses) Lift(account string) {
	for k, t := range g.pairs {
		if k.account == fold(account) {
			t.n, t.until = 0, time.Time{}
		}
	}
}

// Locked tells until when an account waits somewhere, and where.
func (g *Guesses) Locked(account string, now time.Time) (until time.Time, places []string) {
	for k, t := range g.pairs {
		if k.account == fold(account) && now.Before(t.until) {
			places = append(places, k.place)
			if t.until.After(until) {
				until = t.until
			}
		}
	}
	slices.Sort(places)
	return until, places
}

func fold(account string) string { return strings.ToLower(strings.TrimSpace(account)) }

func (g *Guesses) pair(account, place string, now time.Time) *tries {
	if g.pairs == nil {
		g.pairs = map[pair]*tries{}
	}
	k := pair{fold(account), place}
	if len(g.pairs) >= mostPairs && g.pairs[k] == nil {
		prune(g.pairs, now)
	}
	return fresh(g.pairs, k, now)
}

func (g *Guesses) place(place string, now time.Time) *tries {
	if g.places == nil {
		g.places = map[string]*tries{}
	}
	if len(g.places) >= mostPairs && g.places[place] == nil {
		prune(g.places, now)
	}
	return fresh(g.places, place, now)
}

func fresh[K comparable](m map[K]*tries, k K, now time.Time) *tries {
	t := m[k]
	if t == nil {
		t = &tries{last: now}
		m[k] = t
	}
	if now.Sub(t.last) > forgetAfter && !now.Before(t.until) {
		t.n = 0
	}
	return t
}

// prune forgets those that do not wait, and all where that is not enough.
func prune[K comparable](m map[K]*tries, now time.Time) {
	for k, t := range m {
		if !now.Before(t.until) && !t.good {
			delete(m, k)
		}
	}
	if len(m) >= mostPairs {
		clear(m)
	}
}

// Known tells whether somebody signed in to the account from the place before.
func (g *Guesses) Known(account, place string) bool {
	t := g.pairs[pair{fold(account), place}]
	return t != nil && t.good
}
