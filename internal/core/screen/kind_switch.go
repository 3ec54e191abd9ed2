package screen

var switchKind = &Kind{Name: "switch", Title: "Switch", Stock: "actions", W: 160, H: 48,
	Props: props(tagProp("Tag"), caption(""), asked, enabled()), Live: []Live{{"on", "tag", TypeBool}, {"text", "tag", TypeText}},
	fits: Fits{ClassBoolWrite: 2},
	line: 48,
	does: does{writes: always, needs: func(*Element) Need { return NeedBool }},
}
