package host

import (
	"context"
	"errors"
	"slices"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// SheetAsk is one column that is asked for: a version of a recipe as it is kept,
// values that are being edited, or what a target has now.
type SheetAsk struct {
	Recipe   string            `json:"recipe,omitempty" maxLength:"60" doc:"id"`
	Version  int64             `json:"version,omitempty" doc:"0 for the newest"`
	Values   map[string]string `json:"values,omitempty" doc:"as they are edited, instead of those that are kept"`
	Target   *string           `json:"target,omitempty" maxLength:"200" doc:"id of the equipment whose present values are asked for; empty for a book of single tags"`
	Quantity float64           `json:"quantity,omitempty" doc:"to scale to; 0 leaves the values as they are"`
}

// Sheet is one column: the fields of a book in order with their values.
type Sheet struct {
	Recipe   string           `json:"recipe"`
	Name     string           `json:"name"`
	Version  int64            `json:"version" doc:"0 for values of a target, or of a new recipe"`
	Latest   int64            `json:"latest"`
	State    string           `json:"state" enum:",draft,approved,withdrawn"`
	Cells    []SheetCell      `json:"cells"`
	Problems []recipe.Breach  `json:"problems"`
	Carried  []recipe.Carried `json:"carried" doc:"what the book's change did to the values"`
	Differs  int              `json:"differs" doc:"in how many fields from the first column"`
}

// SheetCell is the value of one field.
type SheetCell struct {
	Text    string `json:"text" doc:"as it is edited and kept"`
	Shown   string `json:"shown" doc:"as people read it, without unit"`
	Bad     string `json:"bad" doc:"why there is no good value; empty for a good one"`
	Low     string `json:"low" doc:"its limit now; empty for none"`
	High    string `json:"high"`
	Differs bool   `json:"differs" doc:"from the first column"`
}

// column is a sheet with its values.
type column struct {
	Sheet
	values []value.Value // engineering, by the fields' order
	target *string
}

// mostColumns is how many columns are looked at together.
const mostColumns = 60

// Sheets looks at recipes and targets side by side; each but the first says where
// it differs from it.
func (p *Shelf) Sheets(ctx context.Context, who Actor, book string, draft bool, asks []SheetAsk) ([]Sheet, error) {
	version, err := p.bookVersion(ctx, who, draft)
	if err != nil {
		return nil, err
	}
	b, err := findBook(version, book)
	if err != nil {
		return nil, err
	}
	if len(asks) > mostColumns {
		return nil, refused("at most %d columns are compared", mostColumns)
	}
	look := p.looker(version, b)
	columns := make([]column, len(asks))
	for i, ask := range asks {
		if ask.Target != nil {
			columns[i], err = p.targetColumn(version, b, *ask.Target)
		} else {
			columns[i], err = p.recipeColumn(ctx, b, ask, look)
		}
		if err != nil {
			return nil, err
		}
	}
	out := make([]Sheet, len(columns))
	for i := range columns {
		if i > 0 {
			columns[i].against(version, b, &columns[0])
		}
		out[i] = columns[i].Sheet
	}
	return out, nil
}

// looker looks at values by the rules of a book, with the tags' values of now.
func (p *Shelf) looker(version *project.Project, b *recipe.Book) func(recipe.Values) ([]recipe.Cell, []recipe.Breach) {
	rules := version.BookRules(b)
	now := map[string]value.Value{}
	for i, r := range p.ReadTags(p.program(), rules.Outer()) {
		now[rules.Outer()[i]] = r.Value
	}
	return func(values recipe.Values) ([]recipe.Cell, []recipe.Breach) {
		return rules.Look(values, func(id string) value.Value { return now[id] })
	}
}

// recipeColumn is the column of a version, or of values that are edited.
func (p *Shelf) recipeColumn(ctx context.Context, b *recipe.Book, ask SheetAsk,
	look func(recipe.Values) ([]recipe.Cell, []recipe.Breach)) (column, error) {
	out := column{Sheet: Sheet{Carried: []recipe.Carried{}}}
	values := recipe.Values(ask.Values)
	if ask.Recipe != "" {
		r, v, err := p.recipeVersion(ctx, b, ask.Recipe, ask.Version)
		if err != nil {
			return out, err
		}
		kept, changes, err := carried(b, v.Doc)
		if err != nil {
			return out, err
		}
		out.Recipe, out.Name, out.Version, out.Latest, out.State = r.ID, r.Name, v.Number, r.Latest, v.State
		if values == nil {
			values, out.Carried = kept, append(out.Carried, changes...)
		}
	}
	if ask.Quantity > 0 {
		scaled, err := b.Scale(values, ask.Quantity)
		if err != nil {
			return out, refused("%v", err)
		}
		values = scaled
	}
	cells, problems := look(values)
	out.Problems = problems
	for i := range cells {
		f, c := &b.Fields[i], &cells[i]
		show := f.Shown()
		cell := SheetCell{Text: values[f.ID]}
		if c.Value.Quality.IsBad() {
			cell.Bad = string(c.Value.Quality.Reason())
		} else {
			cell.Shown = show.Show(c.Value, false)
			if f.Formula != "" || cell.Text == "" {
				cell.Text = c.Value.Text()
			}
		}
		for limit, into := range map[*float64]*string{c.Low: &cell.Low, c.High: &cell.High} {
			if limit != nil {
				*into = show.Show(value.Real(value.LREAL, *limit), false)
			}
		}
		out.Cells, out.values = append(out.Cells, cell), append(out.values, c.Value)
	}
	return out, nil
}

// recipeVersion finds a version of a recipe of a book; number 0 is the newest.
func (p *Shelf) recipeVersion(ctx context.Context, b *recipe.Book, id string, number int64) (store.Recipe, store.RecipeVersion, error) {
	r, err := p.recipe(ctx, id)
	if err != nil {
		return r, store.RecipeVersion{}, err
	}
	if r.Book != b.ID {
		return r, store.RecipeVersion{}, ErrNotFound
	}
	if number == 0 {
		number = r.Latest
	}
	v, err := p.store.Version(ctx, id, number)
	if errors.Is(err, store.ErrNotFound) {
		err = ErrNotFound
	}
	return r, v, err
}

// targetColumn is the column of what a target has now.
func (p *Shelf) targetColumn(version *project.Project, b *recipe.Book, target string) (column, error) {
	out := column{Sheet: Sheet{Carried: []recipe.Carried{}, Problems: []recipe.Breach{}}, target: &target}
	if !slices.Contains(version.BookTargets(b), target) {
		return out, ErrNotFound
	}
	ids := make([]string, len(b.Fields))
	for i := range b.Fields {
		if t := version.BookTag(&b.Fields[i], target); t != nil {
			ids[i] = t.ID
		}
	}
	p.looks.keep(p.runs, p.program(), ids)
	for i, r := range p.ReadTags(p.program(), ids) {
		f, cell, v := &b.Fields[i], SheetCell{}, r.Value
		switch {
		case ids[i] == "":
			v = value.Bad(f.Type.Kind, value.BadConfig)
		case v.Quality.IsBad():
			cell.Bad = string(v.Quality.Reason())
		default:
			cell.Text, cell.Shown = v.Text(), f.Shown().Show(v, false)
		}
		out.Cells, out.values = append(out.Cells, cell), append(out.values, v)
	}
	return out, nil
}

// against says where a column differs from the first. Values of a target are
// compared as they are written: raw, after the tag's scaling.
func (c *column) against(version *project.Project, b *recipe.Book, first *column) {
	for i := range b.Fields {
		one, other := first.values[i], c.values[i]
		target := c.target
		if target == nil {
			target = first.target
		}
		if target == nil {
			c.Cells[i].Differs = one.Quality.IsBad() != other.Quality.IsBad() || !one.Quality.IsBad() && !one.Same(other)
		} else if t := version.BookTag(&b.Fields[i], *target); t != nil && !one.Quality.IsBad() && !other.Quality.IsBad() {
			c.Cells[i].Differs = !sameAt(t, one, other)
		}
		if c.Cells[i].Differs {
			c.Sheet.Differs++
		}
	}
}

// sameAt tells whether two engineering values are the same at a tag.
func sameAt(t *tag.Tag, one, other value.Value) bool {
	a, err := t.ToRaw(one)
	if err != nil {
		return false
	}
	b, err := t.ToRaw(other)
	return err == nil && a.Same(b)
}

// looks keeps the values of targets coming while somebody looks at them.
type looks struct {
	mu      sync.Mutex
	watches map[string]*look
}

type look struct {
	watches []*run.Watch
	until   time.Time
}

// looksFor is how long values go on coming after a look.
const looksFor = 5 * time.Second

// keep has the values of tags come for a while.
func (l *looks) keep(runs *run.Runs, program run.Program, ids []string) {
	key := string(program) + " " + strings.Join(ids, " ")
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.watches == nil {
		l.watches = map[string]*look{}
	}
	at := l.watches[key]
	if at == nil {
		at = &look{}
		for part := range slices.Chunk(ids, run.MaxWatched) {
			if w := runs.WatchTags(program, part); w != nil {
				at.watches = append(at.watches, w)
			}
		}
		l.watches[key] = at
	}
	at.until = time.Now().Add(looksFor)
}

// end ends the looks that are over.
func (l *looks) end(now time.Time) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for key, at := range l.watches {
		if now.After(at.until) {
			for _, w := range at.watches {
				w.Close()
			}
			delete(l.watches, key)
		}
	}
}
