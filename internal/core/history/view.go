package history

import (
	"fmt"
	"readyrail/internal/core/say"
	"strings"
	"unicode/utf8"
)

// View is a choice of pens that is kept by name. One that has a type serves all
// equipment of it: those of its pens that begin with Own are members of the
// equipment that is chosen when the view is opened.
type View struct {
	ID   string    `json:"-"`
	Name string    `json:"name"`
	Note string    `json:"note,omitempty"`
	Type string    `json:"type,omitempty"` // id of a type of equipment
	Span int       `json:"span,omitempty"` // seconds that it shows at first; 0 for the usual
	Pens []ViewPen `json:"pens"`
}

// ViewPen is one pen or row of a view.
type ViewPen struct {
	Tag      string   `json:"tag"`                // a tag's id, or Own and a chain of members
	Inverted bool     `json:"inverted,omitempty"` // a row is shaded while its BOOL is off
	Low      *float64 `json:"low,omitempty"`      // of its axis; its own where not given
	High     *float64 `json:"high,omitempty"`

	Column *ViewColumn `json:"column,omitempty"`
}

// Own begins the pen of a member of the equipment that is chosen.
const Own = "$."

// Of is the id of the pen's tag where the view is opened for equipment.
func (p *ViewPen) Of(equipment string) string {
	if chain, own := strings.CutPrefix(p.Tag, Own); own {
		return equipment + "." + chain
	}
	return p.Tag
}

// Bounds of a view.
const (
	MostPens    = 40
	LongestSpan = 400 * 24 * 3600 // seconds
)

// Check refuses a view that cannot be; place is where, as a JSON pointer.
func (v *View) Check() (place string, err error) {
	switch n := utf8.RuneCountInString(strings.TrimSpace(v.Name)); {
	case n == 0:
		return "/name", say.Errorf("a view has a name")
	case n > 80:
		return "/name", say.Errorf("a name has at most 80 characters")
	case utf8.RuneCountInString(v.Note) > 500:
		return "/note", say.Errorf("a note has at most 500 characters")
	case v.Span < 0 || v.Span > LongestSpan:
		return "/span", say.Errorf("a view shows at most %d days", LongestSpan/24/3600)
	case len(v.Pens) > MostPens:
		return "/pens", say.Errorf("a view has at most %d pens", MostPens)
	}
	seen := map[string]bool{}
	for i, p := range v.Pens {
		place := fmt.Sprintf("/pens/%d", i)
		switch own := strings.HasPrefix(p.Tag, Own); {
		case p.Tag == "" || p.Tag == Own:
			return place + "/tag", say.Errorf("a pen has a tag")
		case own && v.Type == "":
			return place + "/tag", say.Errorf("only a view of a type of equipment has its members as pens")
		case seen[p.Tag]:
			return place + "/tag", say.Errorf("a tag is a pen once")
		case p.Low != nil && p.High != nil && *p.Low >= *p.High:
			return place + "/high", say.Errorf("an axis begins below its end")
		}
		if p.Column != nil {
			if in, err := p.Column.Check(); err != nil {
				return place + "/column" + in, err
			}
		}
		seen[p.Tag] = true
	}
	return "", nil
}
