package host

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/say"
	"readyrail/internal/exchange"
	"readyrail/internal/record"
	"readyrail/internal/store"
)

// Archive packs the draft, and the plant's recipes where they are asked for: those
// that are there, with all their versions.
func (p *Project) Archive(ctx context.Context, who Actor, recipes bool) ([]byte, error) {
	if err := p.Require(ctx, who, access.Engineer, ""); err != nil {
		return nil, err
	}
	content := exchange.Content{Things: p.Draft().Entities()}
	if recipes {
		err := p.records.Recipes.Each(ctx, func(r store.Recipe, versions []store.RecipeVersion) error {
			packed, err := packedRecipe(r, versions)
			content.Recipes = append(content.Recipes, packed)
			return err
		})
		if err != nil {
			return nil, err
		}
	}
	b, _, err := exchange.WriteArchive(content)
	if errors.Is(err, exchange.ErrTooLarge) {
		return nil, refused("%v: leave the recipes out, and bring them over as sheets", err)
	}
	return b, err
}

func packedRecipe(r store.Recipe, versions []store.RecipeVersion) (exchange.Recipe, error) {
	out := exchange.Recipe{ID: r.ID, Book: r.Book, Name: r.Name, Versions: make([]exchange.RecipeVersion, len(versions))}
	for i, v := range versions {
		out.Versions[i] = exchange.RecipeVersion{State: v.State, Person: v.Person, Name: v.Name, At: v.At, Why: v.Why,
			JudgedBy: v.JudgedBy, JudgedAt: v.JudgedAt, JudgedWhy: v.JudgedWhy}
		if err := json.Unmarshal([]byte(v.Doc), &out.Versions[i].Values); err != nil {
			return out, say.Errorf("version %d of %s cannot be read: %w", v.Number, r.Name, err)
		}
	}
	return out, nil
}

// Bounds of the recipes of an archive.
const (
	mostVersions = 10_000 // of one recipe
	longestValue = 2000   // characters
)

// BringProject makes a project of an archive, with the recipes that it holds. It
// is released nowhere yet. name is what it is called; as in the archive where it is
// empty.
func (h *Host) BringProject(ctx context.Context, who Actor, name string, data []byte) (*Project, error) {
	if !who.Owner && !who.Server {
		return nil, errManages
	}
	content, err := exchange.ReadArchive(data)
	if err != nil {
		return nil, refused("%v", err)
	}
	first, err := project.Load(content.Things)
	if err != nil {
		return nil, refused("the archive's project cannot be read: %v", err)
	}
	if name = strings.TrimSpace(name); name != "" {
		called, err := json.Marshal(name)
		if err != nil {
			return nil, err
		}
		rename := project.Op{Kind: project.KindSite, ID: project.SiteID, Path: "/name", Value: called}
		if first, _, err = first.Edit([]project.Op{rename}); err != nil {
			return nil, refused("the name: %v", err)
		}
	}
	var past record.Past
	for i := range content.Recipes {
		if err := unpackRecipe(&past, &content.Recipes[i]); err != nil {
			return nil, refused("%s: %v", content.Recipes[i].ID, err)
		}
	}
	p, err := h.CreateProjectWith(ctx, who, "", first, past)
	if err != nil {
		return nil, err
	}
	p.runs.Door().Note(ctx, audit.Record{At: time.Now().UnixNano(), What: audit.Brought, Person: who.ID, Name: who.Name, Panel: who.Panel,
		New: fmt.Sprintf("%s, %d recipes", first.Site().Name, len(content.Recipes))})
	return p, nil
}

// unpackRecipe adds a recipe of an archive to what a project begins with.
func unpackRecipe(past *record.Past, packed *exchange.Recipe) error {
	name, err := recipe.CheckName(packed.Name)
	switch {
	case err != nil:
		return err
	case packed.ID == "" || len(packed.ID) > 60 || packed.Book == "" || len(packed.Book) > 60:
		return say.Errorf("a recipe and its book have ids of 1 to 60 characters")
	case len(packed.Versions) == 0 || len(packed.Versions) > mostVersions:
		return say.Errorf("a recipe has 1 to %d versions", mostVersions)
	}
	r := store.Recipe{ID: packed.ID, Book: packed.Book, Name: name, Key: recipe.NameKey(name), Latest: 1,
		Changed: packed.Versions[0].At, Person: packed.Versions[0].Name}
	for i, v := range packed.Versions {
		kept, err := unpackVersion(&v)
		if err != nil {
			return say.Errorf("version %d: %w", i+1, err)
		}
		kept.Recipe, kept.Number = r.ID, int64(i+1)
		if kept.State == store.ApprovedVersion {
			r.Approved = kept.Number
		}
		if i == 0 {
			past.Recipes = append(past.Recipes, store.NewRecipe{Version: kept})
		} else {
			past.Versions = append(past.Versions, kept)
		}
	}
	past.Recipes[len(past.Recipes)-1].Recipe = r
	return nil
}

func unpackVersion(v *exchange.RecipeVersion) (store.RecipeVersion, error) {
	out := store.RecipeVersion{State: v.State, Person: v.Person, Name: v.Name, At: v.At, Why: v.Why,
		JudgedBy: v.JudgedBy, JudgedAt: v.JudgedAt, JudgedWhy: v.JudgedWhy}
	if !slices.Contains([]string{store.DraftVersion, store.ApprovedVersion, store.WithdrawnVersion}, v.State) {
		return out, say.Errorf("%q is no state: draft, approved or withdrawn", v.State)
	}
	if len(v.Values) > 2*recipe.MostFields {
		return out, say.Errorf("it has more than %d values", 2*recipe.MostFields)
	}
	for _, text := range []string{v.Person, v.Name, v.Why, v.JudgedBy, v.JudgedWhy} {
		if len(text) > longestValue {
			return out, say.Errorf("a text has more than %d characters", longestValue)
		}
	}
	for id, text := range v.Values {
		if len(id) > 60 || len(text) > longestValue {
			return out, say.Errorf("the value of %.60s has more than %d characters", id, longestValue)
		}
	}
	doc, err := json.Marshal(v.Values)
	out.Doc = string(doc)
	return out, err
}
