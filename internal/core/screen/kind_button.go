package screen

// FunctionKeys are the keys of a panel that can press a button.
var FunctionKeys = []string{"F1", "F2", "F3", "F4", "F5", "F6", "F7", "F8", "F9", "F10", "F11", "F12"}

var buttonKind = &Kind{Name: "button", Title: "Button", Stock: "actions", W: 144, H: 48,
	Props: props(choice("action", "Does", ActionSet, ActionSet, ActionToggle, ActionHold, ActionPulse, ActionStep, ActionRequest, ActionOpen,
		ActionFace, ActionClose, ActionDiagnose, ActionRecord, ActionLog, ActionSignIn, ActionLanguage, ActionParam), caption("Button"),
		when(tagProp("Tag"), "action=set|toggle|hold|request|pulse|step"),
		when(Prop{Name: "value", Title: "Value", Type: TypeText, Default: "true"}, "action=set|request|pulse|param"),
		when(number("by", "By", 1, false), "action=step|param"),
		when(number("pulse", "For, ms", 500, false), "action=pulse"),
		when(Prop{Name: "answer", Title: "Tag that answers", Type: TypeTag, Default: ""}, "action=request"),
		when(Prop{Name: "answerValue", Title: "Its answer", Type: TypeText, Default: "true"}, "action=request"),
		when(number("within", "Answer within, s", 5, false), "action=request"),
		when(Prop{Name: "device", Title: "Device", Type: TypeDevice, Default: ""}, "action=diagnose"),
		when(Prop{Name: "part", Title: "Group that opens first", Type: TypePart, Default: ""}, "action=diagnose"),
		when(Prop{Name: "release", Title: "Value when let go", Type: TypeText, Default: "false"}, "action=hold|pulse"),
		when(Prop{Name: "excludes", Title: "Not together with", Type: TypeTag, Default: ""}, "action=hold|pulse"),
		when(Prop{Name: "exclusive", Title: "One at a time of", Type: TypeText, Default: ""}, "action=hold|pulse"),
		when(flag("stop", "Stops, even unrecorded", false, false), "action=set|pulse"),
		when(Prop{Name: "screen", Title: "Screen it opens", Type: TypeScreen, Default: ""}, "action=open"),
		when(Prop{Name: "equipment", Title: "Equipment", Type: TypeFolder, Default: ""}, "action=face"),
		when(Prop{Name: "event", Title: "Text of the event", Type: TypeTemplate, Default: ""}, "action=record"),
		when(Prop{Name: "log", Title: "Log", Type: TypeLog, Default: ""}, "action=log"),
		when(choice("logDoes", "To the log", LogStart, LogStart, LogStop, LogTake, LogMark, LogExport, LogFinish, LogClear), "action=log"),
		when(Prop{Name: "mark", Title: "Name of the mark", Type: TypeTemplate, Default: ""}, "logDoes=mark"),
		when(Prop{Name: "language", Title: "Language", Type: TypeText, Default: ""}, "action=language"),
		when(Prop{Name: "param", Title: "Parameter", Type: TypeParameter, Default: ""}, "action=param"),
		choice("key", "Function key", "none", append([]string{"none"}, FunctionKeys...)...),
		fill("sheet"), asked, enabled()),
	Live:   []Live{{"on", "tag", TypeBool}},
	fits:   Fits{ClassBoolWrite: 1},
	Fields: []string{FieldThen},
	Seeds:  []Seed{{Prop: "caption", From: SeedTitle}, {Prop: "action", Value: ActionToggle}},
	does: does{
		writes:  func(e *Element) bool { return ActionWrites(e.Text("action")) },
		needs:   buttonNeeds,
		actions: buttonActions,
	},
}

func buttonNeeds(e *Element) Need {
	switch e.Text("action") {
	case ActionToggle, ActionHold:
		return NeedBool
	case ActionStep:
		return NeedNumber
	case ActionSet, ActionRequest, ActionPulse:
		return NeedValue
	}
	return NeedAny
}

// buttonActions are the button's own action, in the shape of those that follow,
// and these.
func buttonActions(e *Element) []Action {
	by, _ := e.Number("by")
	own := Action{Do: e.Text("action"), Tag: e.MainTag(), Value: e.Text("value"), By: by, Screen: e.Text("screen"), Args: e.Args,
		Device: e.Text("device"), Text: e.Text("event"), Language: e.Text("language"), Param: e.Text("param"),
		Log: e.Text("log"), LogDoes: e.Text("logDoes")}
	return append([]Action{own}, e.Then...)
}
