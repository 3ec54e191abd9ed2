package host

import (
	"context"

	"readyrail/internal/core/access"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/tag"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// BookShown is a book of recipes as people see it.
type BookShown struct {
	ID       string            `json:"id"`
	Name     string            `json:"name"`
	Note     string            `json:"note"`
	Type     string            `json:"type" doc:"name of the type of equipment that it is for; empty for none"`
	Released bool              `json:"released" doc:"the running plant has it: recipes can be sent"`
	Fields   []FieldShown      `json:"fields"`
	Checks   []string          `json:"checks" doc:"their sentences"`
	Targets  []TargetShown     `json:"targets"`
	Quantity *recipe.Quantity  `json:"quantity,omitempty"`
	Approved bool              `json:"approved" doc:"only approved versions are sent"`
	Two      bool              `json:"two" doc:"who approves is not who wrote"`
	PutBack  bool              `json:"putBack"`
	Hand     bool              `json:"hand" doc:"the controller is asked to take the values over"`
	Ready    string            `json:"ready" doc:"path or member by which it is asked"`
	Taken    string            `json:"taken" doc:"path or member by which it answers"`
	Drive    map[string]string `json:"drive" doc:"paths or members by which a controller asks for recipes, by their places"`

	MayWrite   bool `json:"mayWrite" doc:"whoever asks may make and change recipes"`
	MayApprove bool `json:"mayApprove"`

	Def *recipe.Book `json:"def,omitempty" doc:"as it is edited; of the draft only"`
}

// FieldShown is a field of a book as people see it.
type FieldShown struct {
	ID       string      `json:"id"`
	Name     string      `json:"name" doc:"that formulas use"`
	Title    string      `json:"title"`
	Group    string      `json:"group"`
	Type     string      `json:"type"`
	Unit     string      `json:"unit"`
	Decimals *int        `json:"decimals,omitempty"`
	Step     float64     `json:"step"`
	States   []tag.State `json:"states"`
	Help     string      `json:"help"`
	Default  string      `json:"default"`
	Formula  string      `json:"formula" doc:"that computes it; empty where it is entered"`
	Low      string      `json:"low" doc:"its limit, as a formula"`
	High     string      `json:"high"`
	Scales   bool        `json:"scales"`
	Goes     bool        `json:"goes" doc:"it is sent"`
	Place    string      `json:"place" doc:"path of its tag, or the member of the type; empty for nowhere"`
}

// TargetShown is where a book can be sent to.
type TargetShown struct {
	ID   string `json:"id" doc:"of the equipment; empty for a book of single tags"`
	Path string `json:"path" doc:"of the equipment; the name of the book where there is none"`
	May  bool   `json:"may" doc:"whoever asks may send there"`
}

// Books lists the books of the draft or of the running plant.
func (p *Shelf) Books(ctx context.Context, who Actor, draft bool, language string) ([]BookShown, error) {
	version, err := p.bookVersion(ctx, who, draft)
	if err != nil || version == nil {
		return []BookShown{}, err
	}
	running := p.sends()
	out := make([]BookShown, 0, len(version.Books))
	for _, id := range project.SortedKeys(version.Books) {
		b := p.bookShown(ctx, who, version, version.Books[id], language)
		b.Released = running != nil && running.Books[id] != nil
		if draft {
			b.Def = version.ShownBook(version.Books[id])
		}
		out = append(out, b)
	}
	return out, nil
}

// plant is the version that the plant runs: the release, or the draft where
// nothing is released yet.
func (p *Project) plant() *project.Project {
	_, version := p.logged()
	return version
}

// program is the program of the version that the plant runs.
func (p *Project) program() run.Program {
	if p.runs.Runner(run.Release) != nil {
		return run.Release
	}
	return run.Draft
}

func (p *Shelf) bookShown(ctx context.Context, who Actor, version *project.Project, b *recipe.Book, language string) BookShown {
	word := func(text string) string { return version.Word(language, text) }
	shown := version.ShownBook(b)
	out := BookShown{
		ID:         b.ID,
		Name:       word(b.Name),
		Note:       b.Note,
		Fields:     make([]FieldShown, len(b.Fields)),
		Checks:     make([]string, len(b.Checks)),
		Targets:    []TargetShown{},
		Quantity:   b.Quantity,
		Approved:   b.Approved,
		Two:        b.Two,
		PutBack:    b.Sending.PutBack,
		Hand:       b.Sending.Hand != nil,
		MayWrite:   p.May(ctx, who, access.Recipes, true),
		MayApprove: p.May(ctx, who, access.Approve, true),
	}
	if t := version.Types[b.Type]; t != nil {
		out.Type = t.Name
	}
	if h := b.Sending.Hand; h != nil {
		out.Ready, out.Taken = version.PlaceText(b, h.Ready), version.PlaceText(b, h.Taken)
	}
	out.Drive = map[string]string{}
	if d := b.Sending.Drive; d != nil {
		for place, ref := range d.Ends() {
			out.Drive[place] = version.PlaceText(b, ref)
		}
	}
	for i := range b.Fields {
		f := &b.Fields[i]
		out.Fields[i] = FieldShown{
			ID:       f.ID,
			Name:     f.Name,
			Title:    word(f.Called()),
			Group:    word(f.Group),
			Type:     f.Type.String(),
			Unit:     f.Unit,
			Decimals: f.Decimals,
			Step:     f.Step,
			States:   spoken(f.States, language),
			Help:     word(f.Help),
			Default:  f.Default,
			Formula:  shown.Fields[i].Formula,
			Low:      shown.Fields[i].Low,
			High:     shown.Fields[i].High,
			Scales:   f.Scales,
			Goes:     f.Goes(),
			Place:    version.PlaceText(b, f.Member+f.Tag),
		}
	}
	for i, c := range b.Checks {
		out.Checks[i] = word(c.Says)
	}
	for _, id := range version.BookTargets(b) {
		may := p.Require(ctx, who, access.Deliver, version.TargetArea(b, id)) == nil
		out.Targets = append(out.Targets, TargetShown{id, version.TargetPlace(b, id), may})
	}
	return out
}

// spoken are the states of a field in a language.
func spoken(states []tag.State, language string) []tag.State {
	out := make([]tag.State, len(states))
	for i, s := range states {
		out[i] = tag.State{Value: s.Value, Text: s.Text}
		if own := s.Texts[language]; own != "" {
			out[i].Text = own
		}
	}
	return out
}

// findBook finds a book of a version.
func findBook(version *project.Project, id string) (*recipe.Book, error) {
	if version == nil || version.Books[id] == nil {
		return nil, ErrNotFound
	}
	return version.Books[id], nil
}

// sendingHolds tells whether a book may be sent to a target now, and why not.
func (p *Shelf) sendingHolds(version *project.Project, b *recipe.Book, target string) error {
	stored := version.SendingWhen(b, target)
	if stored == "" {
		return nil
	}
	v, err := p.runs.Evaluate(p.program(), version, stored)
	says := b.Sending.Why
	if says == "" {
		says = formula.Show(stored, version.Path) + " is not true"
	}
	switch {
	case err != nil:
		return refused("the condition for sending cannot be told: %v", err)
	case v.Quality.IsBad():
		return refused("the condition for sending cannot be told now (%s): %s", v.Quality.Reason(), says)
	case !v.Bool():
		return refused("%s", says)
	}
	return nil
}

// BookFields makes fields for a book of the draft from tags, and from those that
// match a pattern; nothing is changed by it.
func (p *Project) BookFields(ctx context.Context, who Actor, book, like string, tags []string) ([]recipe.Field, error) {
	if err := p.Require(ctx, who, access.Engineer, ""); err != nil {
		return nil, err
	}
	draft := p.Draft()
	b, err := findBook(draft, book)
	if err != nil {
		return nil, err
	}
	if like != "" {
		tags = append(tags, draft.MatchingTags(like)...)
	}
	list := draft.FieldsOf(b, tags, func() string { return store.NewID("field") })
	if over := len(b.Fields) + len(list) - recipe.MostFields; over > 0 {
		return nil, refused("a book has at most %d fields: these would be %d too many", recipe.MostFields, over)
	}
	return list, nil
}

// BookPoint is a tag as a book of the draft refers to it.
func (p *Project) BookPoint(ctx context.Context, who Actor, book, tag string) (string, error) {
	if err := p.MayLookAtDraft(ctx, who); err != nil {
		return "", err
	}
	draft := p.Draft()
	b, err := findBook(draft, book)
	if err != nil {
		return "", err
	}
	ref, ok := draft.PointOf(b, tag)
	if !ok {
		path, _ := draft.Path(tag)
		return "", refused("%s is of no equipment that the book is for", path)
	}
	return ref, nil
}
