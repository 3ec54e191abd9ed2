package project

import (
	"slices"

	"readyrail/internal/core/access"
	"readyrail/internal/core/say"
)

// ReleaseRule is what a site asks before the draft is released. The zero value lets
// everything but an error go, and asks nothing.
type ReleaseRule struct {
	// Stops is the mildest finding that stands in the way; empty for errors alone.
	Stops Severity `json:"stops,omitempty" enum:",warning,note" doc:"the mildest finding that stands in the way; empty for errors alone"`
	// Proved says that what is not proved stands in the way: points and elements of screens.
	Proved  bool   `json:"proved,omitempty" doc:"points and elements of screens that are not proved stand in the way"`
	Note    bool   `json:"note,omitempty" doc:"nothing is released without a note"`
	Sign    string `json:"sign,omitempty" enum:",own,second,both" doc:"whose signature; empty for none"`
	By      string `json:"by,omitempty" maxLength:"60" doc:"role of the second person"`
	Meaning string `json:"meaning,omitempty" maxLength:"60" doc:"what a signature means"`
}

// Asks is what it asks of who releases. A note is the reason.
func (r *ReleaseRule) Asks() access.Asking {
	rule := r.rule()
	return rule.Asks()
}

// rule is what it asks of people, as other rules say that.
func (r *ReleaseRule) rule() access.Rule {
	return access.Rule{Name: "release", Sign: r.Sign, By: r.By, Meaning: r.Meaning}
}

// StandsIn tells whether a finding stands in the way of a release.
func (r *ReleaseRule) StandsIn(f *Finding) bool {
	stops := r.Stops
	if stops == "" {
		stops = Error
	}
	return rank(f.Severity) <= rank(stops)
}

func (r *ReleaseRule) check() (place string, err error) {
	if !slices.Contains([]Severity{"", Warning, Note}, r.Stops) {
		return "/release/stops", say.Errorf("a release is stopped by errors (empty), by each warning or by each note, not by %q", r.Stops)
	}
	rule := r.rule()
	if field, err := rule.Check(); err != nil {
		return "/release/" + field, err
	}
	return "", nil
}
