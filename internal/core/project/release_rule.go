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
	rule := access.Rule{Sign: r.Sign, By: r.By, Meaning: r.Meaning}
	return rule.Asks()
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
	switch {
	case !slices.Contains([]Severity{"", Warning, Note}, r.Stops):
		return "/release/stops", say.Errorf("a release is stopped by errors (empty), by each warning or by each note, not by %q", r.Stops)
	case !slices.Contains([]string{"", access.SignOwn, access.SignSecond, access.SignBoth}, r.Sign):
		return "/release/sign", say.Errorf("a signature is not asked for (empty), or that of own, second or both, not %q", r.Sign)
	case len([]rune(r.Meaning)) > 60:
		return "/release/meaning", say.Errorf("the meaning of a signature has at most 60 characters")
	}
	return "", nil
}
