package host

import (
	"context"
	"crypto/rand"
	"errors"
	"sync"
	"time"

	"golang.org/x/oauth2"

	"readyrail/internal/directory"
)

// Visits to the provider of the company's directory: somebody leaves our pages, shows
// there who they are, and comes back. One signs in, or proves a signature.

// Wish is why somebody visits the provider.
type Wish struct {
	Back  string // the address to come back to
	Panel string // the key of the panel where it begins; empty at none
	From  string // the network address

	// Of a signature: the session of the page that asks for it, and the ticket by which
	// it asks what came of it. Both are empty for signing in.
	Session, Ticket string
}

// visits are those under way, by the state that the provider hands back, and what came of
// them: of those for signatures by session and ticket, of others by the state alone.
type visits struct {
	mu       sync.Mutex
	going    map[string]visitGoing
	outcomes map[[2]string]visitOutcome
}

type visitGoing struct {
	wish  Wish
	visit directory.Visit
	at    time.Time
}

// visitOutcome is who was there, or why nothing came of it.
type visitOutcome struct {
	who Actor
	why error
	at  time.Time
}

// How long a visit may take, how long after it a signature is given, how many visits go
// on at once, in all and from one address, and how far the provider's clock may be behind.
const (
	visitTakes     = 10 * time.Minute
	outcomeStands  = 2 * time.Minute
	mostVisits     = 10_000
	mostVisitsFrom = 100
	clocksApart    = time.Minute
)

// BeginVisit returns where to send somebody, and the state by which the provider sends
// them back; by that state the outcome is told where it fails.
func (h *Host) BeginVisit(ctx context.Context, wish Wish) (address, state string, err error) {
	d, state := h.directory.now(), rand.Text()
	if d.openID == nil {
		return "", state, h.directory.visits.came(wish, state, Actor{}, errNoVisits)
	}
	v := directory.Visit{Back: wish.Back, State: state, Nonce: rand.Text(), Verifier: oauth2.GenerateVerifier(), Fresh: wish.Ticket != ""}
	// A provider that is gone is said here, and not by the browser on a page of its own.
	if err = d.openID.Reach(ctx); err == nil {
		address, err = d.openID.Begin(ctx, v)
	}
	h.directory.answered(h, err)
	if err != nil {
		return "", state, h.directory.visits.came(wish, state, Actor{}, downRefusal(d.of, err))
	}
	h.directory.visits.begin(visitGoing{wish, v, time.Now()})
	return address, state, nil
}

// begin keeps a visit. Where there are too many, from one address or in all, the oldest
// is given up.
func (s *visits) begin(x visitGoing) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.going == nil {
		s.going = map[string]visitGoing{}
	}
	oldest, mine := "", 0
	for state, old := range s.going {
		if x.at.Sub(old.at) > visitTakes {
			delete(s.going, state)
			continue
		}
		if old.wish.From == x.wish.From {
			mine++
		}
		if first := s.going[oldest]; oldest == "" || old.at.Before(first.at) {
			oldest = state
		}
	}
	if mine >= mostVisitsFrom || len(s.going) >= mostVisits {
		delete(s.going, oldest)
	}
	s.going[x.visit.State] = x
}

// came keeps what came of a visit, and returns why nothing did.
func (s *visits) came(wish Wish, state string, who Actor, why error) error {
	key := [2]string{"", state}
	if wish.Ticket != "" {
		key = [2]string{wish.Session, wish.Ticket}
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.outcomes == nil {
		s.outcomes = map[[2]string]visitOutcome{}
	}
	for key, old := range s.outcomes {
		if time.Since(old.at) > outcomeStands {
			delete(s.outcomes, key)
		}
	}
	if len(s.outcomes) < mostVisits {
		s.outcomes[key] = visitOutcome{who, why, time.Now()}
	}
	return why
}

// EndVisit takes what the provider sent back with somebody: who they are, and for what
// they went. A signature's ticket stands proved then.
func (h *Host) EndVisit(ctx context.Context, state, code string) (Actor, Wish, error) {
	s := &h.directory.visits
	s.mu.Lock()
	x, ok := s.going[state]
	delete(s.going, state)
	s.mu.Unlock()
	if !ok || time.Since(x.at) > visitTakes {
		return Actor{}, Wish{}, s.came(x.wish, state, Actor{}, refused("this way back was taken already, or took too long: begin anew"))
	}
	who, err := h.visited(ctx, x, code)
	if err != nil || x.wish.Ticket != "" {
		return who, x.wish, s.came(x.wish, state, who, err)
	}
	return who, x.wish, nil
}

// visited tells who it is with whom the provider sent a code back.
func (h *Host) visited(ctx context.Context, x visitGoing, code string) (Actor, error) {
	d := h.directory.now()
	if d.openID == nil {
		return Actor{}, errNoVisits
	}
	if code == "" {
		return Actor{}, refused("%s let nobody in", d.of.Title)
	}
	m, at, err := d.openID.Finish(ctx, x.visit, code)
	h.directory.answered(h, err)
	if errors.Is(err, directory.ErrWrong) {
		return Actor{}, refused("%s let nobody in", d.of.Title)
	}
	if err != nil {
		return Actor{}, downRefusal(d.of, err)
	}
	if x.visit.Fresh && at.Before(x.at.Add(-clocksApart)) {
		return Actor{}, refused("%s asked for no password just now: this is no signature", d.of.Title)
	}
	p, err := h.adopt(ctx, d.of, m)
	if err != nil {
		return Actor{}, err
	}
	if shut(p) {
		return Actor{}, ErrSignIn
	}
	who := actorOf(p)
	who.Panel, who.From = h.Panel(ctx, x.wish.Panel).Name, x.wish.From
	return who, nil
}

// VisitOutcome tells whom a visit proved, or why it proved nobody; neither while nobody
// came back. A signature's is told to the session that asks for it.
func (h *Host) VisitOutcome(session, ticket string) (Actor, error) {
	s := &h.directory.visits
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, key := range [][2]string{{session, ticket}, {"", ticket}} {
		if x, ok := s.outcomes[key]; ok && time.Since(x.at) < outcomeStands {
			return x.who, x.why
		}
	}
	return Actor{}, nil
}

// takeProof uses what a ticket proved, for one signature.
func (s *visits) takeProof(session, ticket, person string) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	key := [2]string{session, ticket}
	x, ok := s.outcomes[key]
	if !ok || session == "" || x.why != nil || x.who.ID != person || time.Since(x.at) > outcomeStands {
		return false
	}
	delete(s.outcomes, key)
	return true
}
