package screen

// Lists of alarms: a page of its own brings them to life.

var alarmKinds = []*Kind{
	{Name: "alarmlist", Title: "Alarm list", Stock: "values", W: 640, H: 280,
		Props: props(choice("list", "Lists", "standing", "standing", "aside", "all", "occurrences", "journal"),
			Prop{Name: "columns", Title: "Columns", Type: TypeText, Default: "tab,name,text,time"},
			choice("order", "Order", "priority", "priority", "newest", "oldest"),
			choice("worst", "From", "low", "low", "medium", "high", "critical"), Prop{Name: "area", Title: "Area", Type: TypeArea, Default: ""},
			Prop{Name: "group", Title: "Group", Type: TypeText, Default: ""},
			Prop{Name: "contains", Title: "With the words", Type: TypeText, Default: ""},
			choice("stamp", "Time as", "time", "time", "date", "both"), flag("buttons", "Buttons", true, false)),
		Page: true,
	},
	{Name: "alarmkey", Title: "Key to the alarm codes", Stock: "values", W: 640, H: 72, Props: props(),
		Page: true,
	},
}
