package host_test

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"readyrail/internal/core/project"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
)

// TestAnArchiveCarriesTheRecipes: what another server makes of an archive is the
// same project with the same recipes and versions, and gives the same archive.
func TestAnArchiveCarriesTheRecipes(t *testing.T) {
	s := newSite(t)
	tom, iris, ada := s.actors["tom"], s.actors["iris"], s.actors["ada"]
	larch := s.recipe("Larch 50")
	draft := []host.RecipeDraft{{Recipe: larch.ID, Base: 1, Values: s.values(larch.ID)}}
	if _, err := s.p.Plant().SaveRecipes(ctx, tom, drying, false, draft, "too slow"); err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.Plant().DeleteRecipes(ctx, tom, drying, []string{s.recipe("Oak 27").ID}, false, ""); err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.Archive(ctx, tom, true); err == nil {
		t.Error("an operator took the project away")
	}
	data, err := s.p.Archive(ctx, ada, true)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.h.BringProject(ctx, iris, "", data); err == nil {
		t.Error("somebody who does not manage the server made a project")
	}
	q, err := s.h.BringProject(ctx, ada, "Second yard", data)
	if err != nil {
		t.Fatal(err)
	}
	if got := q.Draft().Site().Name; got != "Second yard" || q.ReleaseInfo() != nil {
		t.Errorf("it is called %s, released %v", got, q.ReleaseInfo())
	}
	page, err := q.Plant().Recipes(ctx, ada, host.RecipeAsk{Book: drying, Draft: true})
	if err != nil || page.Count != 9 {
		t.Fatalf("%d recipes (%v)", page.Count, err)
	}
	versions, err := q.Plant().Versions(ctx, ada, larch.ID)
	if err != nil || len(versions) != 2 || versions[0].Why != "too slow" || versions[0].Person != tom.Name || versions[1].State != "approved" {
		t.Errorf("its versions are %+v (%v)", versions, err)
	}
	again, err := q.Archive(ctx, ada, true)
	if err != nil {
		t.Fatal(err)
	}
	if renamed := recipesOf(t, again); renamed != recipesOf(t, data) {
		t.Errorf("the recipes went out otherwise than they came in:\n%.300s", renamed)
	}
	without, err := s.p.Archive(ctx, ada, false)
	if err != nil || recipesOf(t, without) != "" {
		t.Errorf("recipes that nobody asked for (%v)", err)
	}
}

// recipesOf is what an archive has of recipes.
func recipesOf(t *testing.T, data []byte) string {
	t.Helper()
	c, err := exchange.ReadArchive(data)
	if err != nil {
		t.Fatal(err)
	}
	only, _, err := exchange.WriteArchive(exchange.Content{Recipes: c.Recipes})
	if err != nil || len(c.Recipes) == 0 {
		return ""
	}
	return string(only)
}

// TestABadArchiveMakesNothing: what is refused says which file, and leaves no
// project behind.
func TestABadArchiveMakesNothing(t *testing.T) {
	s := newSite(t)
	things := s.p.Draft().Entities()
	whole := func() exchange.Recipe {
		return exchange.Recipe{ID: "r1", Book: drying, Name: "Larch", Versions: []exchange.RecipeVersion{{State: "approved"}}}
	}
	twice := func(alter func(*exchange.Recipe)) []exchange.Recipe {
		r := whole()
		alter(&r)
		return []exchange.Recipe{whole(), r}
	}
	cases := map[string]exchange.Content{
		"no site":    {Things: []project.Entity{{Kind: "tag", ID: "t1", Doc: []byte(`{"name":7}`)}}},
		"no name":    {Things: things, Recipes: twice(func(r *exchange.Recipe) { r.ID, r.Name = "r2", " " })},
		"same name":  {Things: things, Recipes: twice(func(r *exchange.Recipe) { r.ID = "r2" })},
		"no version": {Things: things, Recipes: twice(func(r *exchange.Recipe) { r.ID, r.Name, r.Versions = "r2", "Oak", nil })},
		"a state":    {Things: things, Recipes: twice(func(r *exchange.Recipe) { r.ID, r.Name = "r2", "Oak"; r.Versions[0].State = "blessed" })},
		"long": {Things: things, Recipes: twice(func(r *exchange.Recipe) {
			r.ID, r.Name, r.Versions[0].Why = "r2", "Oak", strings.Repeat("x", 5000)
		})},
	}
	folders := func() int {
		list, err := os.ReadDir(filepath.Join(s.dir, "projects"))
		if err != nil {
			t.Fatal(err)
		}
		return len(list)
	}
	before := folders()
	for name, c := range cases {
		data, _, err := exchange.WriteArchive(c)
		if err != nil {
			t.Fatal(name, err)
		}
		if _, err := s.h.BringProject(ctx, s.actors["ada"], "", data); err == nil || name != "no site" && !strings.Contains(err.Error(), "r2") &&
			name != "same name" {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := s.h.BringProject(ctx, s.actors["ada"], "", bytes.Repeat([]byte("x"), 100)); err == nil {
		t.Error("no archive made a project")
	}
	if got := folders(); got != before || len(s.h.Projects()) != 1 {
		t.Errorf("%d folders of projects, %d before; %d projects", got, before, len(s.h.Projects()))
	}
}

// TestAProjectThatWasNotMadeWhole is taken away at the next start: nobody was told
// that it is there.
func TestAProjectThatWasNotMadeWhole(t *testing.T) {
	s := newSite(t)
	q, err := s.h.CreateProject(ctx, s.actors["ada"], "", nil)
	if err != nil {
		t.Fatal(err)
	}
	whole := filepath.Join(s.dir, "projects", q.ID())
	half := filepath.Join(s.dir, "projects", "half")
	if err := os.MkdirAll(half, 0o700); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(half, "being-made"), nil, 0o600); err != nil {
		t.Fatal(err)
	}
	s.h.Close()
	s.open()
	if _, err := os.Stat(half); !os.IsNotExist(err) {
		t.Errorf("what was half made is there: %v", err)
	}
	if _, err := os.Stat(filepath.Join(whole, "being-made")); !os.IsNotExist(err) || len(s.h.Projects()) != 2 {
		t.Errorf("%d projects; the mark: %v", len(s.h.Projects()), err)
	}
}
