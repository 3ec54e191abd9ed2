package access

import (
	"cmp"
	_ "embed"
	"readyrail/internal/core/say"
	"strings"
	"time"
	"unicode"
)

// Lockout returns how long sign-in stays closed after a number of guesses in a
// row: free up to 4, then 10 s doubling to at most an hour.
func Lockout(guesses int) time.Duration {
	if guesses < 5 {
		return 0
	}
	d := 10 * time.Second
	for i := 5; i < guesses && d < time.Hour; i++ {
		d *= 2
	}
	return min(d, time.Hour)
}

// Lengths are how long secrets have to be at least, as a server says. The zero
// value asks for the least that any server asks for.
type Lengths struct {
	Password int `json:"password" doc:"characters that a password has at least"`
	PIN      int `json:"pin" doc:"digits that a PIN has at least"`
}

const (
	leastPassword, mostPassword = 8, 128
	leastPIN, mostPIN           = 4, 8
	// mostAsked is what may be asked for at least: a longer one would be a nuisance
	// that ends on a note at the screen.
	mostAsked = 64
)

// Whole fills in what is not said, and refuses what cannot be asked for.
func (l Lengths) Whole() (Lengths, error) {
	l = Lengths{cmp.Or(l.Password, leastPassword), cmp.Or(l.PIN, leastPIN)}
	if l.Password < leastPassword || l.Password > mostAsked {
		return l, say.Errorf("passwords of at least %d to %d characters can be asked for, not of %d", leastPassword, mostAsked, l.Password)
	}
	if l.PIN < leastPIN || l.PIN > mostPIN {
		return l, say.Errorf("PINs of at least %d to %d digits can be asked for, not of %d", leastPIN, mostPIN, l.PIN)
	}
	return l, nil
}

// CheckPIN refuses what is no PIN: too few or too many digits, all the same, or a
// run.
func (l Lengths) CheckPIN(pin string) error {
	if len(pin) < max(l.PIN, leastPIN) || len(pin) > mostPIN || strings.Trim(pin, "0123456789") != "" {
		return say.Errorf("a PIN has %d to %d digits", max(l.PIN, leastPIN), mostPIN)
	}
	same, up, down := true, true, true
	for i := 1; i < len(pin); i++ {
		same = same && pin[i] == pin[i-1]
		up = up && pin[i] == pin[i-1]+1
		down = down && pin[i] == pin[i-1]-1
	}
	if same || up || down {
		return say.Errorf("this PIN is too easy to guess: no run and not one digit alone")
	}
	return nil
}

//go:embed common.txt
var common string

// CheckPassword refuses a password that is too short, too long, among the
// common ones, or one of the names of whose it is.
func (l Lengths) CheckPassword(s string, names ...string) error {
	if n := len([]rune(s)); n < max(l.Password, leastPassword) || n > mostPassword {
		return say.Errorf("a password has %d to %d characters", max(l.Password, leastPassword), mostPassword)
	}
	low := strings.ToLower(s)
	if strings.Count(low, low[:1]) == len(low) {
		return say.Errorf("a password is more than one character again and again")
	}
	for _, name := range names {
		if low == strings.ToLower(name) {
			return say.Errorf("a password is not one's own name")
		}
	}
	plain := strings.TrimRight(plainer.Replace(low), "0123456789!?.")
	for line := range strings.Lines(common) {
		word := strings.TrimSpace(line)
		same := word == low || plainer.Replace(word) == plain
		longer := plain != "" && strings.TrimRight(word, "0123456789") == plain
		if word != "" && (same || longer) {
			return say.Errorf("this password is one of those that are tried first: choose another")
		}
	}
	return nil
}

// plainer undoes the usual disguises of a common word.
var plainer = strings.NewReplacer("0", "o", "1", "l", "3", "e", "4", "a", "5", "s", "7", "t", "@", "a", "$", "s")

// CheckFullName refuses a name that cannot stand in a record: empty, too long,
// or with characters that are not seen, such as those that turn the direction
// of writing.
func CheckFullName(s string) error {
	if n := len([]rune(s)); strings.TrimSpace(s) == "" || n > 80 {
		return say.Errorf("a full name of at most 80 characters is needed: it stands in the audit trail")
	}
	return CheckVisible(s)
}

// CheckVisible refuses characters that are not seen or turn the direction of
// writing.
func CheckVisible(s string) error {
	for _, r := range s {
		if unicode.IsControl(r) || unicode.Is(unicode.Cf, r) || r == unicode.ReplacementChar || r == '\u2028' || r == '\u2029' {
			return say.Errorf("a name has no control or direction characters")
		}
	}
	return nil
}
