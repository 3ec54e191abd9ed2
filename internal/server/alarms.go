package server

import (
	"context"
	"net/http"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/project"
	"readyrail/internal/host"
	"readyrail/internal/record"
	"readyrail/internal/run"
)

// AlarmRow is an alarm's definition as people read it.
type AlarmRow struct {
	alarm.Alarm
	Path string `json:"path" doc:"of its signal"`
	Unit string `json:"unit"`
	// Suggested is the priority by consequence and time to respond.
	Suggested alarm.Priority `json:"suggested,omitempty" enum:"critical,high,medium,low"`
	// Gear says of which equipment it comes; absent for an alarm of its own.
	Gear *project.GearTag `json:"gear,omitempty"`
	Type string           `json:"typeName,omitempty" doc:"of the type that it comes of"`
}

// AlarmsActed tells how many alarms an act meant something for.
type AlarmsActed struct {
	Alarms   int        `json:"alarms"`
	Recorded bool       `json:"recorded" doc:"false where the disk does not take it now: it stands, and is recorded as soon as it can"`
	Asks     *host.Asks `json:"asks,omitempty" doc:"what has to be answered before it is done; nothing was"`
}

func (s *Server) alarmRoutes() {
	get(s, "/api/projects/{project}/alarms", "How the alarms stand", func(ctx context.Context, in *struct {
		Scope
		Program  string `query:"program" enum:"release,try,draft" default:"release"`
		All      bool   `query:"all" doc:"those that are normal too"`
		Language string `query:"language" maxLength:"12" doc:"of the project; its first where none is given"`
	}) (*body[host.AlarmBoard], error) {
		right := access.Engineer
		if run.Program(in.Program) == run.Release {
			right = "" // of each alarm's own area
		}
		who, p, err := s.enter(ctx, in.Scope, right)
		if err != nil {
			return nil, err
		}
		out, err := p.Alarms(ctx, who, run.Program(in.Program), in.All, in.Language)
		if err != nil {
			return nil, problem(err)
		}
		return &body[host.AlarmBoard]{*out}, nil
	})
	send(s, http.MethodPost, "/api/projects/{project}/alarms/acts", "Acknowledge, reset, shelve, take out of service",
		func(ctx context.Context, in *struct {
			Scope
			Body host.AlarmAct
		}) (*body[AlarmsActed], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			n, recorded, err := p.ActOnAlarms(ctx, who, in.Body)
			asks, err := askedFirst(err)
			return &body[AlarmsActed]{AlarmsActed{n, recorded, asks}}, problem(err)
		})
	get(s, "/api/projects/{project}/alarm-limits", "The limits that were changed at the Desk",
		func(ctx context.Context, in *Scope) (*body[[]host.ChangedLimit], error) {
			who, p, err := s.enter(ctx, *in, "")
			if err != nil {
				return nil, err
			}
			list, err := p.LimitsSeen(ctx, who)
			return &body[[]host.ChangedLimit]{list}, problem(err)
		})
	send(s, http.MethodPut, "/api/projects/{project}/alarm-limits/{id}", "Change the limit of an alarm at the Desk",
		func(ctx context.Context, in *struct {
			ThingInput
			Body host.LimitOrder
		}) (*body[Done], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			return done(p.SetAlarmLimit(ctx, who, in.ID, in.Body))
		})
	get(s, "/api/projects/{project}/alarm-definitions", "The alarms of the draft",
		func(ctx context.Context, in *Scope) (*body[[]AlarmRow], error) {
			_, p, err := s.enter(ctx, *in, looking)
			if err != nil {
				return nil, err
			}
			return &body[[]AlarmRow]{alarmRows(p.Draft())}, nil
		})
	send(s, http.MethodPost, "/api/projects/{project}/alarm-definitions/{id}/plays",
		"What an alarm of the draft did, and would have done otherwise", func(ctx context.Context, in *struct {
			ThingInput
			Body record.Proposal
		}) (*body[record.Played], error) {
			_, p, err := s.enter(ctx, in.Scope, access.Engineer)
			if err != nil {
				return nil, err
			}
			out, err := p.WhatIf(ctx, in.ID, in.Body)
			if err != nil {
				return nil, problem(err)
			}
			return &body[record.Played]{*out}, nil
		})
	get(s, "/api/projects/{project}/alarm-performance", "How the alarms did over a time", func(ctx context.Context, in *struct {
		Scope
		From int64  `query:"from" minimum:"0" doc:"milliseconds since 1970; a day before the end where it is not given"`
		To   int64  `query:"to" minimum:"0" doc:"milliseconds since 1970; now where it is not given"`
		Area string `query:"area" maxLength:"64" doc:"id; all areas where none is given"`
	}) (*body[alarm.Performance], error) {
		who, p, err := s.enter(ctx, in.Scope, "")
		if err != nil {
			return nil, err
		}
		from, to := span(in.From, in.To, 24*time.Hour)
		out, err := p.AlarmPerformance(ctx, who, from, to, in.Area)
		if err != nil {
			return nil, problem(err)
		}
		return &body[alarm.Performance]{*out}, nil
	})
}

func alarmRows(d *project.Project) []AlarmRow {
	out := []AlarmRow{}
	for _, id := range d.SortedAlarms() {
		row := AlarmRow{Alarm: *d.ShownAlarm(d.Alarms[id])}
		row.Path, _ = d.Path(row.Tag)
		if t := d.Tags[row.Tag]; t != nil {
			row.Unit = t.Unit
		}
		row.Suggested, _ = row.Guidance.Suggested()
		if g, ok := d.GearAlarm(id); ok {
			row.Gear = &g
			if t := d.Types[g.Type]; t != nil {
				row.Type = t.Name
			}
		}
		out = append(out, row)
	}
	return out
}

// span is a time that somebody asked for, in milliseconds since 1970: until now
// where its end is not given, and of the usual length where its beginning is
// not.
func span(from, to int64, usual time.Duration) (a, b time.Time) {
	b = time.UnixMilli(to)
	if to == 0 {
		b = time.Now()
	}
	a = time.UnixMilli(from)
	if from == 0 {
		a = b.Add(-usual)
	}
	return a, b
}
