package server

import (
	"context"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/host"
	"readyrail/internal/record"
)

// usualSpan is the range that is answered where none is asked for.
const usualSpan = 8 * time.Hour

func (s *Server) historyRoutes() {
	s.trendViews()
	get(s, "/api/projects/{project}/trend", "What was recorded of tags in a range, by at most so many points each",
		func(ctx context.Context, in *struct {
			Scope
			Tags   string `query:"tags" maxLength:"4000" doc:"ids, with commas between them"`
			From   int64  `query:"from" minimum:"0" doc:"milliseconds since 1970; eight hours before the end where it is not given"`
			To     int64  `query:"to" minimum:"0" doc:"milliseconds since 1970; now where it is not given"`
			Points int    `query:"points" minimum:"2" maximum:"4000" default:"1000"`
		}) (*body[host.Trend], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			from, to := span(in.From, in.To, usualSpan)
			trend, err := p.Trend(ctx, who, listed(in.Tags), from, to, in.Points)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.Trend]{*trend}, nil
		})
	get(s, "/api/projects/{project}/trend/between", "What tags did between two moments",
		func(ctx context.Context, in *struct {
			Scope
			Tags string `query:"tags" maxLength:"4000" doc:"ids, with commas between them"`
			A    int64  `query:"a" minimum:"0" doc:"milliseconds since 1970"`
			B    int64  `query:"b" minimum:"0"`
		}) (*body[[]record.Between], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			list, err := p.Between(ctx, who, listed(in.Tags), time.UnixMilli(in.A), time.UnixMilli(in.B))
			return &body[[]record.Between]{list}, problem(err)
		})
}

// trendViews are the endpoints of views.
func (s *Server) trendViews() {
	get(s, "/api/projects/{project}/trend/views", "The views of recorded courses, each with the pens of all equipment that it serves",
		func(ctx context.Context, in *struct {
			Scope
			Program string `query:"program" enum:"draft,release" default:"draft"`
		}) (*body[[]host.ViewShown], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			list, err := p.Views(ctx, who, in.Program == "release")
			return &body[[]host.ViewShown]{list}, problem(err)
		})
	get(s, "/api/projects/{project}/trend/plan", "What tags are as the pens of a view that serves all equipment of a type",
		func(ctx context.Context, in *struct {
			Scope
			Tags string `query:"tags" maxLength:"4000" doc:"ids, with commas between them"`
		}) (*body[host.ViewPlan], error) {
			who, p, err := s.enter(ctx, in.Scope, access.Engineer)
			if err != nil {
				return nil, err
			}
			plan, err := p.PlanView(ctx, who, listed(in.Tags))
			return &body[host.ViewPlan]{plan}, problem(err)
		})
}

// listed are the parts of a text with commas between them.
func listed(text string) (out []string) {
	for part := range strings.SplitSeq(text, ",") {
		if part != "" {
			out = append(out, part)
		}
	}
	return out
}
