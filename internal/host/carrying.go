package host

import (
	"context"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/store"
)

// CarriedRecipe is a recipe that is no longer what it is now once the draft is
// released.
type CarriedRecipe struct {
	Book     string `json:"book"`
	BookName string `json:"bookName"`
	Recipe   string `json:"recipe" doc:"id"`
	Name     string `json:"name"`
	Alters   bool   `json:"alters" doc:"its values are carried over: what was approved has to be approved anew"`
	Problem  string `json:"problem" doc:"what holds now and will not; empty where all does"`
}

// CarryPreview is what the draft's books make of the plant's recipes.
type CarryPreview struct {
	Looked int             `json:"looked" doc:"how many recipes there are in the books that differ"`
	Count  int             `json:"count" doc:"how many of them change or do not hold any more"`
	List   []CarriedRecipe `json:"list" doc:"the first of them"`
}

// mostCarried is how many a preview names.
const mostCarried = 100

// CarryPreview looks at the newest version of each recipe through the release's book
// and the draft's, where these differ.
func (p *Shelf) CarryPreview(ctx context.Context, who Actor) (*CarryPreview, error) {
	if err := p.Require(ctx, who, access.Engineer, ""); err != nil {
		return nil, err
	}
	out := &CarryPreview{List: []CarriedRecipe{}}
	now, next := p.Released(), p.Draft()
	if now == nil {
		return out, nil
	}
	for _, id := range project.SortedKeys(next.Books) {
		was, will := now.Books[id], next.Books[id]
		if was == nil || sameDoc(was, will) {
			continue
		}
		before, after := p.reader(now, was), p.reader(next, will)
		if err := p.eachNewest(ctx, id, func(r store.Recipe, v store.RecipeVersion) error {
			return out.add(will, r, v.Doc, before, after)
		}); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// reading is a version under one book: whether its values are carried over, and
// what does not hold.
type reading struct {
	alters  bool
	problem string
}

func (p *Shelf) reader(version *project.Project, b *recipe.Book) func(doc string) (reading, error) {
	look := p.looker(version, b)
	return func(doc string) (reading, error) {
		values, changes, err := carried(b, doc)
		if err != nil {
			return reading{}, err
		}
		_, problems := look(values)
		r := reading{alters: recipe.Alters(changes)}
		if len(problems) > 0 {
			r.problem = p.told(b, problems)
		}
		return r, nil
	}
}

// add looks at one recipe as it is and as it will be.
func (c *CarryPreview) add(b *recipe.Book, r store.Recipe, doc string, before, after func(doc string) (reading, error)) error {
	was, err := before(doc)
	if err != nil {
		return err
	}
	will, err := after(doc)
	if err != nil {
		return err
	}
	c.Looked++
	x := CarriedRecipe{Book: b.ID, BookName: b.Name, Recipe: r.ID, Name: r.Name, Alters: will.alters && !was.alters}
	if was.problem == "" {
		x.Problem = will.problem
	}
	if !x.Alters && x.Problem == "" {
		return nil
	}
	if c.Count++; len(c.List) < mostCarried {
		c.List = append(c.List, x)
	}
	return nil
}
