package host

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"strings"
	"unicode/utf8"

	"readyrail/internal/core/access"
	"readyrail/internal/core/say"
	"readyrail/internal/store"
)

// A badge is read by a reader that types its number and Enter, at a panel that takes
// badges: alone, or with the PIN of its person. What is kept of a number is a hash
// under a key of the vault, as numbers are few enough to be tried out.

// How a panel takes badges.
const (
	NoBadges     = ""      // not at all
	BadgeAlone   = "alone" // the badge signs in by itself
	BadgeWithPIN = "pin"   // the badge says who it is, and their PIN signs in
)

// BadgeAsksPIN says whose PIN a badge asks for.
type BadgeAsksPIN struct{ Name, FullName string }

func (b *BadgeAsksPIN) Error() string { return "the PIN of " + b.FullName + " is asked for, too" }

var (
	errBadge   = &Refused{Why: say.New("this badge is nobody's here")}
	errNoBadge = &Refused{Why: say.New("this panel takes no badges: sign in by PIN or password")}
)

const (
	leastBadge = 4 // characters of a number
	mostBadge  = 64
)

// badgeMark is what is kept of a badge's number.
func (h *Host) badgeMark(number string) string {
	mac := hmac.New(sha256.New, h.badgeKey)
	mac.Write([]byte("badge " + strings.TrimSpace(number)))
	return hex.EncodeToString(mac.Sum(nil))
}

// SetBadge gives an account a badge in the place of the one before; an empty number
// takes it away. Sessions of the account end.
func (h *Host) SetBadge(ctx context.Context, id, number string) (Account, error) {
	h.accounts.Lock()
	defer h.accounts.Unlock()
	p, err := h.server.Person(ctx, id)
	if err != nil {
		return Account{}, err
	}
	mark := ""
	if number = strings.TrimSpace(number); number != "" {
		if n := utf8.RuneCountInString(number); n < leastBadge || n > mostBadge || access.CheckVisible(number) != nil {
			return Account{}, refused("the number of a badge has %d to %d visible characters", leastBadge, mostBadge)
		}
		mark = h.badgeMark(number)
		other, err := h.server.PersonByBadge(ctx, mark)
		switch {
		case err == nil && other.ID != id:
			return Account{}, refused("this badge is the one of %s", other.FullName)
		case err != nil && !errors.Is(err, ErrNotFound):
			return Account{}, err
		}
	}
	p.Badge = mark
	p.Epoch++
	return h.account(p), h.server.PutPerson(ctx, p)
}

// badged finds whose badge it is and what else is asked at the panel: nothing, or the
// PIN, which the secret may have.
func (h *Host) badged(ctx context.Context, s *Secret) (p store.Person, alone bool, err error) {
	if s.Panel == "" || s.Badges == NoBadges {
		return p, false, errNoBadge
	}
	if p, err = h.server.PersonByBadge(ctx, h.badgeMark(s.Badge)); err != nil && !errors.Is(err, ErrNotFound) {
		return p, false, err
	}
	if p.ID == "" || !h.belongs(ctx, p, s.Project) {
		return store.Person{}, false, errBadge
	}
	if s.Badges == BadgeAlone {
		return p, true, nil
	}
	if s.PIN == "" {
		return p, false, &BadgeAsksPIN{p.Name, p.FullName}
	}
	s.Name = p.Name
	return p, false, nil
}
