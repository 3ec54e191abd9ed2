package host

import (
	"context"
	"slices"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// ViewShown is a view of recorded courses as it can be opened.
type ViewShown struct {
	ID   string            `json:"id"`
	Name string            `json:"name"`
	Note string            `json:"note"`
	Type string            `json:"type" doc:"id of the type of equipment that it serves; empty where it has pens of its own alone"`
	Mine bool              `json:"mine" doc:"whoever asks keeps it for themselves; it is in no release"`
	Span int               `json:"span" doc:"seconds that it shows at first; 0 for the usual"`
	Own  []history.ViewPen `json:"own" doc:"its pens as they are kept"`
	For  []ViewOpened      `json:"for" doc:"each equipment that it can be opened for; one without an id where it has no type"`
}

// ViewOpened are the pens of a view, of one equipment.
type ViewOpened struct {
	ID   string            `json:"id"`
	Path string            `json:"path"`
	Pens []history.ViewPen `json:"pens" doc:"without those whose tag there is not"`
}

// Views lists the views of recorded courses of the draft, or of the release.
func (p *Project) Views(ctx context.Context, who Actor, released bool) ([]ViewShown, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	version := p.version(released)
	out := []ViewShown{}
	if version == nil {
		return out, nil
	}
	own, err := p.state.OwnViews(ctx, who.ID)
	if err != nil {
		return nil, err
	}
	for i, views := range []map[string]*history.View{version.Views, own} {
		for id, v := range views {
			out = append(out, ViewShown{ID: id, Name: v.Name, Note: v.Note, Type: v.Type, Mine: i > 0, Span: v.Span, Own: v.Pens,
				For: opened(version, v)})
		}
	}
	slices.SortFunc(out, func(a, b ViewShown) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return out, nil
}

func opened(version *project.Project, v *history.View) []ViewOpened {
	if v.Type == "" {
		return []ViewOpened{{Pens: version.PensOf(v, "")}}
	}
	out := []ViewOpened{}
	for _, id := range version.OfType(v.Type, "") {
		out = append(out, ViewOpened{id, version.FolderPath(id), version.PensOf(v, id)})
	}
	return out
}

// mostOwnViews bounds the views that a person keeps.
const mostOwnViews = 100

// PutOwnView keeps a view for a person alone; a view without an id is a new one. It
// returns the id.
func (p *Project) PutOwnView(ctx context.Context, who Actor, v history.View) (string, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return "", err
	}
	if who.ID == "" {
		return "", refused("sign in to keep a view: it is kept for one person")
	}
	if _, err := v.Check(); err != nil {
		return "", refused("the view: %v", err)
	}
	own, err := p.state.OwnViews(ctx, who.ID)
	if err != nil {
		return "", err
	}
	if v.ID == "" {
		v.ID = store.NewID("view")
	} else if own[v.ID] == nil {
		return "", ErrNotFound
	}
	if own[v.ID] == nil && len(own) >= mostOwnViews {
		return "", refused("a person keeps at most %d views: delete one", mostOwnViews)
	}
	return v.ID, p.state.PutOwnView(ctx, who.ID, v.ID, &v)
}

// DropOwnView forgets a view that a person keeps.
func (p *Project) DropOwnView(ctx context.Context, who Actor, id string) error {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return err
	}
	return p.state.PutOwnView(ctx, who.ID, id, nil)
}

// ViewPlan is what tags are as the pens of a view of a type of equipment.
type ViewPlan struct {
	Type      string   `json:"type" doc:"empty where the tags are not those of one piece of equipment"`
	TypeName  string   `json:"typeName"`
	Equipment string   `json:"equipment" doc:"id of the one that they are of"`
	Pens      []string `json:"pens" doc:"in the order of the tags"`
}

// PlanView tells what tags of the draft are as a view of a type of equipment.
func (p *Project) PlanView(ctx context.Context, who Actor, tags []string) (ViewPlan, error) {
	out := ViewPlan{Pens: []string{}}
	if err := p.MayLookAtDraft(ctx, who); err != nil {
		return out, err
	}
	d := p.Draft()
	typ, of, pens := d.ViewOf(tags)
	if t := d.Types[typ]; t != nil {
		out = ViewPlan{typ, t.Name, of, pens}
	}
	return out, nil
}
