package host

import (
	"context"
	"sync"

	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
)

// recipeBoard knows how the targets of books stand by their records, until one of
// the records changes.
type recipeBoard struct {
	mu sync.Mutex
	at map[string]*TargetState // by book and target
}

func (b *recipeBoard) changed() {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.at = nil
}

// get reads what is recorded of a target, once.
func (b *recipeBoard) get(ctx context.Context, p *Shelf, book, target string) (*TargetState, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	key := book + " " + target
	if t := b.at[key]; t != nil {
		return t, nil
	}
	t := &TargetState{Target: target, Open: []DeliveryShown{}}
	if err := p.deliveredThere(ctx, book, t); err != nil {
		return nil, err
	}
	unfinished, err := p.store.Unfinished(ctx)
	if err != nil {
		return nil, err
	}
	for i := range unfinished {
		d := &unfinished[i]
		if d.Book != book || d.Target != target || !d.Open {
			continue
		}
		shown, err := p.deliveryShown(d, false)
		if err != nil {
			return nil, err
		}
		t.Open = append(t.Open, shown)
	}
	if b.at == nil {
		b.at = map[string]*TargetState{}
	}
	b.at[key] = t
	return t, nil
}

// recipeValue is a system tag of a book of recipes. One that is of no target, or
// that cannot be told now, is bad.
func (p *Shelf) recipeValue(s engine.SystemTag) (value.Value, bool) {
	about, _ := tag.SystemValueOf(s.Name)
	bad := func(q value.Quality) (value.Value, bool) { return value.Bad(about.Type.Kind, q), true }
	b, target, ok := p.recipeTarget(s, about.Target)
	if !ok {
		return bad(value.BadConfig)
	}
	ctx := context.Background()
	switch s.Name {
	case "recipe.held":
		n, err := p.store.Count(ctx, b.ID)
		if err != nil {
			return bad(value.BadWaiting)
		}
		return value.Int(value.LINT, n), true
	case "recipe.busy":
		return value.Bool(p.under.to(b.ID, target) != nil), true
	case "recipe.share":
		return value.Real(value.LREAL, p.under.to(b.ID, target).share()), true
	}
	t, err := p.board.get(ctx, p, b.ID, target)
	if err != nil {
		return bad(value.BadWaiting)
	}
	runs := t.Runs
	if runs == nil {
		runs = &DeliveryShown{}
	}
	switch s.Name {
	case "recipe.runs":
		return value.Str(runs.Title), true
	case "recipe.version":
		return value.Int(value.LINT, runs.Version), true
	case "recipe.left":
		return value.Int(value.INT, int64(len(t.Open))), true
	}
	changed, unknown, why := p.differs(t.Fields)
	if unknown > 0 {
		return bad(why)
	}
	return value.Int(value.INT, int64(changed)), true
}

// recipeTarget finds the book and the target that a system tag is about, in what
// runs or else in the draft.
func (p *Shelf) recipeTarget(s engine.SystemTag, ofTarget bool) (b *recipe.Book, target string, ok bool) {
	for _, version := range []func() *project.Project{p.plant, p.Draft} {
		v := version()
		if v == nil || v.Books[s.Book] == nil {
			continue
		}
		if !ofTarget {
			return v.Books[s.Book], "", true
		}
		if t, there := v.Tag(s.Tag); there {
			target, ok = v.TargetOf(v.Books[s.Book], t)
			return v.Books[s.Book], target, ok
		}
	}
	return nil, "", false
}
