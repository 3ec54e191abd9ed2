package host

import (
	"context"
	"io"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/exchange"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// Screen check: each element of a screen is proved for acceptance, with what
// the screen's parameters stand for. As with loops, a proof holds for the
// definition that was proved.

// ScreenCheck is how one point of a screen stands.
type ScreenCheck struct {
	project.Point
	Result   string    `json:"result" enum:"untested,passed,failed"`
	Person   string    `json:"person,omitempty"`
	At       time.Time `json:"at,omitzero"`
	Note     string    `json:"note,omitempty"`
	Outdated bool      `json:"outdated,omitempty" doc:"it was proved, and its definition changed since"`
}

// ScreenChecks returns how the points of a screen of the draft stand.
func (p *Project) ScreenChecks(ctx context.Context, id string, args screen.Args) ([]ScreenCheck, error) {
	draft := p.Draft()
	s := draft.Screens[id]
	if s == nil {
		return nil, ErrNotFound
	}
	if err := run.ArgsFit(draft, s, args); err != nil {
		return nil, err
	}
	list, err := p.state.ScreenChecks(ctx, id)
	if err != nil {
		return nil, err
	}
	args = args.With(s.Params)
	key := args.Key(s.Params)
	kept := map[string]store.ScreenCheck{}
	for _, c := range list {
		if c.Args == key {
			kept[c.Element] = c
		}
	}
	out := []ScreenCheck{}
	for _, point := range draft.Acceptance(s, args) {
		c := ScreenCheck{Point: point, Result: Untested}
		if k, ok := kept[point.Element]; ok {
			c.Result, c.Person, c.At, c.Note = k.Result, k.Name, time.Unix(0, k.At), k.Note
			if k.Definition != point.Definition() {
				c.Result, c.Outdated = Untested, true
			}
		}
		out = append(out, c)
	}
	return out, nil
}

// ScreenProof is what is said of points of a screen. An empty result takes a
// proof back.
type ScreenProof struct {
	Args     map[string]string `json:"args,omitempty"`
	Elements []string          `json:"elements" maxItems:"5000" doc:"ids in the scene; empty for the screen itself"`
	Result   string            `json:"result"`
	Note     string            `json:"note,omitempty"`
}

// ProveScreen keeps results of a screen's points.
func (p *Project) ProveScreen(ctx context.Context, who Actor, id string, proof ScreenProof) error {
	if err := p.Require(ctx, who, access.Commission, ""); err != nil {
		return err
	}
	note, err := checkProof(proof.Result, proof.Note)
	if err != nil {
		return err
	}
	points, err := p.ScreenChecks(ctx, id, proof.Args)
	if err != nil {
		return err
	}
	by := make(map[string]ScreenCheck, len(points))
	for _, c := range points {
		by[c.Element] = c
	}
	s := p.Draft().Screens[id]
	key := screen.Args(proof.Args).With(s.Params).Key(s.Params)
	shown := proof.Result
	if shown == "" {
		shown = Untested
	}
	var list []store.ScreenCheck
	for _, element := range proof.Elements {
		c, ok := by[element]
		if !ok {
			return refused("the element %q is not one of this screen's points: load it again", element)
		}
		now := time.Now()
		list = append(list, store.ScreenCheck{Screen: id, Args: key, Element: element, Result: proof.Result, Person: who.ID, Name: who.Name,
			At: now.UnixNano(), Note: note, Definition: c.Definition()})
		if _, err := p.records.Trail.Append(context.WithoutCancel(ctx),
			audit.Record{At: now.UnixNano(), What: audit.ScreenProof, Person: who.ID, Name: who.Name, Panel: who.Panel, Screen: s.Name,
				Element: c.Name, Old: c.Result, New: shown, Reason: note}); err != nil {
			return err
		}
	}
	if err := p.state.PutScreenChecks(ctx, list); err != nil {
		return err
	}
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"screen-check/" + id}})
	return nil
}

// WriteScreenChecks writes the register of every screen as CSV, each with its
// places in the navigation, or with its parameters' defaults where it has none.
func (p *Project) WriteScreenChecks(ctx context.Context, w io.Writer) error {
	return exchange.WriteTable(w, exchange.CSV, "screen checks", func(line func([]string) error) error {
		if err := line([]string{"screen", "element", "kind", "what", "result", "when", "who", "note"}); err != nil {
			return err
		}
		return p.eachScreenCheck(ctx, func(at screen.Entry, c ScreenCheck) error { return line(registerRow(at.Name, c)) })
	})
}

// eachScreenCheck hands over how every point of every screen of the draft stands, at each
// of the screen's places in the navigation.
func (p *Project) eachScreenCheck(ctx context.Context, do func(screen.Entry, ScreenCheck) error) error {
	for _, s := range p.Draft().ScreensInOrder() {
		entries := s.Entries
		if len(entries) == 0 {
			entries = []screen.Entry{{Name: s.Name}}
		}
		for _, entry := range entries {
			points, err := p.ScreenChecks(ctx, s.ID, entry.Args)
			if err != nil {
				return err
			}
			for _, c := range points {
				if err := do(entry, c); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

func registerRow(name string, c ScreenCheck) []string {
	at := ""
	if !c.At.IsZero() {
		at = c.At.UTC().Format(time.RFC3339)
	}
	result := c.Result
	if c.Outdated {
		result = "untested since its definition changed"
	}
	facts := make([]string, len(c.Facts))
	for i, f := range c.Facts {
		facts[i] = strings.TrimSpace(f.Name+" "+f.About) + ": " + f.Text
	}
	return []string{name, c.Name, c.Kind, strings.Join(facts, "; "), result, at, c.Person, c.Note}
}
