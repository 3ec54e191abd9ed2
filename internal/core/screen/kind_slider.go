package screen

var sliderKind = &Kind{Name: "slider", Title: "Slider", Stock: "actions", W: 220, H: 64,
	Props: props(tagProp("Tag"), caption(""), entryLook, asked, enabled()),
	Live:  []Live{{"value", "tag", TypeNumber}, {"text", "tag", TypeText}},
	fits:  Fits{ClassNumWrite: 2},
	does:  does{writes: always, needs: func(*Element) Need { return NeedNumber }},
}
