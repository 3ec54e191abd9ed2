package server

import (
	"context"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/host"
	"readyrail/internal/record"
	"readyrail/internal/run"
)

// PointCard is all that there is to say of a point where it is shown.
type PointCard struct {
	ID          string               `json:"id"`
	Path        string               `json:"path"`
	Description string               `json:"description"`
	Type        string               `json:"type"`
	Source      string               `json:"source" enum:"device,internal,computed,system"`
	Device      string               `json:"device"`
	Address     string               `json:"address"`
	Formula     string               `json:"formula"`
	Value       string               `json:"value" doc:"as people read it"`
	Raw         string               `json:"raw"`
	Level       string               `json:"level" enum:"good,uncertain,bad,held"`
	Reason      string               `json:"reason"`
	Since       time.Time            `json:"since" doc:"time of the value"`
	Low         string               `json:"low"`
	High        string               `json:"high"`
	Held        *host.Override       `json:"held,omitempty"`
	Check       string               `json:"check" doc:"state of the loop check" enum:",untested,passed,failed,outdated"`
	Uses        []project.Use        `json:"uses" doc:"for those who may look at the project"`
	MayHold     bool                 `json:"mayHold"`
	MayLimit    bool                 `json:"mayLimit"`
	Alarms      []host.StandingAlarm `json:"alarms" doc:"of the tag, the normal ones too"`
}

func (s *Server) pointRoutes() {
	get(s, "/api/projects/{project}/points/{id}", "A point at the Desk or in the Workshop", func(ctx context.Context, in *struct {
		ThingInput
		Program string `query:"program" enum:"release,try,draft" default:"release"`
	}) (*body[PointCard], error) {
		program := run.Program(in.Program)
		right := access.Engineer
		if program == run.Release {
			right = ""
		}
		who, p, err := s.enter(ctx, in.Scope, right)
		if err != nil {
			return nil, err
		}
		version := p.Draft()
		if program == run.Release {
			version = p.Released()
		}
		if version == nil {
			return nil, problem(host.ErrNotFound)
		}
		t, ok := version.Tag(in.ID)
		if !ok {
			return nil, problem(host.ErrNotFound)
		}
		if program == run.Release {
			if err := p.Require(ctx, who, access.View, version.AreaOf(t)); err != nil {
				return nil, problem(err)
			}
		}
		card := PointCard{ID: t.ID, Description: t.Description, Type: t.Type.String(), Source: string(t.Source), Address: t.Address,
			Formula: version.ShownTag(t).Formula, Uses: []project.Use{}, Alarms: []host.StandingAlarm{}}
		card.Path, _ = version.Path(t.ID)
		if d := version.Devices[t.Device]; d != nil {
			card.Device = d.Name
		}
		if t.Kind().IsNumber() {
			card.Low, card.High = t.ShowLimits()
		}
		r := p.ReadTags(program, []string{t.ID})[0]
		card.Level, card.Reason, card.Since = r.Value.Quality.Level().String(), r.Value.Quality.Reason().Say(heard(ctx)), r.Value.Time()
		if !r.Value.Quality.IsBad() {
			card.Value, card.Raw = t.Show(r.Value, true), r.Raw.Text()
		}
		for _, o := range p.Overrides() {
			if o.Tag == t.ID {
				card.Held = &o
			}
		}
		if t.Source == tag.Device {
			checks, err := p.LoopChecks(ctx)
			if err != nil {
				return nil, problem(err)
			}
			card.Check = (&tagLook{checks: checks}).check(t)
		}
		card.MayHold = p.May(ctx, who, access.Override, true)
		if p.May(ctx, who, access.Engineer, true) {
			uses := version.Uses(t.ID)
			card.Uses = append(card.Uses, uses[:min(len(uses), 50)]...)
		}
		board, err := p.Alarms(ctx, who, program, true, "")
		if err != nil {
			return nil, problem(err)
		}
		card.MayLimit = board.Limits
		for _, a := range board.Alarms {
			if a.Tag == t.ID {
				card.Alarms = append(card.Alarms, a)
			}
		}
		return &body[PointCard]{card}, nil
	})
	get(s, "/api/projects/{project}/points/{id}/course", "The recorded course of a signal that has an alarm",
		func(ctx context.Context, in *struct {
			ThingInput
			From int64 `query:"from" minimum:"0" doc:"milliseconds since 1970; ten minutes before the end where it is not given"`
			To   int64 `query:"to" minimum:"0" doc:"milliseconds since 1970; now where it is not given"`
		}) (*body[[]record.CoursePoint], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			from, to := span(in.From, in.To, 10*time.Minute)
			list, err := p.Course(ctx, who, in.ID, from, to)
			return &body[[]record.CoursePoint]{list}, problem(err)
		})
}
