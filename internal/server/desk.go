package server

import (
	"context"
	"errors"
	"net/http"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/screen"
	"readyrail/internal/edit"
	"readyrail/internal/host"
	"readyrail/internal/run"
)

// DeskScreen is a screen in the Desk's navigation.
type DeskScreen struct {
	ID      string         `json:"id"`
	Name    string         `json:"name"`
	Title   string         `json:"title"`
	Home    bool           `json:"home"`
	Hidden  bool           `json:"hidden"`
	Role    string         `json:"role" enum:",main,popup,faceplate,symbol,header,footer"`
	Area    string         `json:"area"`
	Entries []screen.Entry `json:"entries" doc:"its places in the navigation, where it has more than one"`
	Locked  bool           `json:"locked" doc:"the person may not open it"`
	Roles   []string       `json:"roles" doc:"for a locked screen: roles that may"`
}

// Desk is what the operator's side shows around a screen.
type Desk struct {
	Name      string            `json:"name"`
	Width     int               `json:"width" doc:"pixels of the panel"`
	Height    int               `json:"height"`
	Release   *edit.ReleaseInfo `json:"release,omitempty"`
	Screens   []DeskScreen      `json:"screens"`
	Rights    []string          `json:"rights"`
	Languages []string          `json:"languages"`
	Areas     []access.Area     `json:"areas"`
	Try       *host.TryInfo     `json:"try,omitempty" doc:"how the draft is tried, where that is what this Desk shows"`
}

// WriteInput is a command from an element.
type WriteInput struct {
	Screen  string            `json:"screen" maxLength:"64"`
	Args    map[string]string `json:"args,omitempty" doc:"what the screen's parameters stand for"`
	Element string            `json:"element" maxLength:"400" doc:"its id in the scene"`
	host.Given
	Value string `json:"value" maxLength:"300"`
	Seen  string `json:"seen" maxLength:"300" doc:"what the element showed"`
	Key   string `json:"key" minLength:"8" maxLength:"64" doc:"made by the client; taken once"`
	At    int64  `json:"at" doc:"when the person acted, in the server's milliseconds"`
}

// Written is how a command ended, or what it asks first: one of both.
type Written struct {
	Outcome *host.Outcome `json:"outcome,omitempty"`
	Asks    *host.Asks    `json:"asks,omitempty" doc:"what has to be answered before it is sent; nothing was"`
}

// command is what the input means in a program: the release, or the draft that
// is tried.
func (w WriteInput) command(program run.Program) host.Command {
	if program != run.Try {
		program = run.Release
	}
	return host.Command{Program: program, Screen: w.Screen, Args: w.Args, Element: w.Element, Given: w.Given,
		Value: w.Value, Seen: w.Seen, Key: w.Key, At: time.UnixMilli(w.At)}
}

func (s *Server) deskRoutes() {
	get(s, "/api/projects/{project}/desk", "The Desk of the running release, or of the draft that is tried", s.desk)
	send(s, http.MethodPost, "/api/projects/{project}/writes", "Carry out a command from an element", func(ctx context.Context, in *struct {
		Scope
		Program  string `query:"program" enum:"release,try" default:"release"`
		Language string `query:"language" maxLength:"12" doc:"of what is asked; empty for the project's first"`
		Body     WriteInput
	}) (*body[Written], error) {
		// Rights are asked at the one door, so that a refusal is in the trail too.
		who, p, err := s.enter(ctx, in.Scope, "")
		if err != nil {
			return nil, err
		}
		c := in.Body.command(run.Program(in.Program))
		c.Language = in.Language
		out, err := p.Write(ctx, who, c)
		if asks, _ := askedFirst(err); asks != nil {
			return &body[Written]{Written{Asks: asks}}, nil
		}
		return &body[Written]{Written{Outcome: &out}}, problem(err)
	})
}

// Done is empty where it was done, or says what has to be answered first.
type Done struct {
	Asks *host.Asks `json:"asks,omitempty" doc:"what has to be answered before it is done; nothing was"`
}

// done is the answer to what was done, refused, or asks something first.
func done(err error) (*body[Done], error) {
	asks, err := askedFirst(err)
	return &body[Done]{Done{asks}}, problem(err)
}

// askedFirst takes what is asked out of an error.
func askedFirst(err error) (*host.Asks, error) {
	var asks *host.Asks
	if errors.As(err, &asks) {
		return asks, nil
	}
	return nil, err
}

func (s *Server) desk(ctx context.Context, in *struct {
	Scope
	Program  string `query:"program" enum:"release,try" default:"release"`
	Language string `query:"language" maxLength:"12" doc:"of names and titles; empty for the project's first"`
}) (*body[Desk], error) {
	trying := in.Program == string(run.Try)
	right := access.Right("")
	if trying {
		right = access.Engineer
	}
	who, p, err := s.enter(ctx, in.Scope, right)
	if err != nil {
		return nil, err
	}
	if !trying && !p.May(ctx, who, access.View, true) {
		return nil, problem(p.Require(ctx, who, access.View, ""))
	}
	out := Desk{Name: p.Draft().Site().Name, Width: 1280, Height: 800, Release: p.ReleaseInfo(), Screens: []DeskScreen{}, Rights: []string{},
		Languages: []string{}, Areas: []access.Area{}}
	for _, r := range access.Rights {
		if p.May(ctx, who, r.Right, true) {
			out.Rights = append(out.Rights, string(r.Right))
		}
	}
	release := p.Released()
	if trying {
		release, out.Try = p.Draft(), p.TryInfo()
	}
	if release == nil {
		return &body[Desk]{out}, nil
	}
	word := func(text string) string { return release.Word(in.Language, text) }
	out.Languages, out.Areas = append(out.Languages, release.Site().Languages...), append(out.Areas, release.Site().Areas...)
	for i := range out.Areas {
		out.Areas[i].Name = word(out.Areas[i].Name)
	}
	out.Name, out.Width, out.Height = release.Site().Name, release.Site().PanelWidth, release.Site().PanelHeight
	for _, sc := range screenList(release) {
		d := DeskScreen{ID: sc.ID, Name: word(sc.Name), Title: word(sc.Title), Home: sc.Home, Hidden: sc.Hidden, Role: sc.Role, Area: sc.Area,
			Entries: append([]screen.Entry{}, release.Screens[sc.ID].Entries...), Roles: []string{}}
		for i := range d.Entries {
			d.Entries[i].Name = word(d.Entries[i].Name)
		}
		var denied *access.Denied
		err := p.MayOpen(ctx, who, release.Screens[sc.ID], nil)
		// A faceplate without an area is asked for where it opens.
		plate := sc.Role == string(screen.Faceplate) && sc.Area == "" && p.May(ctx, who, access.View, true)
		if !trying && !plate && asDenied(err, &denied) {
			d.Locked, d.Roles = true, denied.Roles
		}
		out.Screens = append(out.Screens, d)
	}
	return &body[Desk]{out}, nil
}
