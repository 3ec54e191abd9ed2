package screen

// The audit trail on a screen: a page of its own shows it, to who may look at it.

var trailKinds = []*Kind{
	{Name: "trail", Title: "Audit trail", Stock: "values", W: 760, H: 320,
		Props: props(Prop{Name: "tag", Title: "Tag", Type: TypeTag, Default: "", MayBeEmpty: true},
			Prop{Name: "like", Title: "Tags like", Type: TypeText, Default: ""},
			Prop{Name: "person", Title: "By whom", Type: TypeText, Default: ""},
			choice("kinds", "Of what", "everything", "everything", "writes", "alarms", "recipes", "people", "edits"),
			choice("given", "With a reason", "either", "either", "with", "without"),
			Prop{Name: "contains", Title: "With the words", Type: TypeText, Default: ""}, number("hours", "Of the last hours", 0, false),
			Prop{Name: "columns", Title: "Columns", Type: TypeText, Default: "time,who,what,tag,old,new,outcome,reason"},
			flag("narrowed", "Filters", true, false)),
		Page: true},
}
