package project

import (
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// OpenTags are the tags by which elements show and edit the recipe of a book that is
// open at a page.
type OpenTags struct {
	Book   string `json:"book" maxLength:"60"`
	Folder string `json:"folder" maxLength:"250" doc:"path of their folder"`
}

// openParts are what is told of the recipe beside its fields, by the names of their
// tags.
var openParts = []struct{ name, system string }{{"Recipe", "recipe.open"}, {"Version", "recipe.openVersion"},
	{"Changed", "recipe.openChanged"}}

// PlanOpen says which tags tell what is open of a book, and the edit that makes them;
// what is there already stays as it is.
func (p *Project) PlanOpen(m OpenTags, newID func(string) string) ([]Planned, []Op, error) {
	b := p.Books[m.Book]
	if b == nil {
		return nil, nil, say.Errorf("the book is no longer there")
	}
	there := map[string]bool{} // by what the tag is
	for _, t := range p.Tags {
		if t.Source == tag.System && t.Book == b.ID {
			there[t.System+" "+t.Field] = true
		}
	}
	plan := p.newPlan(newID)
	add := func(name string, t tag.Tag) {
		if m.Folder != "" {
			name = m.Folder + "." + name
		}
		if there[t.System+" "+t.Field] {
			plan.list = append(plan.list, Planned{Path: name, Text: t.Description, From: thereAlready})
			return
		}
		plan.add(name, t, "", nil)
	}
	for _, part := range openParts {
		s, _ := tag.SystemValueOf(part.system)
		add(part.name, tag.Tag{Description: s.Does, Type: s.Type, Source: tag.System, System: s.Name, Book: b.ID})
	}
	for i := range b.Fields {
		f := &b.Fields[i]
		if f.Type.Kind == value.None {
			continue
		}
		t := fieldTag(f)
		t.Source, t.Access, t.System, t.Book, t.Field = tag.System, "", tag.FieldOfRecipe, b.ID, f.ID
		add(f.Name, t)
	}
	return plan.done()
}
