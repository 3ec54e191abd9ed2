package store

import (
	"context"
	"errors"
	"path/filepath"
	"readyrail/internal/core/say"
	"slices"
	"strings"

	"github.com/jmoiron/sqlx"
)

// Recipes are a project's recipes.db: the recipes of the running plant with
// their versions, and the record of their deliveries.
type Recipes struct{ db *database }

// Recipe is one recipe as lists have it.
type Recipe struct {
	ID       string `db:"id"`
	Book     string `db:"book"`
	Name     string `db:"name"`
	Key      string `db:"key"`
	Latest   int64  `db:"latest"`
	Approved int64  `db:"approved"`
	Changed  int64  `db:"changed"`
	Person   string `db:"person"`
	Gone     int64  `db:"gone"`
	GoneBy   string `db:"gone_by"`
}

// RecipeVersion is one version of a recipe. Only what is judged of it changes.
type RecipeVersion struct {
	Recipe    string `db:"recipe"`
	Number    int64  `db:"number"`
	Doc       string `db:"doc"`
	State     string `db:"state"`
	Person    string `db:"person"`
	Name      string `db:"name"`
	At        int64  `db:"at"`
	Why       string `db:"why"`
	JudgedBy  string `db:"judged_by"`
	JudgedAt  int64  `db:"judged_at"`
	JudgedWhy string `db:"judged_why"`
}

// States of a version.
const (
	DraftVersion     = "draft"
	ApprovedVersion  = "approved"
	WithdrawnVersion = "withdrawn"
)

// ErrNameTaken says that a book has a recipe of that name already.
var ErrNameTaken = say.New("the book has a recipe of that name already")

// ErrStale says that somebody else changed what is changed.
var ErrStale = say.New("somebody has changed it meanwhile")

// OpenRecipes opens recipes.db in a project's folder.
func OpenRecipes(dir string, r *Reserve) (*Recipes, error) {
	db, err := open(filepath.Join(dir, "recipes.db"), "recipes", full, r)
	if err != nil {
		return nil, err
	}
	return &Recipes{db}, nil
}

// Copy opens a copy of the recipes and their versions, without deliveries, in
// another folder.
func (s *Recipes) Copy(ctx context.Context, dir string) (*Recipes, error) {
	if err := s.db.CopyTo(ctx, filepath.Join(dir, "recipes.db")); err != nil {
		return nil, err
	}
	out, err := OpenRecipes(dir, nil)
	if err != nil {
		return nil, err
	}
	if _, err := out.db.ExecContext(ctx, "DELETE FROM delivery"); err != nil {
		out.Close()
		return nil, err
	}
	return out, nil
}

// Close closes the database.
func (s *Recipes) Close() error { return s.db.Close() }

// Fold folds the log of writes in, so that no write has to.
func (s *Recipes) Fold(ctx context.Context) error { return s.db.Fold(ctx) }

// ByChange is an order of recipes: those that were changed last go first.
const ByChange = "changed"

// RecipeSearch says which recipes of a book a page has.
type RecipeSearch struct {
	Book  string
	Text  string // that names have, in any case
	Gone  bool   // those that were deleted, instead of those that are there
	State string // approved: with an approved version; draft: whose newest is none; empty for all
	Order string // changed: those that were changed last go first; empty by name
	Skip  int
	Most  int
}

// List is a page of recipes, and how many there are in all.
func (s *Recipes) List(ctx context.Context, q RecipeSearch) (list []Recipe, count int, err error) {
	where, args := "book = ? AND gone = 0", []any{q.Book}
	if q.Gone {
		where = "book = ? AND gone > 0"
	}
	if q.Text != "" {
		where, args = where+" AND instr(key, ?) > 0", append(args, strings.ToLower(q.Text))
	}
	switch q.State {
	case ApprovedVersion:
		where += " AND approved > 0"
	case DraftVersion:
		where += " AND approved < latest"
	}
	if err := s.db.GetContext(ctx, &count, "SELECT count(*) FROM recipe WHERE "+where, args...); err != nil {
		return nil, 0, err
	}
	order := "key, id"
	if q.Order == ByChange {
		order = "changed DESC, id"
	}
	list = []Recipe{}
	query := "SELECT * FROM recipe WHERE " + where + " ORDER BY " + order + " LIMIT ? OFFSET ?"
	err = s.db.SelectContext(ctx, &list, query, append(args, q.Most, q.Skip)...)
	return list, count, err
}

// Count is how many recipes a book has.
func (s *Recipes) Count(ctx context.Context, book string) (n int64, err error) {
	return n, s.db.GetContext(ctx, &n, "SELECT count(*) FROM recipe WHERE book = ? AND gone = 0", book)
}

// Recipe returns one recipe, a deleted one too.
func (s *Recipes) Recipe(ctx context.Context, id string) (Recipe, error) {
	var r Recipe
	return r, notFound(s.db.GetContext(ctx, &r, "SELECT * FROM recipe WHERE id = ?", id))
}

// Named returns the recipe of a book that has a name.
func (s *Recipes) Named(ctx context.Context, book, key string) (Recipe, error) {
	var r Recipe
	return r, notFound(s.db.GetContext(ctx, &r, "SELECT * FROM recipe WHERE book = ? AND key = ? AND gone = 0", book, key))
}

// Some are recipes by their ids, deleted ones too.
func (s *Recipes) Some(ctx context.Context, ids []string) (map[string]Recipe, error) {
	out := make(map[string]Recipe, len(ids))
	return out, s.eachSome(ctx, "SELECT * FROM recipe WHERE id IN (?)", nil, ids, func(r Recipe) { out[r.ID] = r })
}

// SomeNamed are the recipes of a book that have names, by their keys.
func (s *Recipes) SomeNamed(ctx context.Context, book string, keys []string) (map[string]Recipe, error) {
	out := make(map[string]Recipe, len(keys))
	return out, s.eachSome(ctx, "SELECT * FROM recipe WHERE book = ? AND gone = 0 AND key IN (?)", []any{book}, keys,
		func(r Recipe) { out[r.Key] = r })
}

// eachSome asks for recipes by a list, a part of it at a time.
func (s *Recipes) eachSome(ctx context.Context, query string, before []any, of []string, do func(Recipe)) error {
	for part := range slices.Chunk(of, together) {
		asked, args, err := sqlx.In(query, append(slices.Clone(before), part)...)
		if err != nil {
			return err
		}
		var list []Recipe
		if err := s.db.SelectContext(ctx, &list, asked, args...); err != nil {
			return err
		}
		for _, r := range list {
			do(r)
		}
	}
	return nil
}

// together is how many recipes are asked for in one query.
const together = 500

// Versions lists the versions of a recipe, newest first.
func (s *Recipes) Versions(ctx context.Context, recipe string) ([]RecipeVersion, error) {
	list := []RecipeVersion{}
	return list, s.db.SelectContext(ctx, &list, "SELECT * FROM version WHERE recipe = ? ORDER BY number DESC", recipe)
}

// Version returns one version of a recipe.
func (s *Recipes) Version(ctx context.Context, recipe string, number int64) (RecipeVersion, error) {
	var v RecipeVersion
	return v, notFound(s.db.GetContext(ctx, &v, "SELECT * FROM version WHERE recipe = ? AND number = ?", recipe, number))
}

// Newest returns the newest versions of recipes, by the recipes' ids.
func (s *Recipes) Newest(ctx context.Context, recipes []string) (map[string]RecipeVersion, error) {
	out := make(map[string]RecipeVersion, len(recipes))
	for part := range slices.Chunk(recipes, together) {
		query, args, err := sqlx.In(
			`SELECT version.* FROM recipe JOIN version ON version.recipe = recipe.id AND version.number = recipe.latest
			WHERE recipe.id IN (?)`, part)
		if err != nil {
			return nil, err
		}
		var list []RecipeVersion
		if err := s.db.SelectContext(ctx, &list, query, args...); err != nil {
			return nil, err
		}
		for _, v := range list {
			out[v.Recipe] = v
		}
	}
	return out, nil
}

// Each hands over every recipe that is there with its versions, oldest first, as
// they stand at one moment.
func (s *Recipes) Each(ctx context.Context, do func(Recipe, []RecipeVersion) error) error {
	rows, err := s.db.QueryxContext(ctx, `SELECT recipe.book, recipe.name AS called, version.* FROM recipe
		JOIN version ON version.recipe = recipe.id WHERE recipe.gone = 0 ORDER BY recipe.id, version.number`)
	if err != nil {
		return err
	}
	defer rows.Close()
	var r Recipe
	var versions []RecipeVersion
	for rows.Next() {
		var row struct {
			Book   string `db:"book"`
			Called string `db:"called"`
			RecipeVersion
		}
		if err := rows.StructScan(&row); err != nil {
			return err
		}
		if row.Recipe != r.ID && r.ID != "" {
			if err := do(r, versions); err != nil {
				return err
			}
			versions = nil
		}
		r = Recipe{ID: row.Recipe, Book: row.Book, Name: row.Called}
		versions = append(versions, row.RecipeVersion)
	}
	if r.ID != "" {
		if err := do(r, versions); err != nil {
			return err
		}
	}
	return rows.Err()
}

// NewRecipe is a recipe with its first version.
type NewRecipe struct {
	Recipe  Recipe
	Version RecipeVersion
}

// Save adds recipes, and further versions of others, all or none. A name that is
// taken is ErrNameTaken. A version has the number that follows the one it was
// made from; where there is a newer one, it is ErrStale.
func (s *Recipes) Save(ctx context.Context, fresh []NewRecipe, next []RecipeVersion) error {
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		for i := range fresh {
			if err := insertRecipe(ctx, tx, &fresh[i]); err != nil {
				return err
			}
		}
		for i := range next {
			if err := insertNext(ctx, tx, &next[i]); err != nil {
				return err
			}
		}
		return nil
	})
}

func insertRecipe(ctx context.Context, tx *sqlx.Tx, n *NewRecipe) error {
	_, err := tx.NamedExecContext(ctx, `INSERT INTO recipe (id, book, name, key, latest, approved, changed, person, gone, gone_by)
		VALUES (:id, :book, :name, :key, :latest, :approved, :changed, :person, :gone, :gone_by)`, n.Recipe)
	if isTaken(err) {
		return say.Errorf("%w: %s", ErrNameTaken, n.Recipe.Name)
	}
	if err != nil {
		return err
	}
	return insertVersion(ctx, tx, &n.Version)
}

func insertVersion(ctx context.Context, tx *sqlx.Tx, v *RecipeVersion) error {
	_, err := tx.NamedExecContext(
		ctx,
		`INSERT INTO version (recipe, number, doc, state, person, name, at, why, judged_by, judged_at, judged_why)
		VALUES (:recipe, :number, :doc, :state, :person, :name, :at, :why, :judged_by, :judged_at, :judged_why)`,
		v,
	)
	return err
}

func insertNext(ctx context.Context, tx *sqlx.Tx, v *RecipeVersion) error {
	done, err := tx.ExecContext(ctx, "UPDATE recipe SET latest = ?, changed = ?, person = ? WHERE id = ? AND latest = ? AND gone = 0",
		v.Number, v.At, v.Name, v.Recipe, v.Number-1)
	if err != nil {
		return err
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrStale)
	}
	return insertVersion(ctx, tx, v)
}

// Judge approves or withdraws a version that stands in a state.
func (s *Recipes) Judge(ctx context.Context, v RecipeVersion, from string) error {
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		done, err := tx.ExecContext(ctx, `UPDATE version SET state = ?, judged_by = ?, judged_at = ?, judged_why = ?
			WHERE recipe = ? AND number = ? AND state = ?`, v.State, v.JudgedBy, v.JudgedAt, v.JudgedWhy, v.Recipe, v.Number, from)
		if err != nil {
			return err
		}
		if n, err := done.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, ErrStale)
		}
		_, err = tx.ExecContext(
			ctx,
			`UPDATE recipe SET approved = coalesce((SELECT max(number) FROM version WHERE recipe = ? AND state = ?), 0)
			WHERE id = ?`,
			v.Recipe,
			ApprovedVersion,
			v.Recipe,
		)
		return err
	})
}

// Rename gives a recipe another name.
func (s *Recipes) Rename(ctx context.Context, id, name, key string) error {
	_, err := s.db.ExecContext(ctx, "UPDATE recipe SET name = ?, key = ? WHERE id = ? AND gone = 0", name, key, id)
	if isTaken(err) {
		return say.Errorf("%w: %s", ErrNameTaken, name)
	}
	return err
}

// Delete puts recipes away, all or none; those that are away stay as they are.
func (s *Recipes) Delete(ctx context.Context, ids []string, at int64, by string) (int, error) {
	return s.setGone(ctx, ids, "UPDATE recipe SET gone = ?, gone_by = ? WHERE id = ? AND gone = 0", at, by)
}

// BringBack brings deleted recipes back, all or none. A name that is taken by
// now is ErrNameTaken.
func (s *Recipes) BringBack(ctx context.Context, ids []string) (int, error) {
	return s.setGone(ctx, ids, "UPDATE recipe SET gone = ?, gone_by = ? WHERE id = ? AND gone > 0", 0, "")
}

func (s *Recipes) setGone(ctx context.Context, ids []string, query string, at int64, by string) (count int, err error) {
	err = inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		count = 0
		for _, id := range ids {
			done, err := tx.ExecContext(ctx, query, at, by, id)
			if isTaken(err) {
				return ErrNameTaken
			}
			if err != nil {
				return err
			}
			n, err := done.RowsAffected()
			if err != nil {
				return err
			}
			count += int(n)
		}
		return nil
	})
	if err != nil {
		return 0, err
	}
	return count, nil
}

// Prune forgets recipes that were deleted before a moment.
func (s *Recipes) Prune(ctx context.Context, before int64) error {
	_, err := s.db.ExecContext(ctx, "DELETE FROM recipe WHERE gone > 0 AND gone < ?", before)
	return err
}
