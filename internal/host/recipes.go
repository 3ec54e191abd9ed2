package host

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/say"
	"readyrail/internal/store"
)

// RecipeShown is a recipe as lists have it.
type RecipeShown struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Latest   int64  `json:"latest" doc:"number of its newest version"`
	State    string `json:"state" enum:"draft,approved,withdrawn" doc:"of the newest version"`
	Approved int64  `json:"approved" doc:"number of its newest approved version; 0 for none"`
	Changed  int64  `json:"changed" doc:"milliseconds since 1970"`
	Person   string `json:"person" doc:"who changed it last"`
	Problems int    `json:"problems" doc:"what does not hold in its newest version"`
	Carried  bool   `json:"carried" doc:"the book has changed since it was written, and its values with it"`
	Gone     int64  `json:"gone" doc:"when it was deleted; 0 while it is there"`
	GoneBy   string `json:"goneBy"`
}

// RecipePage is a page of recipes.
type RecipePage struct {
	Count int           `json:"count" doc:"how many there are in all"`
	List  []RecipeShown `json:"list"`
}

// RecipeAsk says which recipes of a book are asked for.
type RecipeAsk struct {
	Book  string
	Text  string
	State string // draft, approved; empty for all
	Gone  bool
	Order string // store.ByChange; empty by name
	Skip  int
	Draft bool // looked at through the draft's book
}

// recipePage is how many recipes one page has.
const recipePage = 200

// Recipes lists a page of the recipes of a book.
func (p *Shelf) Recipes(ctx context.Context, who Actor, ask RecipeAsk) (*RecipePage, error) {
	version, err := p.bookVersion(ctx, who, ask.Draft)
	if err != nil {
		return nil, err
	}
	b, err := findBook(version, ask.Book)
	if err != nil {
		return nil, err
	}
	list, count, err := p.store.List(
		ctx,
		store.RecipeSearch{Book: ask.Book, Text: ask.Text, Gone: ask.Gone, State: ask.State, Order: ask.Order, Skip: ask.Skip,
			Most: recipePage},
	)
	if err != nil {
		return nil, err
	}
	ids := make([]string, len(list))
	for i, r := range list {
		ids[i] = r.ID
	}
	newest, err := p.store.Newest(ctx, ids)
	if err != nil {
		return nil, err
	}
	look := p.looker(version, b)
	out := &RecipePage{Count: count, List: make([]RecipeShown, len(list))}
	for i, r := range list {
		v := newest[r.ID]
		values, changes, err := carried(b, v.Doc)
		if err != nil {
			return nil, err
		}
		_, problems := look(values)
		out.List[i] = RecipeShown{
			ID:       r.ID,
			Name:     r.Name,
			Latest:   r.Latest,
			State:    v.State,
			Approved: r.Approved,
			Changed:  r.Changed / 1e6,
			Person:   r.Person,
			Problems: len(problems),
			Carried:  recipe.Alters(changes),
			Gone:     r.Gone / 1e6,
			GoneBy:   r.GoneBy,
		}
	}
	return out, nil
}

// carried are the values of a version as its book has them now.
func carried(b *recipe.Book, doc string) (recipe.Values, []recipe.Carried, error) {
	var kept recipe.Values
	if err := json.Unmarshal([]byte(doc), &kept); err != nil {
		return nil, nil, say.Errorf("a version of a recipe cannot be read: %w", err)
	}
	values, changes := b.Carry(kept)
	return values, changes, nil
}

// VersionShown is a version of a recipe, without its values.
type VersionShown struct {
	Number    int64  `json:"number"`
	State     string `json:"state" enum:"draft,approved,withdrawn"`
	Person    string `json:"person" doc:"who wrote it"`
	Mine      bool   `json:"mine" doc:"whoever asks wrote it"`
	At        int64  `json:"at" doc:"milliseconds since 1970"`
	Why       string `json:"why"`
	JudgedBy  string `json:"judgedBy" doc:"who approved or withdrew it"`
	JudgedAt  int64  `json:"judgedAt"`
	JudgedWhy string `json:"judgedWhy"`
}

// Versions lists the versions of a recipe, newest first.
func (p *Shelf) Versions(ctx context.Context, who Actor, id string) ([]VersionShown, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	if _, err := p.recipe(ctx, id); err != nil {
		return nil, err
	}
	list, err := p.store.Versions(ctx, id)
	out := make([]VersionShown, len(list))
	for i, v := range list {
		out[i] = VersionShown{v.Number, v.State, v.Name, v.Person == who.ID, v.At / 1e6, v.Why, v.JudgedBy, v.JudgedAt / 1e6, v.JudgedWhy}
	}
	return out, err
}

// recipe finds a recipe.
func (p *Shelf) recipe(ctx context.Context, id string) (store.Recipe, error) {
	r, err := p.store.Recipe(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		err = ErrNotFound
	}
	return r, err
}

// RecipeDraft is a recipe that is to be made, or a version that is to follow one.
type RecipeDraft struct {
	Recipe string            `json:"recipe,omitempty" doc:"id, for a further version; empty for a new recipe"`
	Base   int64             `json:"base,omitempty" doc:"number of the version that was edited"`
	Name   string            `json:"name,omitempty" maxLength:"80" doc:"of a new recipe"`
	Values map[string]string `json:"values" doc:"by the ids of the fields"`
}

// mostAtOnce is how many recipes are saved, deleted or brought back together.
const mostAtOnce = 10_000

// SaveRecipes makes recipes and further versions of them, all or none, and
// returns their ids. Draft tells through which book they were edited.
func (p *Shelf) SaveRecipes(ctx context.Context, who Actor, book string, draft bool, list []RecipeDraft, why string) ([]string, error) {
	if err := p.Somewhere(ctx, who, access.Recipes); err != nil {
		return nil, err
	}
	version, err := p.bookVersion(ctx, who, draft)
	if err != nil {
		return nil, err
	}
	b, err := findBook(version, book)
	if err != nil {
		return nil, err
	}
	if why, err = tidyReason(why); err != nil {
		return nil, err
	}
	if len(list) == 0 || len(list) > mostAtOnce {
		return nil, refused("1 to %d recipes are saved together", mostAtOnce)
	}
	known, err := p.knownRecipes(ctx, list)
	if err != nil {
		return nil, err
	}
	made := make([]store.NewRecipe, len(list))
	failed := make([]error, len(list))
	project.InShares(len(list), func(from, to int) {
		for i := from; i < to; i++ {
			made[i].Recipe, made[i].Version, failed[i] = known.drafted(who, b, &list[i], why)
		}
	})
	var fresh []store.NewRecipe
	var next []store.RecipeVersion
	var ids, told []string
	for i := range list {
		r, v := made[i].Recipe, made[i].Version
		if failed[i] != nil {
			return nil, failed[i]
		}
		if list[i].Recipe == "" {
			fresh = append(fresh, store.NewRecipe{Recipe: r, Version: v})
		} else {
			next = append(next, v)
		}
		ids, told = append(ids, r.ID), append(told, fmt.Sprintf("%s, version %d", r.Name, v.Number))
	}
	if err := p.saved(p.store.Save(ctx, fresh, next)); err != nil {
		return nil, err
	}
	p.recipeNote(ctx, who, b, "written: "+few(told), why)
	return ids, nil
}

// known are recipes as they are kept, by their ids or the keys of their names, with
// their newest versions by their ids.
type known struct {
	recipes map[string]store.Recipe
	newest  map[string]store.RecipeVersion
}

func (p *Shelf) knownRecipes(ctx context.Context, list []RecipeDraft) (k known, err error) {
	var ids []string
	for _, d := range list {
		if d.Recipe != "" {
			ids = append(ids, d.Recipe)
		}
	}
	if k.recipes, err = p.store.Some(ctx, ids); err != nil {
		return k, err
	}
	k.newest, err = p.store.Newest(ctx, ids)
	return k, err
}

// drafted is a recipe and its version as they are to be kept.
func (k known) drafted(who Actor, b *recipe.Book, d *RecipeDraft, why string) (store.Recipe, store.RecipeVersion, error) {
	now := time.Now().UnixNano()
	r := store.Recipe{ID: store.NewID("recipe"), Book: b.ID, Changed: now, Person: who.Name, Latest: 1}
	v := store.RecipeVersion{Number: 1, State: store.DraftVersion, Person: who.ID, Name: who.Name, At: now, Why: why}
	values, err := b.Tidy(d.Values)
	if err != nil {
		return r, v, refused("%v", err)
	}
	if d.Recipe == "" {
		if r.Name, err = recipe.CheckName(d.Name); err != nil {
			return r, v, refused("the recipe: %v", err)
		}
		r.Key = recipe.NameKey(r.Name)
	} else {
		var there bool
		if r, there = k.recipes[d.Recipe]; !there {
			return r, v, ErrNotFound
		}
		if r.Book != b.ID || r.Gone > 0 {
			return r, v, refused("%s is not there any more", r.Name)
		}
		before := k.newest[r.ID]
		if d.Base != r.Latest {
			return r, v, refused("%s has changed meanwhile: %s wrote version %d. Compare it with yours, and save again", r.Name, before.Name, r.Latest)
		}
		var kept recipe.Values
		if err := json.Unmarshal([]byte(before.Doc), &kept); err != nil {
			return r, v, err
		}
		values = b.Merge(kept, values)
		v.Number = r.Latest + 1
	}
	v.Recipe = r.ID
	doc, err := json.Marshal(values)
	v.Doc = string(doc)
	return r, v, err
}

// saved turns what the store refuses into a refusal.
func (p *Shelf) saved(err error) error {
	switch {
	case errors.Is(err, store.ErrNameTaken):
		return refused("%v", err)
	case errors.Is(err, store.ErrStale):
		return refused("somebody has changed it meanwhile: look again")
	}
	return err
}

// few joins names, of many the first.
func few(list []string) string {
	const most = 5
	if over := len(list) - most; over > 0 {
		return fmt.Sprintf("%s and %d more", strings.Join(list[:most], "; "), over)
	}
	return strings.Join(list, "; ")
}

// recipeNote keeps in the trail what was done to recipes of a book.
func (p *Shelf) recipeNote(ctx context.Context, who Actor, b *recipe.Book, told, why string) {
	p.note(ctx, recipeRecord(who, b, told, why, audit.Witness{}))
}

func recipeRecord(who Actor, b *recipe.Book, told, why string, by audit.Witness) audit.Record {
	return audit.Record{At: time.Now().UnixNano(), What: audit.RecipeSet, Person: who.ID, Name: who.Name, Panel: who.Panel,
		Path: b.Name, New: told, Reason: why, Sign: by.Sign, Captured: by.Captured}
}

// Judgement approves or withdraws a version of a recipe, and has what is answered
// to what that asks.
type Judgement struct {
	Version  int64  `json:"version" minimum:"1"`
	Approve  bool   `json:"approve"`
	Language string `json:"language,omitempty" maxLength:"12" doc:"of what is asked; empty for the project's first"`
	Given
}

// JudgeRecipe approves or withdraws a version. Where something is asked that the
// judgement doesn't answer nothing is kept, and the error is an *Asks.
func (p *Shelf) JudgeRecipe(ctx context.Context, who Actor, id string, j Judgement) error {
	if err := p.Somewhere(ctx, who, access.Approve); err != nil {
		return err
	}
	why, err := tidyReason(j.Reason)
	if err != nil {
		return err
	}
	r, err := p.recipe(ctx, id)
	if err != nil {
		return err
	}
	v, err := p.store.Version(ctx, id, j.Version)
	if errors.Is(err, store.ErrNotFound) {
		return ErrNotFound
	} else if err != nil {
		return err
	}
	version := p.plant()
	b, err := findBook(version, r.Book)
	if err != nil {
		return refused("the book of %s is not released: its recipes cannot be judged yet", r.Name)
	}
	from := v.State
	if j.Approve {
		err = p.mayApprove(version, b, r, v, who)
		v.State = store.ApprovedVersion
	} else {
		if from != store.ApprovedVersion {
			err = refused("only what is approved is withdrawn")
		} else if why == "" {
			err = refused("say why the version is withdrawn")
		}
		v.State = store.WithdrawnVersion
	}
	if err != nil {
		return err
	}
	signed, err := p.askedToJudge(ctx, who, version, b, j)
	if err != nil {
		return err
	}
	v.JudgedBy, v.JudgedAt, v.JudgedWhy = who.Name, time.Now().UnixNano(), why
	if err := p.saved(p.store.Judge(ctx, v, from)); err != nil {
		return err
	}
	p.note(ctx, recipeRecord(who, b, fmt.Sprintf("%s: %s, version %d", v.State, r.Name, v.Number), why, signed))
	return nil
}

// askedToJudge asks what the rules ask before a recipe of a book is approved or
// withdrawn. The second person has the right where its recipes are sent to.
func (p *Shelf) askedToJudge(ctx context.Context, who Actor, version *project.Project, b *recipe.Book, j Judgement) (audit.Witness, error) {
	asked := version.AskedToApprove(b, p.rolesOf(ctx, who, access.Approve))
	areas := map[string]bool{}
	for _, target := range version.BookTargets(b) {
		areas[version.TargetArea(b, target)] = true
	}
	sign := &undersigned{p.Project, version, who, asked, j.Given, access.Approve, project.SortedKeys(areas), b.Name}
	return sign.ask(ctx, j.Language)
}

func (p *Shelf) mayApprove(version *project.Project, b *recipe.Book, r store.Recipe, v store.RecipeVersion, who Actor) error {
	switch {
	case v.State == store.ApprovedVersion:
		return refused("version %d of %s is approved already", v.Number, r.Name)
	case r.Gone > 0:
		return refused("%s is deleted", r.Name)
	case b.Two && v.Person == who.ID:
		return refused("you wrote version %d of %s yourself: somebody else approves it", v.Number, r.Name)
	}
	values, changes, err := carried(b, v.Doc)
	if err != nil {
		return err
	}
	if recipe.Alters(changes) {
		return refused("the book has changed since version %d of %s was written: save it as a new version first", v.Number, r.Name)
	}
	if _, problems := p.looker(version, b)(values); len(problems) > 0 {
		return refused("%s does not hold: %s", r.Name, p.told(b, problems))
	}
	return nil
}

// told says in English what does not hold.
func (p *Shelf) told(b *recipe.Book, problems []recipe.Breach) string {
	var out []string
	for _, x := range problems {
		out = append(out, x.Says(b))
	}
	return few(out)
}

// RenameRecipe gives a recipe another name.
func (p *Shelf) RenameRecipe(ctx context.Context, who Actor, id, name string) error {
	if err := p.Somewhere(ctx, who, access.Recipes); err != nil {
		return err
	}
	r, err := p.recipe(ctx, id)
	if err != nil {
		return err
	}
	if name, err = recipe.CheckName(name); err != nil {
		return refused("the recipe: %v", err)
	}
	if err := p.saved(p.store.Rename(ctx, id, name, recipe.NameKey(name))); err != nil {
		return err
	}
	p.recipeNote(ctx, who, p.bookOf(r.Book), fmt.Sprintf("renamed: %s is %s", r.Name, name), "")
	return nil
}

// bookOf is a book of what runs or of the draft; one without a name where it is
// gone.
func (p *Shelf) bookOf(id string) *recipe.Book {
	for _, version := range []*project.Project{p.plant(), p.Draft()} {
		if b, err := findBook(version, id); err == nil {
			return b
		}
	}
	return &recipe.Book{ID: id, Name: id}
}

// DeleteRecipes puts recipes of a book away, or brings them back, all or none;
// it returns how many it was.
func (p *Shelf) DeleteRecipes(ctx context.Context, who Actor, book string, ids []string, back bool, why string) (int, error) {
	if err := p.Somewhere(ctx, who, access.Recipes); err != nil {
		return 0, err
	}
	if len(ids) == 0 || len(ids) > mostAtOnce {
		return 0, refused("1 to %d recipes go together", mostAtOnce)
	}
	why, err := tidyReason(why)
	if err != nil {
		return 0, err
	}
	var names []string
	for _, id := range ids {
		r, err := p.recipe(ctx, id)
		if err != nil {
			return 0, err
		}
		if r.Book != book {
			return 0, ErrNotFound
		}
		names = append(names, r.Name)
	}
	count, told := 0, "deleted: "
	if back {
		told = "brought back: "
		count, err = p.store.BringBack(ctx, ids)
	} else {
		count, err = p.store.Delete(ctx, ids, time.Now().UnixNano(), who.Name)
	}
	if err := p.saved(err); err != nil {
		return 0, err
	}
	p.recipeNote(ctx, who, p.bookOf(book), fmt.Sprintf("%s%d: %s", told, count, few(names)), why)
	return count, nil
}

// keepDeleted is how long a deleted recipe can be brought back.
const keepDeleted = 400 * 24 * time.Hour

// beginRecipes adds the recipes that the books of a release begin with, where
// their names are free. They are approved as the release is.
func (p *Shelf) beginRecipes(ctx context.Context, who Actor, released *project.Project) error {
	now := time.Now().UnixNano()
	for _, id := range project.SortedKeys(released.Books) {
		b := released.Books[id]
		for _, begin := range b.Begin {
			_, err := p.store.Named(ctx, id, recipe.NameKey(begin.Name))
			if !errors.Is(err, store.ErrNotFound) {
				if err != nil {
					return err
				}
				continue
			}
			values, err := b.Tidy(begin.Values)
			if err != nil {
				continue // a finding of the book
			}
			doc, err := json.Marshal(values)
			if err != nil {
				return err
			}
			r := store.Recipe{
				ID:       store.NewID("recipe"),
				Book:     id,
				Name:     begin.Name,
				Key:      recipe.NameKey(begin.Name),
				Latest:   1,
				Approved: 1,
				Changed:  now,
				Person:   who.Name,
			}
			v := store.RecipeVersion{
				Recipe:   r.ID,
				Number:   1,
				Doc:      string(doc),
				State:    store.ApprovedVersion,
				Person:   who.ID,
				Name:     who.Name,
				At:       now,
				JudgedBy: who.Name,
				JudgedAt: now,
			}
			if err := p.store.Save(ctx, []store.NewRecipe{{Recipe: r, Version: v}}, nil); err != nil &&
				!errors.Is(err, store.ErrNameTaken) {
				return err
			}
		}
	}
	return nil
}

// pruneRecipes forgets once a day what was deleted long ago.
func (p *Shelf) pruneRecipes(now time.Time) {
	if now.Sub(p.pruned) < 24*time.Hour {
		return
	}
	p.pruned = now
	if err := p.store.Prune(context.Background(), now.Add(-keepDeleted).UnixNano()); err != nil && !errors.Is(err, ErrFull) {
		p.host.log.Warn("recipes that were deleted long ago could not be forgotten", "project", p.id, "error", err)
	}
}
