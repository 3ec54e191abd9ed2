package run

import (
	"sync"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// OpenRecipe is what a page tells of a book: the recipe that is open there, as it is
// edited. Nobody but who looks at that page sees it.
type OpenRecipe struct {
	Name    string            `json:"name"`
	Version int64             `json:"version"`
	Changed bool              `json:"changed"` // it is edited and not saved
	Values  map[string]string `json:"values"`  // by the ids of the fields
}

// Onlooker is who looks at a screen, and the page on which.
type Onlooker struct {
	access.Actor
	Page int64 // 0 for none that tells anything
}

// pages are what pages told, by page, program and book.
type pages struct {
	mu   sync.Mutex
	open map[pageKey]map[string]OpenRecipe
}

type pageKey struct {
	page    int64
	program Program
}

// longestOpen bounds a text that a page tells, in bytes.
const longestOpen = 1000

// of is what is told of a book, and nothing beside it.
func (o *OpenRecipe) of(b *recipe.Book) *OpenRecipe {
	out := OpenRecipe{Name: o.Name[:min(len(o.Name), longestOpen)], Version: o.Version, Changed: o.Changed, Values: map[string]string{}}
	for i := range b.Fields {
		if text, told := o.Values[b.Fields[i].ID]; told && len(text) <= longestOpen {
			out.Values[b.Fields[i].ID] = text
		}
	}
	return &out
}

// TellOpen notes the recipe of a book that is open at a page; nil says that none is.
// The page's screens show it at once. Of a book that the program does not have nothing
// is noted.
func (r *Runs) TellOpen(page int64, program Program, book string, o *OpenRecipe) {
	version := r.Version(program)
	if version == nil || version.Books[book] == nil {
		return
	}
	if o != nil {
		o = o.of(version.Books[book])
	}
	key := pageKey{page, program}
	r.pages.mu.Lock()
	mine := r.pages.open[key]
	switch {
	case o == nil:
		delete(mine, book)
	case mine == nil:
		if r.pages.open == nil {
			r.pages.open = map[pageKey]map[string]OpenRecipe{}
		}
		r.pages.open[key] = map[string]OpenRecipe{book: *o}
	default:
		mine[book] = *o
	}
	r.pages.mu.Unlock()
	r.feeds.tell(r, key)
}

// ForgetPage forgets what a page told that is closed.
func (r *Runs) ForgetPage(page int64) {
	r.pages.mu.Lock()
	defer r.pages.mu.Unlock()
	for key := range r.pages.open {
		if key.page == page {
			delete(r.pages.open, key)
		}
	}
}

// openAt is the recipe of a book that is open at a page.
func (r *Runs) openAt(key pageKey, book string) (OpenRecipe, bool) {
	r.pages.mu.Lock()
	defer r.pages.mu.Unlock()
	o, ok := r.pages.open[key][book]
	return o, ok
}

// own are values that a viewer has for itself, by input of a screen.
type own map[int32]value.Value

// ownInputs are those that a screen asks for; ofPage tells whether some are of the
// page, and not of the person or the panel alone.
func (r *Runs) ownInputs(b *screen.Bound, version *project.Project, program Program, who Onlooker) (out own, ofPage bool) {
	for i, id := range b.Inputs {
		t, ok := version.Tag(id)
		if !ok || !t.Own() {
			continue
		}
		if out == nil {
			out = own{}
		}
		out[int32(i)] = r.ownValue(t, program, who)
		ofPage = ofPage || t.Book != ""
	}
	return out, ofPage
}

func (r *Runs) ownValue(t *tag.Tag, program Program, who Onlooker) value.Value {
	switch {
	case t.System == "desk":
		return value.Str(who.Panel)
	case t.Book == "":
		return value.Str(who.Name)
	}
	o, ok := r.openAt(pageKey{who.Page, program}, t.Book)
	switch t.System {
	case "recipe.open":
		return value.Str(o.Name)
	case "recipe.openVersion":
		return value.Int(value.LINT, o.Version)
	case "recipe.openChanged":
		return value.Bool(o.Changed)
	}
	text, given := o.Values[t.Field]
	if !ok || !given {
		return value.Bad(t.Kind(), value.BadWaiting)
	}
	v, err := value.Parse(t.Type, text)
	if err != nil {
		return value.Bad(t.Kind(), value.BadInput)
	}
	return v
}
