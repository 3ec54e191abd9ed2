package history

import (
	"readyrail/internal/core/say"
	"slices"
	"strings"
	"unicode/utf8"
)

// ViewColumn is how the values of a pen stand in a table, and in the files that
// are made of it.
type ViewColumn struct {
	Hidden   bool   `json:"hidden,omitempty"`
	Title    string `json:"title,omitempty"`    // in place of the tag's path
	Decimals *int   `json:"decimals,omitempty"` // of a number; the tag's where not given
	Prefix   string `json:"prefix,omitempty"`   // before each value
	Width    int    `json:"width,omitempty"`    // pixels; 0 for as much as it needs
	Align    string `json:"align,omitempty"`    // one of ColumnAligns; numbers to the right and texts to the left where it is not given
	Colour   string `json:"colour,omitempty"`   // one of ColumnColours; the usual one where it is not given
}

// What a column may be.
var (
	ColumnAligns  = []string{"left", "centre", "right"}
	ColumnColours = []string{"ink", "quiet", "spruce", "heat", "low"}
)

// Bounds of a column.
const (
	mostColumnTitle    = 80
	mostColumnPrefix   = 20
	mostColumnDecimals = 6
	widestColumn       = 600
)

// Check refuses a column that cannot be; place is where in it, as a JSON pointer.
func (c *ViewColumn) Check() (place string, err error) {
	one := func(s string, of []string) bool { return s == "" || slices.Contains(of, s) }
	switch {
	case utf8.RuneCountInString(c.Title) > mostColumnTitle:
		return "/title", say.Errorf("a column's title has at most %d characters", mostColumnTitle)
	case utf8.RuneCountInString(c.Prefix) > mostColumnPrefix:
		return "/prefix", say.Errorf("what stands before a value has at most %d characters", mostColumnPrefix)
	case c.Decimals != nil && (*c.Decimals < 0 || *c.Decimals > mostColumnDecimals):
		return "/decimals", say.Errorf("a number has 0 to %d decimals", mostColumnDecimals)
	case c.Width < 0 || c.Width > widestColumn:
		return "/width", say.Errorf("a column is at most %d pixels wide", widestColumn)
	case !one(c.Align, ColumnAligns):
		return "/align", say.Errorf("values stand %s, not %q", strings.Join(ColumnAligns, ", "), c.Align)
	case !one(c.Colour, ColumnColours):
		return "/colour", say.Errorf("a column is %s, not %q", strings.Join(ColumnColours, ", "), c.Colour)
	}
	return "", nil
}
