package server

import (
	"context"
	"net/http"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/edit"
	"readyrail/internal/host"
)

// BulkInput is an edit in bulk, to look at or to do.
type BulkInput[T any] struct {
	Plan  T    `json:"plan"`
	Apply bool `json:"apply,omitempty"`
}

// TurnInput takes the commissioning turn.
type TurnInput struct {
	Devices []string `json:"devices" maxItems:"200" doc:"ids"`
	Reason  string   `json:"reason" maxLength:"300"`
	Minutes int      `json:"minutes" minimum:"1" maximum:"720"`
}

// ProofInput is the result of a loop check.
type ProofInput struct {
	Tags   []string `json:"tags" minItems:"1" maxItems:"5000" doc:"ids"`
	Result string   `json:"result" enum:"passed,failed," doc:"empty takes it back"`
	Note   string   `json:"note,omitempty" maxLength:"500"`
}

// DraftWrite writes a tag of the draft.
type DraftWrite struct {
	Tag   string `json:"tag" maxLength:"64"`
	Value string `json:"value" maxLength:"300"`
	Key   string `json:"key" minLength:"8" maxLength:"64" doc:"made by the client; taken once"`
}

// Commissioning is who may write from the draft, what is held, and how it is
// tried.
type Commissioning struct {
	Turn      *host.Turn      `json:"turn,omitempty"`
	Overrides []host.Override `json:"overrides"`
	Try       *host.TryInfo   `json:"try,omitempty"`
	May       []string        `json:"may" doc:"which of override and commission the person has"`
}

// bulk registers a plan: what many changes would be, carried out where apply
// says so.
func bulk[T, R any](s *Server, path, summary string, act func(*host.Project, context.Context, host.Actor, T, bool) (*R, error)) {
	send(s, http.MethodPost, path, summary, func(ctx context.Context, in *struct {
		Scope
		Body BulkInput[T]
	}) (*body[R], error) {
		who, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		out, err := act(p, ctx, who, in.Body.Plan, in.Body.Apply)
		if err != nil {
			return nil, problem(err)
		}
		return &body[R]{*out}, nil
	})
}

func (s *Server) runningRoutes() {
	bulk(s, "/api/projects/{project}/tags/many", "Make tags by a pattern",
		func(p *host.Project, ctx context.Context, who host.Actor, m project.Many, apply bool) (*edit.Plan, error) {
			return p.MakeMany(ctx, who, m, apply)
		})
	bulk(s, "/api/projects/{project}/tags/copies", "Copy tags or a folder",
		func(p *host.Project, ctx context.Context, who host.Actor, c project.Copies, apply bool) (*edit.Plan, error) {
			return p.CopyTags(ctx, who, c, apply)
		})
	bulk(s, "/api/projects/{project}/tags/moves", "Move tags and folders, or rename one",
		func(p *host.Project, ctx context.Context, who host.Actor, m project.Move, apply bool) (*edit.Plan, error) {
			return p.MoveTags(ctx, who, m, apply)
		})
	get(s, "/api/projects/{project}/commissioning", "The turn, what is held, and how the draft is tried",
		func(ctx context.Context, in *Scope) (*body[Commissioning], error) {
			who, p, err := s.enter(ctx, *in, looking)
			if err != nil {
				return nil, err
			}
			out := Commissioning{Turn: p.Turn(who), Overrides: p.Overrides(), Try: p.TryInfo(), May: []string{}}
			for _, r := range []access.Right{access.Override, access.Commission} {
				if p.May(ctx, who, r, true) {
					out.May = append(out.May, string(r))
				}
			}
			return &body[Commissioning]{out}, nil
		})
	s.holdRoutes()
	s.turnRoutes()
	s.checkRoutes()
	s.watchRoutes()
	s.handoverRoutes()
	s.controlRoutes()
	s.alarmRoutes()
	s.journalRoutes()
	s.alarmListRoutes()
	s.tryRoutes()
}

func (s *Server) holdRoutes() {
	send(s, http.MethodPut, "/api/projects/{project}/overrides/{id}", "Hold a tag at a value", func(ctx context.Context, in *struct {
		ThingInput
		Body host.HoldOrder
	}) (*body[Done], error) {
		who, p, err := s.enter(ctx, in.Scope, "")
		if err != nil {
			return nil, err
		}
		return done(p.HoldTag(ctx, who, in.ID, in.Body))
	})
	send(s, http.MethodDelete, "/api/projects/{project}/overrides/{id}", "Give a held tag back",
		func(ctx context.Context, in *ThingInput) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			return nil, problem(p.GiveBack(ctx, who, in.ID, "given back"))
		})
}

func (s *Server) turnRoutes() {
	send(s, http.MethodPut, "/api/projects/{project}/turn", "Take the commissioning turn", func(ctx context.Context, in *struct {
		Scope
		Body TurnInput
	}) (*struct{}, error) {
		who, p, err := s.enter(ctx, in.Scope, access.Commission)
		if err != nil {
			return nil, err
		}
		return nil, problem(p.TakeTurn(ctx, who, in.Body.Devices, in.Body.Reason, time.Duration(in.Body.Minutes)*time.Minute))
	})
	send(s, http.MethodDelete, "/api/projects/{project}/turn", "End the commissioning turn",
		func(ctx context.Context, in *Scope) (*struct{}, error) {
			who, p, err := s.enter(ctx, *in, access.Commission)
			if err != nil {
				return nil, err
			}
			return nil, problem(p.EndTurn(ctx, who))
		})
	send(s, http.MethodPost, "/api/projects/{project}/draft-writes", "Write a tag of the draft within one's turn",
		func(ctx context.Context, in *struct {
			Scope
			Body DraftWrite
		}) (*body[host.Outcome], error) {
			who, p, err := s.enter(ctx, in.Scope, access.Commission)
			if err != nil {
				return nil, err
			}
			out, err := p.WriteDraft(ctx, who, in.Body.Tag, in.Body.Value, in.Body.Key)
			return &body[host.Outcome]{out}, problem(err)
		})
}

func (s *Server) watchRoutes() {
	get(s, "/api/projects/{project}/watch-sets", "One's sets of watched tags",
		func(ctx context.Context, in *Scope) (*body[[]host.WatchSet], error) {
			who, p, err := s.enter(ctx, *in, looking)
			if err != nil {
				return nil, err
			}
			list, err := p.WatchSets(ctx, who)
			return &body[[]host.WatchSet]{list}, problem(err)
		})
	send(s, http.MethodPut, "/api/projects/{project}/watch-sets", "Keep a set of watched tags", func(ctx context.Context, in *struct {
		Scope
		Body host.WatchSet
	}) (*struct{}, error) {
		who, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		return nil, problem(p.PutWatchSet(ctx, who, in.Body))
	})
	send(s, http.MethodDelete, "/api/projects/{project}/watch-sets/{id}", "Forget a set of watched tags",
		func(ctx context.Context, in *ThingInput) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, access.Engineer)
			if err != nil {
				return nil, err
			}
			return nil, problem(p.DropWatchSet(ctx, who, in.ID))
		})
}

func (s *Server) tryRoutes() {
	send(s, http.MethodPut, "/api/projects/{project}/try", "Try the draft", func(ctx context.Context, in *struct {
		Scope
		Body struct {
			Live []string `json:"live" maxItems:"200" doc:"ids of devices whose real values are read; every other is on its stand-in"`
		}
	}) (*struct{}, error) {
		who, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		return nil, problem(p.StartTry(ctx, who, in.Body.Live))
	})
	send(s, http.MethodDelete, "/api/projects/{project}/try", "End trying the draft", func(ctx context.Context, in *Scope) (*struct{}, error) {
		who, p, err := s.enter(ctx, *in, access.Engineer)
		if err != nil {
			return nil, err
		}
		return nil, problem(p.StopTry(ctx, who))
	})
}
