package screen

var groupKind = &Kind{Name: "group", Title: "Group", Stock: "", W: 100, H: 100, Holds: true, Props: props(),
	Gathers: true,
}

var frameKind = &Kind{Name: "frame", Title: "Group box", Stock: "parts", W: 280, H: 200,
	Props: props(caption("Group"), fill("sheet"), stroke("line", 1))}
