package server

import (
	"context"
	"net/http"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/history"
	"readyrail/internal/host"
	"readyrail/internal/record"
)

// usualSpan is the range that is answered where none is asked for.
const usualSpan = 8 * time.Hour

func (s *Server) historyRoutes() {
	s.trendViews()
	s.edgeRoutes()
	s.markRoutes()
	s.tableRoutes()
	s.logRoutes()
	get(s, "/api/projects/{project}/trend", "What was recorded of tags in a range, by at most so many points each",
		func(ctx context.Context, in *struct {
			Scope
			Tags   string `query:"tags" maxLength:"4000" doc:"ids, with commas between them"`
			From   int64  `query:"from" minimum:"0" doc:"milliseconds since 1970; eight hours before the end where it is not given"`
			To     int64  `query:"to" minimum:"0" doc:"milliseconds since 1970; now where it is not given"`
			Points int    `query:"points" minimum:"2" maximum:"4000" default:"1000"`
			Log    string `query:"log" maxLength:"100" doc:"id of the log that is read; what the recorder has where it is not given"`
		}) (*body[host.Trend], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			trend, err := p.Trend(ctx, who, listed(in.Tags), period(in.From, in.To, in.Log), in.Points)
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
			Log  string `query:"log" maxLength:"100" doc:"id of the log that is read"`
		}) (*body[[]record.Between], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			list, err := p.Between(ctx, who, listed(in.Tags), host.Period{From: time.UnixMilli(in.A), To: time.UnixMilli(in.B), Log: in.Log})
			return &body[[]record.Between]{list}, problem(err)
		})
}

// edgeRoutes are the endpoints that look for moments and measure between them.
func (s *Server) edgeRoutes() {
	get(s, "/api/projects/{project}/trend/find", "The stretches of a recorded time in which a condition held",
		func(ctx context.Context, in *struct {
			Scope
			Program   string `query:"program" enum:"draft,release" default:"release" doc:"whose names the condition uses"`
			Condition string `query:"condition" maxLength:"1000" doc:"a formula that is true or false"`
			Search    string `query:"search" maxLength:"40" doc:"what to ask by how far it is"`
			Least     int64  `query:"least" minimum:"0" maximum:"31536000000" doc:"milliseconds that it holds at least"`
			From      int64  `query:"from" minimum:"0" doc:"milliseconds since 1970"`
			To        int64  `query:"to" minimum:"0"`
			Log       string `query:"log" maxLength:"100" doc:"id of the log that is read"`
		}) (*body[host.Found], error) {
			who, p, err := s.enter(ctx, in.Scope, readsOf(in.Program))
			if err != nil {
				return nil, err
			}
			found, err := p.Find(ctx, who, in.Program == "release", in.Condition, time.Duration(in.Least)*time.Millisecond,
				period(in.From, in.To, in.Log), in.Search)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.Found]{*found}, nil
		})
	get(s, "/api/projects/{project}/trend/find/{search}", "How much of a search of one's own is done",
		func(ctx context.Context, in *struct {
			Scope
			Search string `path:"search" maxLength:"40"`
		}) (*body[SearchDone], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			share, err := p.SearchShare(ctx, who, in.Search)
			return &body[SearchDone]{SearchDone{share}}, problem(err)
		})
	get(s, "/api/projects/{project}/trend/pairs", "The times from an edge of one signal to the next of another",
		func(ctx context.Context, in *struct {
			Scope
			First      string  `query:"first" maxLength:"200" doc:"id of a BOOL"`
			FirstFall  bool    `query:"firstFall" doc:"as it goes off, and not as it comes on"`
			Second     string  `query:"second" maxLength:"200"`
			SecondFall bool    `query:"secondFall"`
			Least      float64 `query:"least" minimum:"0" doc:"seconds that are expected at least; 0 for no bound"`
			Most       float64 `query:"most" minimum:"0"`
			From       int64   `query:"from" minimum:"0" doc:"milliseconds since 1970"`
			To         int64   `query:"to" minimum:"0"`
			Log        string  `query:"log" maxLength:"100" doc:"id of the log that is read"`
		}) (*body[host.EdgePairs], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			first, second := record.Edge{Tag: in.First, Fall: in.FirstFall}, record.Edge{Tag: in.Second, Fall: in.SecondFall}
			pairs, err := p.Pairs(ctx, who, first, second, period(in.From, in.To, in.Log), in.Least, in.Most)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.EdgePairs]{*pairs}, nil
		})
	send(s, http.MethodPost, "/api/projects/{project}/trend/pairs/proofs",
		"Measure the times from an edge to another, and keep the result with the loop checks of the two",
		func(ctx context.Context, in *struct {
			Scope
			Body PairsInput
		}) (*body[host.PairProof], error) {
			who, p, err := s.enter(ctx, in.Scope, access.Commission)
			if err != nil {
				return nil, err
			}
			b := in.Body
			first, second := record.Edge{Tag: b.First, Fall: b.FirstFall}, record.Edge{Tag: b.Second, Fall: b.SecondFall}
			proof, err := p.ProvePairs(ctx, who, first, second, period(b.From, b.To, b.Log), b.Least, b.Most)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.PairProof]{*proof}, nil
		})
}

// PairsInput is what is measured to prove two signals.
type PairsInput struct {
	First      string  `json:"first" maxLength:"200" doc:"id of a BOOL"`
	FirstFall  bool    `json:"firstFall,omitempty" doc:"as it goes off, and not as it comes on"`
	Second     string  `json:"second" maxLength:"200"`
	SecondFall bool    `json:"secondFall,omitempty"`
	Least      float64 `json:"least,omitempty" minimum:"0" doc:"seconds that are expected at least; 0 for no bound"`
	Most       float64 `json:"most,omitempty" minimum:"0"`
	From       int64   `json:"from" minimum:"0" doc:"milliseconds since 1970"`
	To         int64   `json:"to" minimum:"0"`
	Log        string  `json:"log,omitempty" maxLength:"100" doc:"id of the log that is read"`
}

// SearchDone is how far a search is.
type SearchDone struct {
	Share float64 `json:"share" doc:"0 to 1; 1 where no such search goes on"`
}

// period is a recorded time as it is asked for; the last hours where no ends are
// given.
func period(from, to int64, log string) host.Period {
	p := host.Period{Log: log}
	p.From, p.To = span(from, to, usualSpan)
	return p
}

// markRoutes are the endpoints of what happened in a time.
func (s *Server) markRoutes() {
	get(s, "/api/projects/{project}/trend/marks", "What happened in a recorded time: alarms, what people did, and their notes",
		func(ctx context.Context, in *struct {
			Scope
			From  int64 `query:"from" minimum:"0" doc:"milliseconds since 1970"`
			To    int64 `query:"to" minimum:"0"`
			Stood bool  `query:"stood" doc:"with the alarms that stood as it began"`
		}) (*body[host.Marks], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			from, to := span(in.From, in.To, usualSpan)
			marks, err := p.Marks(ctx, who, from, to, in.Stood)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.Marks]{*marks}, nil
		})
	send(s, http.MethodPost, "/api/projects/{project}/trend/notes", "Note something of a moment or a stretch of the recorded time",
		func(ctx context.Context, in *struct {
			Scope
			Body struct {
				Tag  string `json:"tag,omitempty" maxLength:"200" doc:"whose area the note is of"`
				From int64  `json:"from" minimum:"0" doc:"milliseconds since 1970"`
				To   int64  `json:"to" minimum:"0" doc:"the same for a moment"`
				Text string `json:"text" maxLength:"1000"`
			}
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			return nil, problem(p.NoteTime(ctx, who, in.Body.Tag, time.UnixMilli(in.Body.From), time.UnixMilli(in.Body.To), in.Body.Text))
		})
}

// readsOf is the right to read what a version calls its things.
func readsOf(program string) access.Right {
	if program == "draft" {
		return looking
	}
	return ""
}

// trendViews are the endpoints of views.
func (s *Server) trendViews() {
	get(s, "/api/projects/{project}/trend/views", "The views of recorded courses, each with the pens of all equipment that it serves",
		func(ctx context.Context, in *struct {
			Scope
			Program string `query:"program" enum:"draft,release" default:"draft"`
		}) (*body[[]host.ViewShown], error) {
			who, p, err := s.enter(ctx, in.Scope, readsOf(in.Program))
			if err != nil {
				return nil, err
			}
			list, err := p.Views(ctx, who, in.Program == "release")
			return &body[[]host.ViewShown]{list}, problem(err)
		})
	send(s, http.MethodPut, "/api/projects/{project}/trend/own-views", "Keep a view of recorded courses for oneself",
		func(ctx context.Context, in *struct {
			Scope
			Body struct {
				ID string `json:"id,omitempty" maxLength:"60" doc:"of a view of one's own; empty for a new one"`
				history.View
			}
		}) (*body[string], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			v := in.Body.View
			v.ID = in.Body.ID
			id, err := p.PutOwnView(ctx, who, v)
			return &body[string]{id}, problem(err)
		})
	send(s, http.MethodDelete, "/api/projects/{project}/trend/own-views/{id}", "Forget a view of one's own",
		func(ctx context.Context, in *struct {
			Scope
			ID string `path:"id" maxLength:"60"`
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			return nil, problem(p.DropOwnView(ctx, who, in.ID))
		})
	get(s, "/api/projects/{project}/trend/plan", "What tags are as the pens of a view that serves all equipment of a type",
		func(ctx context.Context, in *struct {
			Scope
			Tags string `query:"tags" maxLength:"4000" doc:"ids, with commas between them"`
		}) (*body[host.ViewPlan], error) {
			who, p, err := s.enter(ctx, in.Scope, looking)
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
