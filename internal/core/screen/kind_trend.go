package screen

import "readyrail/internal/core/history"

// trendKind shows recorded courses: a page of its own draws them. Its pens are
// those of a view, or its own tags.
var trendKind = &Kind{Name: "trend", Title: "Trend", Stock: "values", W: 720, H: 400,
	Props: props(Prop{Name: "view", Title: "View", Type: TypeView, Default: ""},
		Prop{Name: "equipment", Title: "Equipment", Type: TypeFolder, Default: ""}, readsLog(),
		number("minutes", "Minutes", 480, false), flag("figures", "Figures", true, false), windowFrom, windowTo),
	Fields: []string{FieldTags}, Page: true, Live: windowLive,
	does: does{tags: trendTags},
}

// A window's ends may be told by tags: seconds or milliseconds since 1970, or a
// time as ISO 8601 writes it. Where one of them is given it is as long as Minutes.
var (
	windowFrom = Prop{Name: "fromTag", Title: "From what a tag tells", Type: TypeTag, Default: "", MayBeEmpty: true}
	windowTo   = Prop{Name: "toTag", Title: "To what a tag tells", Type: TypeTag, Default: "", MayBeEmpty: true}
	windowLive = []Live{{"fromAt", "fromTag", TypeText}, {"toAt", "toTag", TypeText}}
)

// trendTags gives the page its pens. Each of their tags is a row, and so is read
// while it is looked at.
func trendTags(x *expander, e *Element, se *SceneElement) []string {
	if view := e.Text("view"); view != "" {
		se.Pens = x.look.Pens(view, e.Text("equipment"))
	} else {
		for _, id := range e.Tags {
			if t, ok := x.look.Tag(id); ok {
				se.Pens = append(se.Pens, history.ViewPen{Tag: t.ID})
			}
		}
	}
	tags := make([]string, len(se.Pens))
	for i, pen := range se.Pens {
		tags[i] = pen.Tag
	}
	return tags
}
