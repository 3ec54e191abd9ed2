package screen

import "fmt"

// TabHeight is how much of a tab set its titles take, in pixels.
const TabHeight = 44

var tabsKind = &Kind{Name: "tabs", Title: "Tabs", Stock: "parts", W: 480, H: 320, Holds: true, Props: props(fill("sheet")),
	Fields: []string{FieldTabs},
	does: does{
		mounts: func(e *Element) []Mount {
			out := make([]Mount, len(e.Tabs))
			for i, t := range e.Tabs {
				out[i] = Mount{Screen: t.Screen, Args: t.Args, Place: fmt.Sprintf("/tabs/%d", i), MayBeEmpty: true}
			}
			return out
		},
		put: putTabs,
	},
}

func putTabs(x *expander, e *Element, se *SceneElement, at place) {
	for i, t := range e.Tabs {
		title := SceneElement{Props: map[string]any{"title": t.Title}}
		x.template(se.ID, fmt.Sprintf("tab%d", i), &title, t.Title)
		plain, _ := title.Props[fmt.Sprintf("tab%d", i)].(string)
		se.Tabs = append(se.Tabs, plain)
	}
	x.put(*se)
	for i, t := range e.Tabs {
		cell := SceneElement{ID: fmt.Sprintf("%stab%d", at.prefix, i), Kind: "cell", In: se.ID, Y: TabHeight, W: e.W, H: max(0, e.H-TabHeight),
			Tab: i + 1, Props: map[string]any{}}
		x.nested(&cell, t.Screen, Args(t.Args), at.within(cell.ID, at.name))
	}
}
