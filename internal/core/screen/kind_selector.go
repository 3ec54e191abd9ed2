package screen

var selectorKind = &Kind{Name: "selector", Title: "Selector", Stock: "actions", W: 200, H: 68,
	Props: props(choice("of", "Selects", "states", "states", "parameter"), when(tagProp("Tag"), "of=states"),
		when(Prop{Name: "param", Title: "Parameter", Type: TypeParameter, Default: ""}, "of=parameter"), caption(""),
		choice("look", "Look", "list", "list", "row"), asked, enabled()),
	Live: []Live{{"text", "tag", TypeText}, {"value", "tag", TypeNumber}},
	fits: Fits{ClassStateWrite: 1},
	line: 68,
	does: does{
		writes: func(e *Element) bool { return e.Text("of") == "states" },
		needs:  func(*Element) Need { return NeedStates },
		put:    putSelector,
	},
}

// putSelector shows what a parameter stands for that the selector chooses.
func putSelector(x *expander, e *Element, se *SceneElement, _ place) {
	if e.Text("of") == "parameter" {
		se.Props["text"] = x.named(x.out.Scene.Args[e.Text("param")])
	}
	x.put(*se)
}
