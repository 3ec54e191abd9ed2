package server

import (
	"context"
	"net/http"
	"sort"

	"readyrail/internal/core/access"
	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/edit"
	"readyrail/internal/host"
	"readyrail/internal/run"
)

// StopState is one stop of the rail.
type StopState struct {
	Stop     string  `json:"stop"`
	Share    float64 `json:"share" doc:"readiness from 0 to 1"`
	Clean    int     `json:"clean"`
	Things   int     `json:"things"`
	Errors   int     `json:"errors"`
	Warnings int     `json:"warnings"`
}

// Overview is what the shell shows of a project.
type Overview struct {
	ID       string            `json:"id"`
	Site     project.Site      `json:"site"`
	ScreenW  int               `json:"screenWidth" doc:"pixels that a panel leaves to a screen"`
	ScreenH  int               `json:"screenHeight"`
	Revision int64             `json:"revision"`
	Release  *edit.ReleaseInfo `json:"release,omitempty"`
	Changed  bool              `json:"changed" doc:"the draft differs from what runs"`
	Stops    []StopState       `json:"stops"`
	Disk     *float64          `json:"disk,omitempty" doc:"share of the free disk that courses and logs take in 30 days; left out before it was measured"`
}

// FindingInfo is a finding in words.
type FindingInfo struct {
	project.Finding
	Says string `json:"says"`
	Mend string `json:"mend"`
}

// EditInput is an edit.
type EditInput struct {
	Label string       `json:"label" maxLength:"120" doc:"what the edit does, for undo"`
	Ops   []project.Op `json:"ops" minItems:"1" maxItems:"200000"`
}

// EditResult tells the new revision.
type EditResult struct {
	Revision int64  `json:"revision"`
	Label    string `json:"label"`
}

type editOutput struct{ Body EditResult }

// NewProjectInput names a project to make.
type NewProjectInput struct {
	Name string `json:"name" minLength:"1" maxLength:"80"`
}

// ScreenInfo is a screen in the list.
type ScreenInfo struct {
	ID        string         `json:"id"`
	Name      string         `json:"name"`
	Title     string         `json:"title"`
	Area      string         `json:"area"`
	Home      bool           `json:"home"`
	Hidden    bool           `json:"hidden"`
	Order     float64        `json:"order"`
	Elements  int            `json:"elements"`
	Role      string         `json:"role" enum:",main,popup,faceplate,symbol,header,footer"`
	Width     int            `json:"width"`
	Height    int            `json:"height"`
	Params    []screen.Param `json:"params"`
	Roles     []string       `json:"roles" doc:"ids of the roles that may open it; all where there are none"`
	Operators []string       `json:"operators" doc:"ids of the roles that may operate what lies on it; all where there are none"`
}

// body wraps a list or thing as an answer.
type body[T any] struct{ Body T }

func (s *Server) projectRoutes() {
	send(s, http.MethodPost, "/api/projects", "Make a project", func(ctx context.Context, in *struct {
		PanelInput
		Body NewProjectInput
	}) (*body[ProjectAccess], error) {
		who, err := s.actor(ctx, in.Panel)
		if err != nil {
			return nil, err
		}
		p, err := s.host.CreateProject(ctx, who, "", edit.NewProject(in.Body.Name))
		if err != nil {
			return nil, problem(err)
		}
		return &body[ProjectAccess]{ProjectAccess{ID: p.ID(), Name: in.Body.Name, Rights: []string{}}}, nil
	})
	send(s, http.MethodPost, "/api/archives", "Make a project of an archive", func(ctx context.Context, in *struct {
		PanelInput
		Name    string `query:"name" maxLength:"80" doc:"what it is called; as in the archive where it is empty"`
		RawBody []byte `contentType:"application/octet-stream" maxLength:"67108864"`
	}) (*body[ProjectAccess], error) {
		who, err := s.actor(ctx, in.Panel)
		if err != nil {
			return nil, err
		}
		p, err := s.host.BringProject(ctx, who, in.Name, in.RawBody)
		if err != nil {
			return nil, problem(err)
		}
		return &body[ProjectAccess]{ProjectAccess{ID: p.ID(), Name: p.Draft().Site().Name, Rights: []string{}}}, nil
	})
	get(s, "/api/projects/{project}", "A project at a glance", func(ctx context.Context, in *Scope) (*body[Overview], error) {
		_, p, err := s.enter(ctx, *in, looking)
		if err != nil {
			return nil, err
		}
		return &body[Overview]{overview(p)}, nil
	})
	get(s, "/api/projects/{project}/findings", "What the check has to say", func(ctx context.Context, in *struct {
		Scope
		Language string `query:"language" maxLength:"5"`
	}) (*body[[]FindingInfo], error) {
		_, p, err := s.enter(ctx, in.Scope, looking)
		if err != nil {
			return nil, err
		}
		found, err := findingsOf(ctx, p, p.Draft(), in.Language)
		return &body[[]FindingInfo]{found}, err
	})
	s.workshopRoutes()
	s.editRoutes()
	s.listRoutes()
	s.releaseRoutes()
}

func overview(p *host.Project) Overview {
	d := p.Draft()
	w, h := d.ScreenSize()
	out := Overview{ID: p.ID(), Site: *d.Site(), ScreenW: w, ScreenH: h, Revision: p.Revision(), Release: p.ReleaseInfo(),
		Stops: []StopState{}}
	out.Changed = out.Release == nil || out.Release.Change != out.Revision
	for _, r := range d.Readiness() {
		out.Stops = append(out.Stops, StopState{string(r.Stop), r.Share(), r.Clean, r.Things, r.Errors, r.Warnings})
	}
	if share, ok := p.DiskTaken(); ok {
		out.Disk = &share
	}
	// Release is ready when what runs is the draft.
	last := StopState{Stop: string(project.StopRelease), Things: 1}
	if !out.Changed {
		last.Clean, last.Share = 1, 1
	}
	out.Stops = append(out.Stops, last)
	return out
}

func (s *Server) editRoutes() {
	send(s, http.MethodPost, "/api/projects/{project}/edits", "Change the draft", func(ctx context.Context, in *struct {
		Scope
		Body EditInput
	}) (*editOutput, error) {
		who, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		if _, err := p.Edit(ctx, who, in.Body.Label, in.Body.Ops); err != nil {
			return nil, problem(err)
		}
		return &editOutput{EditResult{p.Revision(), in.Body.Label}}, nil
	})
	step := func(path, summary string, act func(*host.Project, context.Context, host.Actor) (string, error)) {
		send(s, http.MethodPost, path, summary, func(ctx context.Context, in *Scope) (*editOutput, error) {
			who, p, err := s.enter(ctx, *in, access.Engineer)
			if err != nil {
				return nil, err
			}
			label, err := act(p, ctx, who)
			if err != nil {
				return nil, problem(err)
			}
			return &editOutput{EditResult{p.Revision(), label}}, nil
		})
	}
	step("/api/projects/{project}/undo", "Take one's last change back", (*host.Project).Undo)
	step("/api/projects/{project}/redo", "Bring back what was taken back", (*host.Project).Redo)
	get(s, "/api/projects/{project}/archive", "The draft as a project archive", func(ctx context.Context, in *struct {
		Scope
		Recipes bool `query:"recipes" doc:"with the plant's recipes and their versions"`
	}) (*fileOutput, error) {
		who, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		b, err := p.Archive(ctx, who, in.Recipes)
		return &fileOutput{"application/zip", `attachment; filename="` + p.ID() + `.zip"`, b}, problem(err)
	})
}

type fileOutput struct {
	ContentType string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

func (s *Server) listRoutes() {
	get(s, "/api/projects/{project}/devices", "The devices of the draft",
		func(ctx context.Context, in *Scope) (*body[[]device.Device], error) {
			_, p, err := s.enter(ctx, *in, looking)
			if err != nil {
				return nil, err
			}
			return &body[[]device.Device]{valuesOf(p.Draft().Devices)}, nil
		})
	get(s, "/api/projects/{project}/links", "How the links stand", func(ctx context.Context, in *struct {
		Scope
		Program string `query:"program" enum:"draft,release" default:"draft"`
	}) (*body[[]run.LinkStatus], error) {
		who, p, err := s.enter(ctx, in.Scope, "")
		if err != nil {
			return nil, err
		}
		right := access.Engineer
		if in.Program == string(run.Release) {
			right = access.View
		}
		if !p.May(ctx, who, right, true) {
			return nil, problem(p.Require(ctx, who, right, ""))
		}
		return &body[[]run.LinkStatus]{p.Links(run.Program(in.Program))}, nil
	})
	get(s, "/api/projects/{project}/screens", "The screens of the draft", func(ctx context.Context, in *Scope) (*body[[]ScreenInfo], error) {
		_, p, err := s.enter(ctx, *in, looking)
		if err != nil {
			return nil, err
		}
		return &body[[]ScreenInfo]{screenList(p.Draft())}, nil
	})
	get(s, "/api/projects/{project}/screens/{id}", "A screen of the draft as people read it", func(ctx context.Context, in *struct {
		Scope
		ID string `path:"id" maxLength:"64"`
	}) (*body[screen.Screen], error) {
		_, p, err := s.enter(ctx, in.Scope, looking)
		if err != nil {
			return nil, err
		}
		sc := p.Draft().Screens[in.ID]
		if sc == nil {
			return nil, problem(host.ErrNotFound)
		}
		return &body[screen.Screen]{*p.Draft().ShownScreen(sc)}, nil
	})
	get(s, "/api/catalogue", "The kinds of elements", func(ctx context.Context, in *PanelInput) (*body[Catalogue], error) {
		if _, err := s.actor(ctx, in.Panel); err != nil {
			return nil, err
		}
		return &body[Catalogue]{catalogue(heard(ctx))}, nil
	})
	get(s, "/api/projects/{project}/roles", "The roles of the draft", func(ctx context.Context, in *Scope) (*body[[]access.Role], error) {
		_, p, err := s.enter(ctx, *in, looking)
		if err != nil {
			return nil, err
		}
		out := []access.Role{}
		for _, id := range project.SortedKeys(p.Draft().Roles) {
			out = append(out, *p.Draft().Roles[id])
		}
		return &body[[]access.Role]{out}, nil
	})
}

// Catalogue is what the editor needs to know of elements and formulas.
type Catalogue struct {
	Things     []project.ThingKind `json:"things" doc:"the kinds of things that a project consists of"`
	Kinds      []*screen.Kind      `json:"kinds"`
	Colours    []string            `json:"colours"`
	Functions  []FunctionInfo      `json:"functions"`
	Rights     []access.Info       `json:"rights"`
	Qualities  []QualityInfo       `json:"qualities"`
	System     []tag.SystemValue   `json:"system" doc:"values that system tags tell"`
	Behaviours []string            `json:"behaviours" doc:"what tags do on a stand-in"`
	Columns    []string            `json:"columns" doc:"of tag lists"`
	Looks      []string            `json:"looks" doc:"properties that a state look may set"`
	Places     []screen.Prop       `json:"places" doc:"what every element has and a formula may drive"`
	Differing  []string            `json:"differing" doc:"properties of a tag that may differ from one instance to another"`
	AlarmDiff  []string            `json:"alarmDiffering" doc:"properties of an alarm that may"`
	AlarmUsual []string            `json:"alarmUsual" doc:"those of them that a new alarm of a type leaves to its instances"`
	Entries    []string            `json:"entries" doc:"kinds of events in the journal for which a site has rules"`
	Failures   []string            `json:"failures" doc:"failures that may have a rule of their own"`
}

func screenList(p *project.Project) []ScreenInfo {
	out := []ScreenInfo{}
	for _, id := range project.SortedKeys(p.Screens) {
		sc := p.Screens[id]
		out = append(out, ScreenInfo{id, sc.Name, sc.Title, sc.Area, sc.Home, sc.Hidden, sc.Order, len(sc.Elements), string(sc.Role), sc.Width,
			sc.Height, append([]screen.Param{}, sc.Params...), append([]string{}, sc.Roles...), append([]string{}, sc.Operators...)})
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Order < out[j].Order })
	return out
}
