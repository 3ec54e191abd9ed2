package screen

var navKind = &Kind{Name: "nav", Title: "Screen list", Stock: "actions", W: 480, H: 56,
	Props: props(Prop{Name: "area", Title: "Area", Type: TypeArea, Default: ""})}
