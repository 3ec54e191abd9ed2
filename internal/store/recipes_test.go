package store

import (
	"errors"
	"fmt"
	"testing"

	"readyrail/internal/core/audit"
)

func openRecipes(t *testing.T) *Recipes {
	t.Helper()
	r, err := OpenRecipes(t.TempDir(), nil)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { r.Close() })
	return r
}

func fresh(name string) NewRecipe {
	id := "r-" + name
	return NewRecipe{Recipe: Recipe{ID: id, Book: "b", Name: name, Key: name, Latest: 1},
		Version: RecipeVersion{Recipe: id, Number: 1, Doc: "{}", State: DraftVersion, Name: "Tom"}}
}

// TestRecipesAreSavedWholeOrNotAtAll saves several at once: one that cannot be
// saved takes none of the others along.
func TestRecipesAreSavedWholeOrNotAtAll(t *testing.T) {
	r := openRecipes(t)
	if err := r.Save(t.Context(), []NewRecipe{fresh("ash"), fresh("oak")}, nil); err != nil {
		t.Fatal(err)
	}
	next := RecipeVersion{Recipe: "r-ash", Number: 2, Doc: "{}", State: DraftVersion, Name: "Iris", At: 5}
	for name, c := range map[string]struct {
		fresh []NewRecipe
		next  []RecipeVersion
		want  error
	}{
		"a name that is taken": {[]NewRecipe{fresh("pine"), {Recipe: Recipe{ID: "x", Book: "b", Name: "Oak", Key: "oak"}}}, nil,
			ErrNameTaken},
		"an older version":   {[]NewRecipe{fresh("pine")}, []RecipeVersion{next, {Recipe: "r-oak", Number: 3}}, ErrStale},
		"none that is there": {nil, []RecipeVersion{next, {Recipe: "r-none", Number: 2}}, ErrStale},
	} {
		if err := r.Save(t.Context(), c.fresh, c.next); !errors.Is(err, c.want) {
			t.Errorf("%s: %v, not %v", name, err, c.want)
		}
		if list, n, err := r.List(t.Context(), RecipeSearch{Book: "b", Most: 10}); err != nil || n != 2 || list[0].Latest != 1 {
			t.Errorf("%s: %d recipes, %v: %v", name, n, list, err)
		}
	}
	if err := r.Save(t.Context(), []NewRecipe{fresh("pine")}, []RecipeVersion{next}); err != nil {
		t.Fatal(err)
	}
	if x, err := r.Recipe(t.Context(), "r-ash"); err != nil || x.Latest != 2 || x.Person != "Iris" {
		t.Errorf("%+v %v", x, err)
	}
}

// TestRecipesAreFoundAndJudged finds by parts of names and by how they stand.
func TestRecipesAreFoundAndJudged(t *testing.T) {
	r := openRecipes(t)
	var list []NewRecipe
	for i := range 250 {
		list = append(list, fresh(fmt.Sprintf("kind %03d", i)))
	}
	if err := r.Save(t.Context(), append(list, fresh("100 % oak")), nil); err != nil {
		t.Fatal(err)
	}
	v := RecipeVersion{Recipe: "r-kind 007", Number: 1, State: ApprovedVersion, JudgedBy: "Iris"}
	if err := r.Judge(t.Context(), v, DraftVersion); err != nil {
		t.Fatal(err)
	}
	if err := r.Judge(t.Context(), v, DraftVersion); !errors.Is(err, ErrStale) {
		t.Errorf("judged twice: %v", err)
	}
	count := func(q RecipeSearch) int {
		q.Book, q.Most = "b", 10
		_, n, err := r.List(t.Context(), q)
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	for want, q := range map[int]RecipeSearch{251: {}, 100: {Text: "D 1"}, 1: {Text: "%"}, 250: {State: DraftVersion}, 0: {Gone: true}} {
		if got := count(q); got != want {
			t.Errorf("%+v: %d, not %d", q, got, want)
		}
	}
	if got := count(RecipeSearch{State: ApprovedVersion}); got != 1 {
		t.Errorf("%d are approved", got)
	}
	v.State = WithdrawnVersion
	if err := r.Judge(t.Context(), v, ApprovedVersion); err != nil {
		t.Fatal(err)
	}
	if x, _ := r.Recipe(t.Context(), v.Recipe); x.Approved != 0 {
		t.Errorf("version %d is still approved", x.Approved)
	}
}

// TestDeletedRecipesComeBack unless their names are taken by then, and are
// forgotten after their time.
func TestDeletedRecipesComeBack(t *testing.T) {
	r := openRecipes(t)
	if err := r.Save(t.Context(), []NewRecipe{fresh("ash"), fresh("oak")}, nil); err != nil {
		t.Fatal(err)
	}
	if n, err := r.Delete(t.Context(), []string{"r-ash", "r-oak", "r-none"}, 10, "Tom"); n != 2 || err != nil {
		t.Errorf("%d %v", n, err)
	}
	again := fresh("oak")
	again.Recipe.ID, again.Version.Recipe = "r-oak2", "r-oak2"
	if err := r.Save(t.Context(), []NewRecipe{again}, nil); err != nil {
		t.Fatal(err)
	}
	if n, err := r.BringBack(t.Context(), []string{"r-ash", "r-oak"}); n != 0 || !errors.Is(err, ErrNameTaken) {
		t.Errorf("%d came back: %v", n, err)
	}
	if n, err := r.BringBack(t.Context(), []string{"r-ash"}); n != 1 || err != nil {
		t.Errorf("%d came back: %v", n, err)
	}
	if err := r.Prune(t.Context(), 10); err != nil {
		t.Fatal(err)
	}
	if _, err := r.Recipe(t.Context(), "r-oak"); err != nil {
		t.Errorf("forgotten too early: %v", err)
	}
	if err := r.Prune(t.Context(), 11); err != nil {
		t.Fatal(err)
	}
	if _, err := r.Recipe(t.Context(), "r-oak"); !errors.Is(err, ErrNotFound) {
		t.Errorf("not forgotten: %v", err)
	}
	if list, err := r.Versions(t.Context(), "r-oak"); err != nil || len(list) != 0 {
		t.Errorf("its versions are left: %v %v", list, err)
	}
}

// TestRecordsThatGoTogether are in the chain whole or not at all.
func TestRecordsThatGoTogether(t *testing.T) {
	dir := t.TempDir()
	a, err := OpenAudit(dir, audit.Ring{[]byte("key")}, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	intent := func(key string) audit.Record { return audit.Record{What: audit.Intent, Key: key, Path: key} }
	kept, err := a.AppendAll(t.Context(), []audit.Record{intent("k/0"), intent("k/1")})
	if err != nil || kept[0].Seq != 1 || kept[1].Seq != 2 {
		t.Fatal(kept, err)
	}
	if _, err := a.AppendAll(t.Context(), []audit.Record{intent("k/2"), intent("k/1")}); !errors.Is(err, audit.ErrTaken) {
		t.Errorf("a key is taken twice: %v", err)
	}
	if _, err := a.Append(t.Context(), audit.Record{What: audit.Outcome, Intent: 1, Outcome: audit.Confirmed}); err != nil {
		t.Fatal(err)
	}
	if left, err := a.Open(t.Context()); err != nil || len(left) != 1 || left[0].Path != "k/1" {
		t.Errorf("%v %v", left, err)
	}
	if n, err := a.Verify(t.Context(), &audit.Verifier{}); err != nil || n != 3 {
		t.Errorf("%d records hold: %v", n, err)
	}
}
