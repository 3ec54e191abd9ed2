package host

import (
	"context"
	"strconv"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// mostKept is how many recipes of a book, and spans of a log, the finder names.
const mostKept = 8

// FindKept finds what the plant keeps by name, for who may look at it: recipes of
// the draft's books, and spans of its logs, the newest first.
func (p *Project) FindKept(ctx context.Context, who Actor, text string) ([]project.Hit, error) {
	out := []project.Hit{}
	if text == "" || !p.May(ctx, who, access.View, true) {
		return out, nil
	}
	draft := p.Draft()
	for _, id := range project.SortedKeys(draft.Books) {
		list, _, err := p.records.Recipes.List(ctx, store.RecipeSearch{Book: id, Text: text, Most: mostKept})
		if err != nil {
			return nil, err
		}
		for _, r := range list {
			out = append(out, project.Hit{Kind: "recipe", ID: r.ID, Name: r.Name, Note: draft.Books[id].Name, In: id})
		}
	}
	for _, id := range project.SortedKeys(draft.Logs) {
		list, err := p.records.Logs.Spans(ctx, id, "", text, 0, mostKept)
		if err != nil {
			return nil, err
		}
		for _, s := range list {
			note := time.Unix(0, s.Began).Format("2006-01-02 15:04")
			if path := p.pathOf(s.Of); path != "" {
				note = path + ", " + note
			}
			out = append(out, project.Hit{Kind: "span", ID: strconv.FormatInt(s.Seq, 10), Name: s.Name, In: id,
				Note: draft.Logs[id].Name + ", " + note})
		}
	}
	return out, nil
}
