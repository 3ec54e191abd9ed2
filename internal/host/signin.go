package host

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/store"
)

// Secret is what somebody gives to show who they are: a password, or a PIN
// where Panel names the enrolled panel. Where both are set, either will do.
type Secret struct {
	Name, Password, PIN string
	Code                string // of one use, where the account asks for it
	// Badge is the number of a badge, in the place of a name, at a panel that takes
	// badges in the way of Badges.
	Badge, Badges string
	Panel         string
	Project       string // that the panel belongs to
	From          string // the network address it comes from
	Session       string // of who gives it, who is signed in already
	Signs         bool   // it is given as a signature
}

// place is where guesses are counted: somebody elsewhere cannot lock a panel.
func (s *Secret) place() string {
	if s.Panel != "" {
		return "panel " + s.Panel
	}
	return s.From
}

// ErrSignIn is the one answer to every sign-in that fails, so that it does not
// tell which half was wrong.
var ErrSignIn = &Refused{Why: say.New("name and password do not match")}

// decoy is compared when there is no such account, so that the time taken does
// not tell either.
var decoy, _ = argon2id.CreateHash("decoy", hashing)

// signIns counts guesses and lets few be compared at a time.
type signIns struct {
	mu      sync.Mutex
	guesses access.Guesses
	busy    map[string]*sync.Mutex // by account: one at a time
	failed  map[[2]string]*store.FailedSignIn

	// Each comparison takes memory and time on purpose. Those from places where
	// somebody signed in to the account before have a share of their own, so that
	// they do not wait behind guesses.
	known, other chan struct{}
}

func newSignIns() *signIns {
	return &signIns{busy: map[string]*sync.Mutex{}, failed: map[[2]string]*store.FailedSignIn{}, known: make(chan struct{}, 2),
		other: make(chan struct{}, 2)}
}

func (s *signIns) locked(name string) (time.Time, []string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.guesses.Locked(name, time.Now())
}

func (s *signIns) lift(name string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.guesses.Lift(name)
}

// ended is how a guess ended. One that is half of a sign-in counts as a guess until the
// other half comes, and is no failure; one that nobody could judge is none.
type ended int

const (
	failed ended = iota
	passed
	half
	unjudged
)

// begin counts a guess before it is compared. The function it returns says how
// it went and lets the account's next guess go.
func (s *signIns) begin(name, place string) (end func(ended), known bool, err error) {
	account := strings.ToLower(name)
	s.mu.Lock()
	known = s.guesses.Known(account, place)
	if wait := s.guesses.Begin(account, place, time.Now()); wait > 0 {
		s.countFailure(account, place)
		s.mu.Unlock()
		return nil, false, refused("too many failed attempts: try again in %d s", int(wait.Seconds())+1)
	}
	one := s.busy[account]
	if one == nil {
		one = &sync.Mutex{}
		s.busy[account] = one
	}
	s.mu.Unlock()
	one.Lock()
	return func(how ended) {
		one.Unlock()
		s.mu.Lock()
		defer s.mu.Unlock()
		delete(s.busy, account)
		switch how {
		case passed:
			s.guesses.Good(account, place, time.Now())
		case failed:
			s.countFailure(account, place)
		case unjudged:
			s.guesses.Withdraw(account, place, time.Now())
		}
	}, known, nil
}

// mostFailedAtOnce bounds the runs of failures that wait to be kept.
const mostFailedAtOnce = 1000

// countFailure is called under the lock.
func (s *signIns) countFailure(name, place string) {
	if len(name) > 60 {
		name = name[:60]
	}
	key, now := [2]string{name, place}, time.Now().UnixNano()
	f := s.failed[key]
	if f == nil {
		if len(s.failed) >= mostFailedAtOnce {
			key = [2]string{"…", ""}
			f = s.failed[key]
		}
		if f == nil {
			f = &store.FailedSignIn{Name: key[0], Place: key[1], First: now}
			s.failed[key] = f
		}
	}
	f.Last = now
	f.Count++
}

// keepFailures stores what failed since the last time: one run a name and
// place.
func (h *Host) keepFailures(ctx context.Context, end bool) {
	h.signIns.mu.Lock()
	list := make([]store.FailedSignIn, 0, len(h.signIns.failed))
	for _, f := range h.signIns.failed {
		list = append(list, *f)
	}
	clear(h.signIns.failed)
	h.signIns.mu.Unlock()
	h.noteFailures(ctx, list, end)
	if len(list) == 0 {
		return
	}
	if err := h.server.AddFailures(ctx, list); err != nil {
		h.log.Error("failed sign-ins were not kept", "runs", len(list), "error", err)
	}
}

// noteFailures has the trails say what failed at the accounts of people who may look at
// their project. What was tried at names of nobody stands in the server's runs alone: a
// stranger is not to write into a trail what he likes.
func (h *Host) noteFailures(ctx context.Context, list []store.FailedSignIn, end bool) {
	h.noting.Lock()
	defer h.noting.Unlock()
	for _, f := range list {
		if p, err := h.server.PersonByName(ctx, f.Name); err == nil {
			h.failures.Add(p.ID, f.Place, f.Count)
		}
	}
	for _, f := range h.failures.Due(time.Now(), end) {
		p, err := h.server.Person(ctx, f.Account)
		if err != nil {
			continue // taken out meanwhile
		}
		places := strings.Join(f.Places, ", ")
		if f.More {
			places += " and others"
		}
		who := actorOf(p)
		for _, of := range h.Projects() {
			if of.May(ctx, who, access.View, true) {
				of.Note(ctx, who, audit.Failed, fmt.Sprintf("%d failed, from %s", f.Count, places))
			}
		}
	}
}

// FailedRun is a run of failed sign-ins.
type FailedRun struct {
	Name  string    `json:"name"`
	Place string    `json:"place" doc:"a panel, or a network address"`
	First time.Time `json:"first"`
	Last  time.Time `json:"last"`
	Count int64     `json:"count"`
}

// FailedRuns lists the newest runs of failed sign-ins.
func (h *Host) FailedRuns(ctx context.Context) ([]FailedRun, error) {
	h.keepFailures(ctx, false)
	list, err := h.server.Failures(ctx, 200)
	out := make([]FailedRun, len(list))
	for i, f := range list {
		out[i] = FailedRun{f.Name, f.Place, time.Unix(0, f.First), time.Unix(0, f.Last), f.Count}
	}
	return out, err
}

// compare takes a turn among those that compare.
func (s *signIns) compare(ctx context.Context, known bool, secret, hash string) (bool, error) {
	gate := s.other
	if known {
		gate = s.known
	}
	select {
	case gate <- struct{}{}:
	case <-ctx.Done():
		return false, ctx.Err()
	}
	defer func() { <-gate }()
	return argon2id.ComparePasswordAndHash(secret, hash)
}

// Check tells who gives a secret. It is what signs in and what signs.
func (h *Host) Check(ctx context.Context, s Secret) (Actor, error) {
	p, err := h.check(ctx, s, nil)
	if err != nil {
		return Actor{}, err
	}
	who := actorOf(p)
	who.Panel, who.From = s.Panel, s.From
	return who, nil
}

// check compares a secret. second is asked once a password is right, before the guess
// counts as a good one; nil asks nothing.
func (h *Host) check(ctx context.Context, s Secret, second func(context.Context, store.Person, string) error) (store.Person, error) {
	s.Name = strings.TrimSpace(s.Name)
	if len(s.Name) > 60 || len(s.Password) > 200 || len(s.PIN) > 200 {
		return store.Person{}, ErrSignIn
	}
	if s.PIN != "" && s.Panel == "" {
		return store.Person{}, refused("a PIN is taken at an enrolled panel only: sign in with your password")
	}
	var badge store.Person
	var alone bool
	var nobodys error
	if s.Badge != "" {
		if badge, alone, nobodys = h.badged(ctx, &s); nobodys != nil && !errors.Is(nobodys, errBadge) {
			return store.Person{}, nobodys
		}
		s.Name = cmp.Or(badge.Name, "badge")
	}
	end, known, err := h.signIns.begin(s.Name, s.place())
	if err != nil {
		return store.Person{}, err
	}
	how := failed
	defer func() { end(how) }()
	if nobodys != nil {
		return store.Person{}, nobodys
	}
	if alone {
		if shut(badge) {
			return store.Person{}, errBadge
		}
		how = passed
		return badge, nil
	}
	p, err := h.server.PersonByName(ctx, s.Name)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return store.Person{}, err
	}
	for _, way := range h.ways(ctx, s, p) {
		if _, local := way.(*hashed); !local && how == passed {
			break // what is kept here was right, and goes nowhere else
		}
		match, err := way.shows(ctx, &p, known)
		if down := new(errDown); errors.As(err, &down) && s.PIN == "" {
			how = unjudged
		}
		if err != nil {
			return store.Person{}, err
		}
		if match && !shut(p) {
			how = passed
		}
	}
	if how != passed {
		return store.Person{}, ErrSignIn
	}
	if second == nil || s.PIN != "" || s.Badge != "" {
		return p, nil
	}
	switch err := second(ctx, p, s.Code); {
	case errors.Is(err, ErrSecond):
		how = half
		return store.Person{}, err
	case err != nil:
		how = failed
		return store.Person{}, err
	}
	return p, nil
}

// belongs tells whether a person has something to do with a project.
func (h *Host) belongs(ctx context.Context, person store.Person, project string) bool {
	if person.Owner || person.Home == project {
		return true
	}
	p, err := h.Project(project)
	if err != nil {
		return false
	}
	grants, err := p.Grants(ctx)
	if err != nil {
		return false
	}
	for _, g := range grants {
		if g.Person == person.ID {
			return true
		}
	}
	return false
}

// SignIn checks a secret for a session. One that somebody else set lets in
// once: the person has to choose then.
func (h *Host) SignIn(ctx context.Context, s Secret) (who Actor, mustChoose bool, err error) {
	p, err := h.check(ctx, s, h.second)
	if err != nil {
		return Actor{}, false, err
	}
	mustChoose = p.Renew
	// A badge alone, or the directory's password, uses up no secret that somebody else set.
	if p.SetBy != "" && (s.Badge == "" && p.Subject == "" || s.PIN != "") {
		h.accounts.Lock()
		defer h.accounts.Unlock()
		if p, err = h.server.Person(ctx, p.ID); err != nil {
			return Actor{}, false, err
		}
		if p.Password == "" && p.PIN == "" {
			return Actor{}, false, ErrSignIn // another sign-in was quicker
		}
		p.Password, p.PIN = "", ""
		if err := h.server.PutPerson(ctx, p); err != nil {
			return Actor{}, false, err
		}
		mustChoose = true
	}
	who = actorOf(p)
	who.Panel, who.From = s.Panel, s.From
	return who, mustChoose, nil
}
