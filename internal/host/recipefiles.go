package host

import (
	"context"
	"errors"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/say"
	"readyrail/internal/exchange"
	"readyrail/internal/store"
)

// Recipes to files and back: a row a recipe, a column a field.

// nameColumn is the column that has the recipes' names.
const nameColumn = "Name"

// RecipeFile is what a file of recipes would do, row by row.
type RecipeFile struct {
	Rows    []RecipeRow `json:"rows"`
	Ignored []string    `json:"ignored" doc:"columns that are no field of the book"`
}

// RecipeRow is one recipe of a file.
type RecipeRow struct {
	Line     int               `json:"line" doc:"in the file, from 1"`
	Name     string            `json:"name"`
	Status   string            `json:"status" enum:"new,changed,same,refused"`
	Reason   say.Text          `json:"reason" doc:"why it is refused"`
	Recipe   string            `json:"recipe" doc:"id of the recipe that has the name; empty for a new one"`
	Base     int64             `json:"base" doc:"number of its newest version"`
	Values   map[string]string `json:"values" doc:"as they would be, by the ids of the fields"`
	Differs  []string          `json:"differs" doc:"ids of the fields that would change"`
	Problems []recipe.Breach   `json:"problems" doc:"what would not hold; it can be brought in all the same"`
}

// ReadRecipes reads a file of recipes for a book and says what it would do. A
// column is a field by its name in formulas, or by its title where one field has
// that; what a file does not say of a recipe stays as it is.
func (p *Shelf) ReadRecipes(ctx context.Context, who Actor, book string, draft bool, data []byte) (*RecipeFile, error) {
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
	table, err := exchange.ReadTable(data)
	if err != nil {
		return nil, refused("%v", err)
	}
	if len(table.Cells)-1 > mostAtOnce {
		return nil, refused("the file has %d recipes: at most %d come in together", len(table.Cells)-1, mostAtOnce)
	}
	out := &RecipeFile{Rows: []RecipeRow{}, Ignored: []string{}}
	columns, name := fieldColumns(b, table.Cells[0])
	if name < 0 {
		return nil, refused("the first line names the columns, and none of them is %s: it has %s", nameColumn,
			few(table.Cells[0]))
	}
	for i, column := range table.Cells[0] {
		if columns[i] == nil && i != name && column != "" {
			out.Ignored = append(out.Ignored, column)
		}
	}
	look := p.looker(version, b)
	there, err := p.namedIn(ctx, b, table.Cells[1:], name)
	if err != nil {
		return nil, err
	}
	out.Rows = make([]RecipeRow, len(table.Cells)-1)
	failed := make([]error, len(out.Rows))
	seen := map[string]bool{}
	for i := range out.Rows {
		out.Rows[i] = RecipeRow{Line: table.Lines[i+1], Differs: []string{}, Problems: []recipe.Breach{}, Values: map[string]string{}}
		failed[i] = out.Rows[i].call(table.Cells[i+1], name, seen)
	}
	project.InShares(len(out.Rows), func(from, to int) {
		for i := from; i < to; i++ {
			row := &out.Rows[i]
			if failed[i] == nil {
				failed[i] = there.readRow(b, row, table.Cells[i+1], columns)
			}
			if failed[i] == nil {
				_, row.Problems = look(row.Values)
			}
		}
	})
	for i, err := range failed {
		var no *Refused
		if errors.As(err, &no) {
			out.Rows[i].Status, out.Rows[i].Reason.Why = "refused", no
		} else if err != nil {
			return nil, err
		}
	}
	return out, nil
}

// fieldColumns finds the field of each column, and the column of the names.
func fieldColumns(b *recipe.Book, header []string) (fields []*recipe.Field, name int) {
	titles := map[string]*recipe.Field{}
	for i := range b.Fields {
		f := &b.Fields[i]
		for _, title := range []string{f.Called(), f.Group + " › " + f.Called()} {
			key := strings.ToLower(title)
			if _, twice := titles[key]; twice {
				titles[key] = nil // of two fields neither is meant
			} else {
				titles[key] = f
			}
		}
	}
	fields, name = make([]*recipe.Field, len(header)), -1
	for i, column := range header {
		if name < 0 && strings.EqualFold(column, nameColumn) {
			name = i
		} else if f, ok := b.Named(column); ok && f.Formula == "" {
			fields[i] = f
		} else if f := titles[strings.ToLower(column)]; f != nil && f.Formula == "" {
			fields[i] = f
		}
	}
	return fields, name
}

// namedIn are the recipes that a file names and that are there.
func (p *Shelf) namedIn(ctx context.Context, b *recipe.Book, rows [][]string, name int) (k known, err error) {
	var keys, ids []string
	for _, cells := range rows {
		if name < len(cells) {
			keys = append(keys, recipe.NameKey(cells[name]))
		}
	}
	if k.recipes, err = p.store.SomeNamed(ctx, b.ID, keys); err != nil {
		return k, err
	}
	for _, r := range k.recipes {
		ids = append(ids, r.ID)
	}
	k.newest, err = p.store.Newest(ctx, ids)
	return k, err
}

// call gives a row the name that its cells have; a *Refused says why it has none.
func (row *RecipeRow) call(cells []string, name int, seen map[string]bool) (err error) {
	if name < len(cells) {
		row.Name = cells[name]
	}
	if row.Name, err = recipe.CheckName(row.Name); err != nil {
		return refused("%v", err)
	}
	key := recipe.NameKey(row.Name)
	if seen[key] {
		return refused("the file has %s twice", row.Name)
	}
	seen[key] = true
	return nil
}

// readRow reads the values of one recipe; a *Refused says what is wrong with them.
func (k known) readRow(b *recipe.Book, row *RecipeRow, cells []string, columns []*recipe.Field) (err error) {
	row.Status, row.Values = "new", b.Defaults()
	before := recipe.Values{}
	if r, there := k.recipes[recipe.NameKey(row.Name)]; there {
		if before, _, err = carried(b, k.newest[r.ID].Doc); err != nil {
			return err
		}
		row.Recipe, row.Base, row.Status, row.Name = r.ID, r.Latest, "same", r.Name
		for id, text := range before {
			row.Values[id] = text
		}
	}
	for i, f := range columns {
		if f == nil || i >= len(cells) || cells[i] == "" {
			continue
		}
		v, err := f.Parse(cells[i])
		if err != nil {
			return refused("%s: %v", f.Called(), err)
		}
		row.Values[f.ID] = v.Text()
	}
	row.Differs = b.Differ(before, row.Values)
	if row.Recipe != "" && len(row.Differs) > 0 {
		row.Status = "changed"
	}
	return nil
}

// RecipeJSON is a recipe for other systems: values by the fields' names.
type RecipeJSON struct {
	Name    string            `json:"name"`
	Version int64             `json:"version"`
	State   string            `json:"state"`
	Values  map[string]string `json:"values"`
}

// EachRecipe hands over the recipes of a book by name, in their newest versions.
func (p *Shelf) EachRecipe(ctx context.Context, who Actor, book string, draft bool, do func(b *recipe.Book, r RecipeJSON) error) error {
	version, err := p.bookVersion(ctx, who, draft)
	if err != nil {
		return err
	}
	b, err := findBook(version, book)
	if err != nil {
		return err
	}
	return p.eachNewest(ctx, book, func(r store.Recipe, v store.RecipeVersion) error {
		kept, _, err := carried(b, v.Doc)
		if err != nil {
			return err
		}
		out := RecipeJSON{r.Name, v.Number, v.State, map[string]string{}}
		for i := range b.Fields {
			if f := &b.Fields[i]; f.Formula == "" {
				out.Values[f.Name] = kept[f.ID]
			}
		}
		return do(b, out)
	})
}

// eachNewest hands over the recipes of a book by name with their newest versions,
// read a page at a time.
func (p *Shelf) eachNewest(ctx context.Context, book string, do func(store.Recipe, store.RecipeVersion) error) error {
	for skip := 0; ; skip += recipePage {
		list, count, err := p.store.List(ctx, store.RecipeSearch{Book: book, Skip: skip, Most: recipePage})
		if err != nil {
			return err
		}
		ids := make([]string, len(list))
		for i, r := range list {
			ids[i] = r.ID
		}
		newest, err := p.store.Newest(ctx, ids)
		if err != nil {
			return err
		}
		for _, r := range list {
			if err := do(r, newest[r.ID]); err != nil {
				return err
			}
		}
		if skip+len(list) >= count || len(list) == 0 {
			return nil
		}
	}
}

// RecipeLines are the recipes of a book as lines of a sheet that ReadRecipes reads
// back.
func (p *Shelf) RecipeLines(ctx context.Context, who Actor, book string, draft bool, line func([]string) error) error {
	first := true
	return p.EachRecipe(ctx, who, book, draft, func(b *recipe.Book, r RecipeJSON) error {
		header, cells := []string{nameColumn}, []string{r.Name}
		for i := range b.Fields {
			if f := &b.Fields[i]; f.Formula == "" {
				header, cells = append(header, f.Name), append(cells, r.Values[f.Name])
			}
		}
		if first {
			if err := line(header); err != nil {
				return err
			}
			first = false
		}
		return line(cells)
	})
}
