package server

import (
	"context"
	"net/http"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/equipment"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/edit"
	"readyrail/internal/host"
)

// TypeInfo is a type of equipment in the list.
type TypeInfo struct {
	ID        string              `json:"id"`
	Name      string              `json:"name"`
	Title     string              `json:"title"`
	Members   int                 `json:"members"`
	Instances int                 `json:"instances"`
	Symbol    string              `json:"symbol"`
	Faceplate string              `json:"faceplate"`
	Settings  []equipment.Setting `json:"settings"`
}

// PieceInfo is a piece of equipment: an instance, or one within it.
type PieceInfo struct {
	ID       string `json:"id"`
	Path     string `json:"path"`
	Type     string `json:"type"`
	Instance string `json:"instance"`
	Top      bool   `json:"top" doc:"it is the instance itself"`
}

// ScreenPoint is something that formulas on a screen may name through its
// parameters.
type ScreenPoint struct {
	ID     string   `json:"id"`
	Path   string   `json:"path"`
	Kind   string   `json:"kind" doc:"IEC type, or equipment"`
	Type   string   `json:"type" doc:"id of the type, of equipment"`
	Title  string   `json:"title"`
	Offers []string `json:"offers" doc:"kinds of elements that can show it, best first"`
}

func (s *Server) gearRoutes() {
	get(s, "/api/projects/{project}/types", "The types of equipment", func(ctx context.Context, in *Scope) (*body[[]TypeInfo], error) {
		_, p, err := s.enter(ctx, *in, looking)
		if err != nil {
			return nil, err
		}
		return &body[[]TypeInfo]{typesOf(p.Draft())}, nil
	})
	get(s, "/api/projects/{project}/types/{id}", "A type as people read it",
		func(ctx context.Context, in *ThingInput) (*body[equipment.Type], error) {
			_, p, err := s.enter(ctx, in.Scope, looking)
			if err != nil {
				return nil, err
			}
			t := p.Draft().Types[in.ID]
			if t == nil {
				return nil, problem(host.ErrNotFound)
			}
			return &body[equipment.Type]{*p.Draft().ShownType(t)}, nil
		})
	get(s, "/api/projects/{project}/types/{id}/points", "What a member of a type has become, in the order of paths",
		func(ctx context.Context, in *struct {
			ThingInput
			Member string `query:"member" maxLength:"64" doc:"id of the member"`
		}) (*body[[]project.MemberPoint], error) {
			_, p, err := s.enter(ctx, in.Scope, looking)
			if err != nil {
				return nil, err
			}
			return &body[[]project.MemberPoint]{p.Draft().MemberPoints(in.ID, in.Member)}, nil
		})
	get(s, "/api/projects/{project}/equipment", "All equipment, in the order of paths", func(ctx context.Context, in *struct {
		Scope
		Type string `query:"type" maxLength:"64"`
	}) (*body[[]PieceInfo], error) {
		_, p, err := s.enter(ctx, in.Scope, looking)
		if err != nil {
			return nil, err
		}
		d := p.Draft()
		out := []PieceInfo{}
		for _, id := range d.OfType(in.Type, "") {
			piece, _ := d.Piece(id)
			out = append(out, PieceInfo{id, d.FolderPath(id), piece.Type, piece.Instance, piece.Chain == ""})
		}
		return &body[[]PieceInfo]{out}, nil
	})
	get(s, "/api/projects/{project}/equipment/{id}", "An instance",
		func(ctx context.Context, in *ThingInput) (*body[equipment.Instance], error) {
			_, p, err := s.enter(ctx, in.Scope, looking)
			if err != nil {
				return nil, err
			}
			e := p.Draft().Equipment[in.ID]
			if e == nil {
				return nil, problem(host.ErrNotFound)
			}
			return &body[equipment.Instance]{*e}, nil
		})
	bulk(s, "/api/projects/{project}/plans/type", "Make a type of tags that exist",
		func(p *host.Project, ctx context.Context, who host.Actor, t project.TypeOf, apply bool) (*edit.Plan, error) {
			return p.MakeType(ctx, who, t, apply)
		})
	bulk(s, "/api/projects/{project}/plans/equipment", "Make instances of a type",
		func(p *host.Project, ctx context.Context, who host.Actor, n project.NewEquipment, apply bool) (*edit.Plan, error) {
			return p.MakeEquipment(ctx, who, n, apply)
		})
	bulk(s, "/api/projects/{project}/plans/retype", "Make an instance one of another type",
		func(p *host.Project, ctx context.Context, who host.Actor, r edit.Retyping, apply bool) (*edit.Plan, error) {
			return p.Retype(ctx, who, r, apply)
		})
	send(s, http.MethodPost, "/api/projects/{project}/equipment/{id}/detach", "Make plain tags of an instance",
		func(ctx context.Context, in *ThingInput) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, access.Engineer)
			if err != nil {
				return nil, err
			}
			return nil, problem(p.Detach(ctx, who, in.ID))
		})
	send(s, http.MethodPost, "/api/projects/{project}/effects", "What an edit would do to the tags of equipment",
		func(ctx context.Context, in *struct {
			Scope
			Body EditInput
		}) (*body[project.Effect], error) {
			_, p, err := s.enter(ctx, in.Scope, access.Engineer)
			if err != nil {
				return nil, err
			}
			out, err := p.Draft().EffectOf(in.Body.Ops)
			return &body[project.Effect]{out}, problem(err)
		})
	get(s, "/api/projects/{project}/screen-map", "Which screens lead where",
		func(ctx context.Context, in *Scope) (*body[[]ScreenLink], error) {
			_, p, err := s.enter(ctx, *in, looking)
			if err != nil {
				return nil, err
			}
			return &body[[]ScreenLink]{screenMap(p.Draft())}, nil
		})
	get(s, "/api/projects/{project}/screens/{id}/points", "What formulas may name through a screen's parameters", s.screenPoints)
	get(s, "/api/projects/{project}/looks", "State looks kept by name", func(ctx context.Context, in *Scope) (*body[[]screen.LookSet], error) {
		_, p, err := s.enter(ctx, *in, looking)
		if err != nil {
			return nil, err
		}
		return &body[[]screen.LookSet]{valuesOf(p.Draft().Looks)}, nil
	})
	get(s, "/api/projects/{project}/styles", "Text styles kept by name",
		func(ctx context.Context, in *Scope) (*body[[]screen.TextStyle], error) {
			_, p, err := s.enter(ctx, *in, looking)
			if err != nil {
				return nil, err
			}
			return &body[[]screen.TextStyle]{valuesOf(p.Draft().Styles)}, nil
		})
}

func (s *Server) screenPoints(ctx context.Context, in *struct {
	ThingInput
	Text string `query:"text" maxLength:"200"`
}) (*body[[]ScreenPoint], error) {
	_, p, err := s.enter(ctx, in.Scope, looking)
	if err != nil {
		return nil, err
	}
	d := p.Draft()
	sc := d.Screens[in.ID]
	if sc == nil {
		return nil, problem(host.ErrNotFound)
	}
	words := wordsOf(in.Text)
	out := []ScreenPoint{}
	add := func(pt ScreenPoint) {
		if len(out) < 500 && matches(words, strings.ToLower(pt.Path+"\n"+pt.Title)) {
			out = append(out, pt)
		}
	}
	for _, param := range sc.Params {
		id := "$" + param.ID
		add(ScreenPoint{id, param.Name, string(param.Kind), param.Type, param.Title, []string{}})
		t := d.Types[param.Type]
		if param.Kind != screen.ParamEquipment || t == nil {
			continue
		}
		for _, c := range equipment.Chains(t, d.Type) {
			pt := ScreenPoint{ID: id + "." + c.Chain, Path: param.Name + "." + c.Path, Kind: "equipment", Type: c.Type, Offers: []string{}}
			if c.Tag != nil {
				pt.Kind, pt.Title = c.Tag.Type.String(), c.Tag.Description
				for _, k := range screen.Offers(c.Tag) {
					pt.Offers = append(pt.Offers, k.Name)
				}
			}
			add(pt)
		}
	}
	return &body[[]ScreenPoint]{out}, nil
}

// ScreenLink says that a screen leads to another, and by what.
type ScreenLink struct {
	From string `json:"from"`
	To   string `json:"to"`
	By   string `json:"by" doc:"the element, or the equipment whose faceplate opens"`
}

// screenMap lists which screens lead where: by buttons, by what lies within
// them, and by the faceplates of equipment.
func screenMap(d *project.Project) []ScreenLink {
	out := []ScreenLink{}
	seen := map[ScreenLink]bool{}
	var walk func(root, id string, depth int)
	walk = func(root, id string, depth int) {
		s := d.Screens[id]
		if s == nil || depth > 8 {
			return
		}
		add := func(to, by string) {
			l := ScreenLink{From: root, To: to}
			if to != "" && !seen[l] {
				seen[l] = true
				l.By = by
				out = append(out, l)
			}
		}
		for _, eid := range s.Sorted() {
			e := s.Elements[eid]
			for _, a := range e.Actions() {
				if a.Do == screen.ActionOpen {
					add(a.Screen, e.Label())
				}
			}
		}
		for _, param := range s.Params {
			if t := d.Types[param.Type]; t != nil && s.Role == screen.Symbol {
				add(t.Faceplate, t.Name)
			}
		}
		for _, inner := range d.Holds(id) {
			walk(root, inner, depth+1)
		}
	}
	for _, id := range project.SortedKeys(d.Screens) {
		if d.Screens[id].Role != screen.Symbol {
			walk(id, id, 0)
		}
	}
	return out
}
