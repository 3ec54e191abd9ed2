package host

import (
	"context"
	"slices"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/run"
)

// Signature is one that is given: who signs, and their secret.
type Signature struct {
	Name   string `json:"name,omitempty" maxLength:"60" doc:"that they sign in with; of who acts it may be left out after the first signature"`
	Secret string `json:"secret" maxLength:"200" doc:"password; at a panel the PIN too; of a visit to the company's directory its ticket"`
}

// Given is what a person says to what is asked.
type Given struct {
	// Answered says that the person was asked: what is missing is refused, and not
	// asked for.
	Answered   bool        `json:"answered,omitempty" doc:"the person was asked: what is missing now is refused"`
	Reason     string      `json:"reason,omitempty" maxLength:"300"`
	Signatures []Signature `json:"signatures,omitempty" maxItems:"2" doc:"of who acts first, and then of the second person"`
}

// Asks is what a person is asked before something is carried out.
type Asks struct {
	access.Asking
	RoleNames []string `json:"roleNames" doc:"the names of the roles that the second person has"`
	// Name says that one's own signature takes the name too: the first one does
	// (21 CFR 11.200(a)(1)).
	Name bool `json:"name" doc:"one's own signature takes the name too: it is the first of uninterrupted work"`
}

// Error is for who has no way to ask.
func (a *Asks) Error() string { return "this asks for a reason or a signature first" }

// uninterrupted is how long after a signature the next one of the session takes
// the secret alone.
const uninterrupted = 15 * time.Minute

// signings are when somebody signed last, by session.
type signings struct {
	mu sync.Mutex
	at map[string]time.Time
}

// going tells whether a session signed a short while ago.
func (s *signings) going(session string, now time.Time) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	at, ok := s.at[session]
	return ok && session != "" && now.Sub(at) < uninterrupted && !now.Before(at)
}

func (s *signings) signed(session string, now time.Time) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.at == nil {
		s.at = map[string]time.Time{}
	}
	for old, at := range s.at {
		if now.Sub(at) > uninterrupted {
			delete(s.at, old)
		}
	}
	s.at[session] = now
}

func (g *Given) answered() bool { return g.Answered || g.Reason != "" || len(g.Signatures) > 0 }

// asksOf is what is asked of a person, in a language.
func (p *Project) asksOf(version *project.Project, who Actor, asked project.Asked, language string) *Asks {
	out := &Asks{Asking: asked.Asking, RoleNames: []string{}}
	for _, id := range asked.Roles {
		if r := version.Roles[id]; r != nil {
			out.RoleNames = append(out.RoleNames, version.Word(language, r.Name))
		}
	}
	out.Reasons, out.Meanings = words(version, language, asked.Reasons), words(version, language, asked.Meanings)
	own := asked.Sign == access.SignOwn || asked.Sign == access.SignBoth
	out.Name = own && !p.host.signed.going(who.Session, time.Now())
	return out
}

func words(version *project.Project, language string, texts []string) []string {
	out := make([]string, len(texts))
	for i, text := range texts {
		out[i] = version.Word(language, text)
	}
	return out
}

// rolesOf tells which roles somebody has in each area.
func (p *Project) rolesOf(ctx context.Context, who Actor, right access.Right) project.RolesAt {
	policy, err := p.policy(ctx, who, right)
	if err != nil {
		return func(string) []string { return nil }
	}
	return func(area string) []string { return policy.RolesIn(who.ID, area) }
}

// undersigned is a command that is to be signed: by whom, for what, and in which areas: a second
// person has the right and the roles in each.
type undersigned struct {
	p       *Project
	version *project.Project
	who     Actor
	asked   project.Asked
	given   Given
	right   access.Right // that a second person has in the area
	areas   []string
	name    string // of what is signed, for refusals
}

// check asks for what is asked, and says who signed and what was the case.
func (s *undersigned) check(ctx context.Context) (by audit.Witness, err error) {
	if err := s.reason(); err != nil {
		return by, err
	}
	if by.Sign, err = s.signed(ctx); err == nil {
		by.Captured = s.p.captured(s.version, s.asked.Capture)
	}
	return by, err
}

// signed asks for the signatures and says whose they are, with their meaning.
func (s *undersigned) signed(ctx context.Context) (string, error) {
	var names []string
	left := s.given.Signatures
	next := func() Signature {
		if len(left) == 0 {
			return Signature{}
		}
		first := left[0]
		left = left[1:]
		return first
	}
	if s.asked.Sign == access.SignOwn || s.asked.Sign == access.SignBoth {
		if err := s.own(ctx, next()); err != nil {
			return "", err
		}
		names = append(names, s.who.Name)
	}
	if s.asked.Sign == access.SignSecond || s.asked.Sign == access.SignBoth {
		name, err := s.second(ctx, next())
		if err != nil {
			return "", err
		}
		names = append(names, name)
	}
	if len(names) == 0 {
		return "", nil
	}
	signed := strings.Join(names, ", ")
	if len(s.asked.Meanings) > 0 {
		signed += ": " + strings.Join(s.asked.Meanings, ", ")
	}
	return signed, nil
}

// captured are the values of tags, as people read them, as they are in what runs.
func (p *Project) captured(version *project.Project, ids []string) string {
	texts := make([]string, 0, len(ids))
	for i, now := range p.ReadTags(run.Release, ids) {
		if t, ok := version.Tag(ids[i]); ok {
			path, _ := version.Path(t.ID)
			text := path + " = " + shownValue(t, now.Value)
			if q := now.Value.Quality; q != value.Good && !q.IsBad() {
				text += " (" + q.Reason().Say(say.English) + ")"
			}
			texts = append(texts, text)
		}
	}
	return strings.Join(texts, "; ")
}

// ask is for what is done at once and has a reason in its own dialogue: it asks
// for what is missing beyond that, or checks what was answered.
func (s *undersigned) ask(ctx context.Context, language string) (audit.Witness, error) {
	more := s.asked.Confirm || s.asked.Sign != "" || s.reason() != nil
	if more && !s.given.Answered {
		return audit.Witness{}, s.p.asksOf(s.version, s.who, s.asked, language)
	}
	return s.check(ctx)
}

// reason checks the reason: one that is required, and one of those that are given.
func (s *undersigned) reason() error {
	reason := strings.TrimSpace(s.given.Reason)
	switch {
	case reason == "" && s.asked.Reason == access.ReasonRequired:
		return refused("%s asks for a reason", s.name)
	case reason == "" || s.asked.Reason == "" || len(s.asked.Reasons) == 0:
		return nil
	}
	for _, x := range s.asked.Reasons {
		if reason == x || slices.Contains(s.version.EveryWord(x), reason) {
			return nil
		}
	}
	return refused("%s takes one of its own reasons: %s", s.name, strings.Join(s.asked.Reasons, "; "))
}

// own is the signature of who acts: name and secret the first time, and the
// secret alone within uninterrupted work (21 CFR 11.200(a)(1)).
func (s *undersigned) own(ctx context.Context, by Signature) error {
	h := s.p.host
	if by.Secret == "" {
		return refused("this asks for your signature: enter your password")
	}
	name := strings.TrimSpace(by.Name)
	switch {
	case name == "" && !h.signed.going(s.who.Session, time.Now()):
		return refused("the first signature takes your name too: enter the name that you sign in with, and your password")
	case name != "" && !strings.EqualFold(name, s.who.Login):
		return refused("this asks for the signature of %s, who is signed in", s.who.Name)
	}
	if err := h.proves(ctx, s.who, Secret{Name: s.who.Login, Password: by.Secret, Signs: true}); err != nil {
		return err
	}
	h.signed.signed(s.who.Session, time.Now())
	return nil
}

// second is the signature of another person, who may do this as well and has the
// roles that are asked for.
func (s *undersigned) second(ctx context.Context, by Signature) (name string, err error) {
	if by.Name == "" || by.Secret == "" {
		return "", refused("this asks for the signature of a second person: their name and password")
	}
	secret := Secret{Name: by.Name, Password: by.Secret, From: s.who.From, Session: s.who.Session, Signs: true}
	if s.who.Panel != "" {
		secret.PIN, secret.Panel, secret.Project = by.Secret, s.who.Panel, s.p.id
	}
	second, err := s.p.host.Check(ctx, secret)
	if err != nil {
		return "", err
	}
	if second.ID == s.who.ID {
		return "", refused("a second person signs this, not you")
	}
	rolesIn := s.p.rolesOf(ctx, second, s.right)
	for _, area := range s.areas {
		if err := s.p.Require(ctx, second, s.right, area); err != nil {
			return "", err
		}
		has := rolesIn(area)
		for _, role := range s.asked.Roles {
			if r := s.version.Roles[role]; r != nil && !slices.Contains(has, role) {
				return "", refused("the second signature takes the role %s, and %s has no such role here", say.Term(r.Name), second.Name)
			}
		}
	}
	return second.Name, nil
}
