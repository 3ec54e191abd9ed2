package access

import (
	"slices"
	"strings"
	"time"
)

// NoteEvery is how often failed sign-ins at one account are noted in a trail once the
// first was: guesses are not to fill it.
const NoteEvery = 10 * time.Minute

// mostPlaces is how many places of one note are named.
const mostPlaces = 5

// FailureNotes gathers failed sign-ins by account until they are to be noted: the first
// at once, what follows every ten minutes. The zero value has none. It is not safe for
// use by several goroutines.
type FailureNotes struct {
	by map[string]*FailureNote
}

// FailureNote is what failed at an account since the note before.
type FailureNote struct {
	Account string
	Count   int64
	Places  []string // panels and addresses, the first five
	More    bool     // there were others
	next    time.Time
}

// Add counts failures at an account from a place.
func (n *FailureNotes) Add(account, place string, count int64) {
	if n.by == nil {
		n.by = map[string]*FailureNote{}
	}
	f := n.by[account]
	if f == nil {
		f = &FailureNote{Account: account}
		n.by[account] = f
	}
	f.Count += count
	switch {
	case slices.Contains(f.Places, place):
	case len(f.Places) == mostPlaces:
		f.More = true
	default:
		f.Places = append(f.Places, place)
	}
}

// Due are the notes that are to be written now, by account; all of them at the end.
func (n *FailureNotes) Due(now time.Time, end bool) []FailureNote {
	var out []FailureNote
	for account, f := range n.by {
		switch {
		case now.Before(f.next) && !end:
		case f.Count == 0:
			delete(n.by, account)
		default:
			out = append(out, *f)
			n.by[account] = &FailureNote{Account: account, next: now.Add(NoteEvery)}
		}
	}
	slices.SortFunc(out, func(a, b FailureNote) int { return strings.Compare(a.Account, b.Account) })
	return out
}
