package screen

var entryKind = &Kind{Name: "entry", Title: "Entry", Stock: "actions", W: 168, H: 68,
	Props: props(tagProp("Tag"), caption(""), entryLook, flag("spinner", "Steps beside it", false, false), asked, enabled()),
	Live:  []Live{{"text", "tag", TypeText}, {"value", "tag", TypeNumber}},
	fits:  Fits{ClassNumWrite: 1, ClassStateWrite: 3},
	line:  64,
	does:  does{writes: always},
}

var textEntryKind = &Kind{Name: "textentry", Title: "Text entry", Stock: "actions", W: 220, H: 68,
	Props: props(tagProp("Tag"), caption(""), asked, enabled()), Live: []Live{{"text", "tag", TypeText}},
	fits: Fits{ClassTextWrite: 1},
	line: 64,
	does: does{writes: always},
}
