package host

import (
	"bytes"
	"context"
	"encoding/base64"
	"errors"
	"image/png"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/say"
	"readyrail/internal/store"
)

// A second factor of an account: codes of one use that an app makes. A sign-in by
// password asks for one; one by PIN at a panel doesn't, and reaches the Desk alone then.

// SecondOffer is a secret of one-time codes that somebody is to put into an app.
type SecondOffer struct {
	Secret  string `json:"secret" doc:"to be typed, base32"`
	Link    string `json:"link" doc:"to be opened on a phone"`
	Picture string `json:"picture" doc:"to be read by a camera: a data URL of a PNG"`
}

// seconds are secrets that were offered and not yet proved, by person.
type seconds struct {
	mu      sync.Mutex
	offered map[string]offeredSecond
}

type offeredSecond struct {
	secret string
	at     time.Time
}

// secondOffered is how long an offered secret can be proved.
const secondOffered = 15 * time.Minute

// ErrSecond asks for a one-time code: name and password are right.
var ErrSecond = &Refused{Why: say.New("this account asks for a one-time code, too")}

var (
	errCode      = &Refused{Why: say.New("this is not the one-time code of now: each counts once, for half a minute")}
	errNoSecond  = &Refused{Why: say.New("this account asks for no one-time code")}
	errWeakEntry = &Refused{Why: say.New("this needs a sign-in by password and one-time code; a PIN opens the Desk alone")}
)

// second checks the one-time code of a sign-in by password, and takes its use. Where
// the account asks for none nothing is checked.
func (h *Host) second(ctx context.Context, p store.Person, code string) error {
	if len(p.Second) == 0 {
		return nil
	}
	if code == "" {
		return ErrSecond
	}
	secret, err := unseal(p.Second, h.vault.identity)
	if err != nil {
		return refused("the one-time codes of this account cannot be checked: who manages the server takes them away, and you set them up anew")
	}
	step, ok := checkSecond(string(secret), plainCode(code), time.Now(), p.SecondUsed)
	if !ok {
		return errCode
	}
	// Two that come at once with one code: one has it.
	err = h.server.UseSecond(ctx, p.ID, step)
	if errors.Is(err, ErrNotFound) {
		return errCode
	}
	return err
}

// plainCode is a code as it is typed, without the spaces that apps show.
func plainCode(code string) string { return strings.ReplaceAll(strings.TrimSpace(code), " ", "") }

// OfferSecond makes a secret for somebody's own account; it counts once a code of it
// was given.
func (h *Host) OfferSecond(ctx context.Context, who Actor) (*SecondOffer, error) {
	p, err := h.server.Person(ctx, who.ID)
	switch {
	case err != nil:
		return nil, err
	case len(p.Second) > 0:
		return nil, refused("this account asks for one-time codes already: end that first")
	case p.Subject != "":
		return nil, refused("the company's directory asks for a second factor itself, where it is to be asked for")
	case p.Password == "":
		return nil, refused("one-time codes go with a password: choose one first")
	}
	key, err := newSecond("Ready Rail", p.Name)
	if err != nil {
		return nil, err
	}
	picture, err := key.Image(220, 220)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	if err := png.Encode(&b, picture); err != nil {
		return nil, err
	}
	h.seconds.mu.Lock()
	defer h.seconds.mu.Unlock()
	if h.seconds.offered == nil {
		h.seconds.offered = map[string]offeredSecond{}
	}
	h.seconds.offered[p.ID] = offeredSecond{key.Secret(), time.Now()}
	return &SecondOffer{key.Secret(), key.URL(), "data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes())}, nil
}

// ProveSecond has an account ask for one-time codes from now on; a code shows that the
// app has the secret. Other sessions of the person end.
func (h *Host) ProveSecond(ctx context.Context, who Actor, code string) (Actor, error) {
	h.seconds.mu.Lock()
	offer, ok := h.seconds.offered[who.ID]
	h.seconds.mu.Unlock()
	if !ok || time.Since(offer.at) > secondOffered {
		return who, refused("nothing is waiting for a code: begin anew")
	}
	step, ok := checkSecond(offer.secret, plainCode(code), time.Now(), 0)
	if !ok {
		return who, errCode
	}
	kept, err := seal(h.vault.identity.Recipient(), []byte(offer.secret))
	if err != nil {
		return who, err
	}
	return h.setSecond(ctx, who.ID, kept, step)
}

// EndSecond has an account ask for no one-time code any more: its own person's, or
// another's by who may change it.
func (h *Host) EndSecond(ctx context.Context, id string) (Actor, error) {
	return h.setSecond(ctx, id, nil, 0)
}

func (h *Host) setSecond(ctx context.Context, id string, kept []byte, used int64) (Actor, error) {
	h.accounts.Lock()
	defer h.accounts.Unlock()
	p, err := h.server.Person(ctx, id)
	if err != nil {
		return Actor{}, err
	}
	if len(p.Second) == 0 && kept == nil {
		return Actor{}, errNoSecond
	}
	p.Second, p.SecondUsed = kept, used
	p.Epoch++
	if err := h.server.PutPerson(ctx, p); err != nil {
		return Actor{}, err
	}
	h.seconds.mu.Lock()
	delete(h.seconds.offered, id)
	h.seconds.mu.Unlock()
	return actorOf(p), nil
}

// strong refuses what is no work at the Desk to who signed in by PIN where the account
// asks for one-time codes.
func strong(who Actor, right access.Right) error {
	if who.Second && who.ByPIN && !access.AtTheDesk(right) {
		return errWeakEntry
	}
	return nil
}
