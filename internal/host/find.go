package host

import (
	"context"
	"errors"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/device"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/record"
)

// Found is where a condition held in a recorded time.
type Found struct {
	Tags      []string       `json:"tags" doc:"paths of the tags that the condition needs"`
	Count     int            `json:"count"`
	Seconds   float64        `json:"seconds" doc:"that it held in all"`
	Stretches []FoundStretch `json:"stretches" doc:"the newest 1000, oldest first"`
}

// FoundStretch is one time that it held.
type FoundStretch struct {
	From   int64    `json:"from" doc:"milliseconds since 1970"`
	To     int64    `json:"to"`
	Values []string `json:"values" doc:"of the tags, as it began, as they are shown"`
}

const mostFound = 1000

// searches are those that go on, by who began each and what they call it.
type searches struct {
	mu     sync.Mutex
	shares map[[2]string]float64
}

// begin notes a search that has a name; seen tells how far it is, end that it is
// over.
func (s *searches) begin(who, name string) (seen func(share float64), end func()) {
	if name == "" {
		return func(float64) {}, func() {}
	}
	key := [2]string{who, name}
	seen = func(share float64) {
		s.mu.Lock()
		defer s.mu.Unlock()
		if s.shares == nil {
			s.shares = map[[2]string]float64{}
		}
		s.shares[key] = share
	}
	seen(0)
	return seen, func() {
		s.mu.Lock()
		defer s.mu.Unlock()
		delete(s.shares, key)
	}
}

// SearchShare is how much of a search is done, 0 to 1; 1 where none goes on.
func (p *Project) SearchShare(ctx context.Context, who Actor, name string) (float64, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return 0, err
	}
	p.searches.mu.Lock()
	defer p.searches.mu.Unlock()
	if share, on := p.searches.shares[[2]string{who.ID, name}]; on {
		return share, nil
	}
	return 1, nil
}

// Find looks for the stretches of a recorded time in which a condition held, for
// at least a time; the condition is a formula in shown form. Where the search has
// a name SearchShare tells how far it is.
func (p *Project) Find(ctx context.Context, who Actor, released bool, condition string, least time.Duration, in Period,
	search string) (*Found, error) {
	reader, err := p.mayRead(ctx, who, nil, in)
	if err != nil {
		return nil, err
	}
	version := p.version(released)
	if version == nil {
		return nil, refused("nothing is released yet, so nothing has a name here")
	}
	c, err := conditionOf(version, condition)
	if err != nil {
		return nil, err
	}
	c.Least = int64(least)
	out := &Found{Tags: make([]string, len(c.Tags)), Stretches: []FoundStretch{}}
	tags := make([]*tag.Tag, len(c.Tags))
	for i, id := range c.Tags {
		tags[i], _ = version.Tag(id)
		if err := p.Require(ctx, who, access.View, version.AreaOf(tags[i])); err != nil {
			return nil, err
		}
		out.Tags[i], _ = version.Path(id)
	}
	share, end := p.searches.begin(who.ID, search)
	defer end()
	from, to := in.From.UnixNano(), in.To.UnixNano()
	seen := func(at int64) { share(float64(at-from) / float64(max(to-from, 1))) }
	err = reader.Find(ctx, c, from, to, seen, func(s history.Span, began []value.Value) bool {
		out.Count++
		out.Seconds += float64(s.To-s.From) / 1e9
		shown := make([]string, len(began))
		for i, v := range began {
			if !v.Quality.IsBad() {
				shown[i] = tags[i].Show(v, true)
			}
		}
		if len(out.Stretches) == 2*mostFound {
			out.Stretches = append(out.Stretches[:0], out.Stretches[mostFound:]...)
		}
		out.Stretches = append(out.Stretches, FoundStretch{s.From / 1e6, s.To / 1e6, shown})
		return true
	})
	out.Stretches = out.Stretches[max(0, len(out.Stretches)-mostFound):]
	return out, err
}

// conditionOf compiles a condition in shown form.
func conditionOf(version *project.Project, shown string) (*record.Condition, error) {
	stored, err := version.StoreFormula(shown)
	if err != nil {
		return nil, unfit(err)
	}
	c, err := record.ConditionOf(version, stored)
	if err != nil {
		return nil, unfit(err)
	}
	return c, nil
}

// unfit says what is wrong with a formula and where.
func unfit(err error) error {
	var fe *formula.Error
	if errors.As(err, &fe) {
		return refused("%v", fe)
	}
	return refused("%s", err)
}

// EdgePairs are the times from an edge of one signal to one of another, and how
// sure they are.
type EdgePairs struct {
	record.Pairs
	Unsure float64 `json:"unsure" doc:"seconds by which each time may be more or less, as signals are read only so often"`
}

// Pairs measures the times from one edge to another in a recorded time.
func (p *Project) Pairs(ctx context.Context, who Actor, first, second record.Edge, in Period, least, most float64) (*EdgePairs, error) {
	reader, err := p.mayRead(ctx, who, nil, in)
	if err != nil {
		return nil, err
	}
	var unsure time.Duration
	for _, e := range []record.Edge{first, second} {
		version, t := p.recordedTag(e.Tag)
		switch {
		case t == nil:
			return nil, refused("there is no tag %q: choose two BOOL", e.Tag)
		case t.Kind() != value.BOOL:
			return nil, refused("%s is %s; only a BOOL has edges", t.Name, t.Kind())
		}
		if err := p.Require(ctx, who, access.View, version.AreaOf(t)); err != nil {
			return nil, err
		}
		unsure = max(unsure, readEvery(version, t, 0))
	}
	pairs, err := reader.Pairs(ctx, first, second, in.From.UnixNano(), in.To.UnixNano(), least, most)
	if errors.Is(err, record.ErrManyEdges) {
		return nil, refused("%s", err)
	}
	if err != nil {
		return nil, err
	}
	return &EdgePairs{*pairs, unsure.Seconds()}, nil
}

// deepest bounds how far computed tags are followed to what they come of.
const deepest = 16

// readEvery is how long a change of a tag may stay unseen: the time between two
// reads of it, or of what it is computed of. A device that tells of changes by
// itself leaves nothing unseen.
func readEvery(version *project.Project, t *tag.Tag, depth int) time.Duration {
	switch t.Source {
	case tag.Device:
		if d := version.Devices[t.Device]; d != nil && d.Protocol != device.MQTT {
			return d.PollEvery(t)
		}
	case tag.Computed:
		var longest time.Duration
		for _, id := range formula.References(t.Formula) {
			if of, ok := version.Tag(id); ok && depth < deepest {
				longest = max(longest, readEvery(version, of, depth+1))
			}
		}
		return longest
	}
	return 0
}

// version is the release, or the draft.
func (p *Project) version(released bool) *project.Project {
	if released {
		return p.Released()
	}
	return p.Draft()
}
