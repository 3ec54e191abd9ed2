package screen

// What logs keep and what was recorded: pages of their own show it.

func logProp() Prop { return Prop{Name: "log", Title: "Log", Type: TypeLog, Default: ""} }

// readsLog names the log that is read in place of what the recorder keeps.
func readsLog() Prop {
	p := logProp()
	p.Title, p.MayBeEmpty = "Read from the log", true
	return p
}

var logKinds = []*Kind{
	// Its pens are those of a trend: each is a column.
	{Name: "records", Title: "Table of values", Stock: "values", W: 720, H: 320,
		Props: props(Prop{Name: "view", Title: "View", Type: TypeView, Default: ""},
			Prop{Name: "equipment", Title: "Equipment", Type: TypeFolder, Default: ""}, readsLog(), number("minutes", "Minutes", 60, false),
			choice("every", "A row every", "1 min", "change", "1 s", "10 s", "1 min", "10 min", "1 h", "1 d"),
			flag("files", "Files", true, false), windowFrom, windowTo),
		Fields: []string{FieldTags}, Page: true, Live: windowLive, does: does{tags: trendTags}},
	{Name: "logstate", Title: "State of a log", Stock: "values", W: 560, H: 112,
		Props: props(logProp(), flag("buttons", "Buttons", true, false)), Page: true},
	{Name: "spanlist", Title: "Spans of a log", Stock: "values", W: 720, H: 420,
		Props: props(logProp(), Prop{Name: "equipment", Title: "Only those of", Type: TypeFolder, Default: ""},
			flag("figures", "Figures", false, false)), Page: true},
}
