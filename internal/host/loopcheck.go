package host

import (
	"context"
	"encoding/json"
	"io"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/exchange"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// Loop check: each point of a device is proved from its terminal to its value.
// A proof holds for the definition that was proved; where address, type or
// scaling are others now, the point is untested again, and says so.

// Results of a loop check.
const (
	Untested = "untested"
	Passed   = "passed"
	Failed   = "failed"
)

// LoopCheck is how the check of a point stands.
type LoopCheck struct {
	Tag    string    `json:"tag"`
	Path   string    `json:"path"`
	Result string    `json:"result" enum:"untested,passed,failed"`
	Person string    `json:"person,omitempty"`
	At     time.Time `json:"at,omitzero"`
	Seen   string    `json:"seen,omitempty" doc:"value seen, as people read it"`
	Raw    string    `json:"raw,omitempty"`
	Note   string    `json:"note,omitempty"`
	// Outdated says that it was proved, and its definition changed since.
	Outdated bool `json:"outdated,omitempty"`
}

// definition is what a proof holds for.
func definition(p *project.Project, t *tag.Tag) string {
	d := p.Devices[t.Device]
	if d == nil {
		return ""
	}
	b, _ := json.Marshal([]any{t.Device, t.Address, t.WriteAddress, t.Type, d.TagOrder(t), t.Scale, t.Invert})
	return string(b)
}

// LoopChecks tells how the points of one version stand.
type LoopChecks struct {
	draft *project.Project
	kept  map[string]store.LoopCheck
}

// LoopChecks returns how the points of the draft stand: every device tag is
// one, untested where nothing is kept or its definition changed since.
func (p *Project) LoopChecks(ctx context.Context) (*LoopChecks, error) {
	list, err := p.state.LoopChecks(ctx)
	if err != nil {
		return nil, err
	}
	l := &LoopChecks{p.Draft(), make(map[string]store.LoopCheck, len(list))}
	for _, c := range list {
		l.kept[c.Tag] = c
	}
	return l, nil
}

// Of returns how a tag stands; ok is false for what is no point.
func (l *LoopChecks) Of(t *tag.Tag) (c LoopCheck, ok bool) {
	if t.Source != tag.Device {
		return c, false
	}
	path, _ := l.draft.Path(t.ID)
	c = LoopCheck{Tag: t.ID, Path: path, Result: Untested}
	if k, ok := l.kept[t.ID]; ok {
		c.Result, c.Person, c.At, c.Seen, c.Raw, c.Note = k.Result, k.Name, time.Unix(0, k.At), k.Seen, k.Raw, k.Note
		if k.Definition != definition(l.draft, t) {
			c.Result, c.Outdated = Untested, true
		}
	}
	return c, true
}

// All lists every point by path.
func (l *LoopChecks) All() []LoopCheck {
	out := []LoopCheck{}
	for _, id := range l.draft.SortedTags() {
		if c, ok := l.Of(l.draft.Tags[id]); ok {
			out = append(out, c)
		}
	}
	return out
}

// Prove keeps the result of a point's check, with what it shows now. An empty
// result takes a proof back.
func (p *Project) Prove(ctx context.Context, who Actor, ids []string, result, note string) error {
	if err := p.Require(ctx, who, access.Commission, ""); err != nil {
		return err
	}
	note, err := checkProof(result, note)
	if err != nil {
		return err
	}
	draft := p.Draft()
	now := p.ReadTags(run.Draft, ids)
	var list []store.LoopCheck
	for i, id := range ids {
		t, ok := draft.Tag(id)
		if !ok || t.Source != tag.Device {
			return refused("only the points of devices are checked")
		}
		path, _ := draft.Path(id)
		if result == Passed && now[i].Value.Quality.IsBad() {
			return refused("%s shows nothing to pass: %s", path, now[i].Value.Quality.Reason())
		}
		c := store.LoopCheck{Tag: id, Result: result, Person: who.ID, Name: who.Name, At: time.Now().UnixNano(),
			Seen: shownValue(t, now[i].Value), Note: note, Definition: definition(draft, t)}
		if !now[i].Raw.Quality.IsBad() {
			c.Raw = now[i].Raw.Text()
		}
		list = append(list, c)
		shown := result
		if shown == "" {
			shown = Untested
		}
		if _, err := p.records.Trail.Append(context.WithoutCancel(ctx),
			audit.Record{At: c.At, What: audit.Proof, Person: who.ID, Name: who.Name, Panel: who.Panel, Tag: id, Path: path, Old: c.Seen,
				New: shown, Reason: note}); err != nil {
			return err
		}
	}
	if err := p.state.PutLoopChecks(ctx, list); err != nil {
		return err
	}
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"loop/1"}})
	return nil
}

// checkProof refuses what cannot be said of a point, and trims the note.
func checkProof(result, note string) (string, error) {
	note = strings.TrimSpace(note)
	switch {
	case result != Passed && result != Failed && result != "":
		return "", refused("a point is passed or failed")
	case len(note) > 500:
		return "", refused("a note has at most 500 characters")
	case result == Failed && note == "":
		return "", refused("say in the note what failed")
	}
	return note, nil
}

// WriteLoopChecks writes the register as CSV, every point in the order of
// paths.
func (p *Project) WriteLoopChecks(ctx context.Context, w io.Writer) error {
	checks, err := p.LoopChecks(ctx)
	if err != nil {
		return err
	}
	return exchange.WriteTable(w, exchange.CSV, "loop checks", func(line func([]string) error) error {
		if err := line([]string{"path", "description", "device", "address", "result", "when", "who", "value", "raw", "note"}); err != nil {
			return err
		}
		for _, c := range checks.All() {
			t := checks.draft.Tags[c.Tag]
			device, at := "", ""
			if d := checks.draft.Devices[t.Device]; d != nil {
				device = d.Name
			}
			if !c.At.IsZero() {
				at = c.At.UTC().Format(time.RFC3339)
			}
			result := c.Result
			if c.Outdated {
				result = "untested since its definition changed"
			}
			if err := line([]string{c.Path, t.Description, device, t.Address, result, at, c.Person, c.Seen, c.Raw, c.Note}); err != nil {
				return err
			}
		}
		return nil
	})
}
