package screen

// Shapes, texts and pictures: they only show.

var shapeKinds = []*Kind{
	{Name: "rect", Title: "Rectangle", Stock: "shapes", W: 160, H: 96, Level: true,
		Props: props(fill("sheet"), stroke("line", 1), number("radius", "Corner radius", 0, false), filled)},
	{Name: "ellipse", Title: "Ellipse", Stock: "shapes", W: 96, H: 96, Level: true, Props: props(fill("sheet"), stroke("line", 1), filled)},
	{Name: "line", Title: "Line", Stock: "shapes", W: 160, H: 0,
		Props: props(stroke("ink", 2), dashed, flag("rising", "From lower left", false, false),
			choice("ends", "Arrow", "none", "none", "end", "both"))},
	{Name: "polyline", Title: "Polyline", Stock: "shapes", W: 160, H: 96, Points: true,
		Props: props(stroke("ink", 2), dashed, choice("ends", "Arrow", "none", "none", "end", "both"))},
	{Name: "polygon", Title: "Polygon", Stock: "shapes", W: 120, H: 96, Points: true, Level: true,
		Props: props(fill("sheet"), stroke("ink", 1.5), filled)},
	{Name: "arc", Title: "Arc", Stock: "shapes", W: 96, H: 96,
		Props: props(fill("none"), stroke("ink", 2), number("from", "From, °", 0, true), number("to", "To, °", 90, true),
			flag("pie", "To the centre", false, false))},
	{Name: "path", Title: "Path", Stock: "shapes", W: 96, H: 96, Level: true,
		Props: props(Prop{Name: "path", Title: "Path in a field of 100 × 100", Type: TypeText, Default: "M5 95L50 5L95 95Z"}, fill("sheet"),
			stroke("ink", 1.5), filled)},
	{Name: "pipe", Title: "Pipe", Stock: "shapes", W: 160, H: 0, Points: true,
		Props: props(colourProp("colour", "Colour", "metal"), number("width", "Width", 10, false),
			choice("flow", "Flow", "none", "none", "forward", "back"), flag("flowing", "Flows", false, true))},
	{Name: "text", Title: "Text", Stock: "shapes", W: 160, H: 24,
		Props: props(Prop{Name: "text", Title: "Text", Type: TypeTemplate, Default: "Text", Bindable: true}, textLook)},
	{Name: "picture", Title: "Picture", Stock: "shapes", W: 160, H: 120,
		Props: props(Prop{Name: "picture", Title: "Picture", Type: TypePicture, Default: ""}, choice("fit", "Fit", "whole", "whole", "stretch"))},
}
