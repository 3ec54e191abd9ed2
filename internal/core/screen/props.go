package screen

// Properties that several kinds of element share.

func visible() Prop {
	return Prop{Name: "visible", Title: "Visible", Type: TypeBool, Default: true, Bindable: true}
}
func enabled() []Prop {
	return []Prop{{Name: "enabled", Title: "Enabled", Type: TypeBool, Default: true, Bindable: true},
		{Name: "why", Title: "Reason while it is not", Type: TypeTemplate, Default: ""}}
}
func colourProp(name, title, d string) Prop {
	return Prop{Name: name, Title: title, Type: TypeColour, Default: d, Bindable: true}
}
func fill(d string) Prop { return colourProp("fill", "Fill", d) }
func stroke(d string, w float64) []Prop {
	return []Prop{colourProp("stroke", "Outline", d), number("strokeWidth", "Outline width", w, false)}
}
func tagProp(title string) Prop {
	return Prop{Name: "tag", Title: title, Type: TypeTag, Default: ""}
}
func caption(d string) Prop {
	return Prop{Name: "caption", Title: "Label", Type: TypeTemplate, Default: d}
}
func number(name, title string, d float64, bindable bool) Prop {
	return Prop{Name: name, Title: title, Type: TypeNumber, Default: d, Bindable: bindable}
}
func optional(name, title string) Prop {
	return Prop{Name: name, Title: title, Type: TypeOptional, Default: nil}
}
func flag(name, title string, d, bindable bool) Prop {
	return Prop{Name: name, Title: title, Type: TypeBool, Default: d, Bindable: bindable}
}
func choice(name, title, d string, of ...string) Prop {
	return Prop{Name: name, Title: title, Type: TypeChoice, Default: d, Choices: of}
}
func when(p Prop, cond string) Prop { p.When = cond; return p }

// props gathers a kind's own properties and ends with those that all have.
func props(lists ...any) []Prop {
	var out []Prop
	for _, l := range lists {
		switch l := l.(type) {
		case Prop:
			out = append(out, l)
		case []Prop:
			out = append(out, l...)
		}
	}
	return append(out, visible(), number("opacity", "Opacity, %", 100, true), colourProp("tint", "Tint", "none"),
		flag("blink", "Alternate", false, true), colourProp("blinkTint", "Alternate with", "none"),
		number("blinkEvery", "Alternates every, s", 1, false))
}

var textLook = []Prop{
	{Name: "style", Title: "Text style", Type: TypeStyle, Default: ""},
	number("size", "Text size", 16, false),
	colourProp("colour", "Text colour", "ink"),
	choice("align", "Alignment", "left", "left", "centre", "right"),
	flag("bold", "Bold", false, false),
	optional("weight", "Weight, 200 to 800"),
	flag("italic", "Italic", false, false),
	choice("font", "Font", FontText, FontText, FontFigures),
	number("leading", "Line height", 1.25, false),
	choice("vertical", "Vertical place", "middle", "top", "middle", "bottom"),
}

// The families that the application ships: one for text, and one whose
// characters are all as wide, for figures and addresses.
const (
	FontText    = "text"
	FontFigures = "figures"
)

// filled are the properties of a shape that can be filled to a height.
var filled = []Prop{number("level", "Level, %", 0, true), colourProp("levelColour", "Colour of the level", "none")}

// number entries take these from the tag unless set here.
var entryLook = []Prop{optional("low", "Lowest"), optional("high", "Highest"), optional("step", "Step"), optional("decimals", "Decimals"),
	{Name: "unit", Title: "Unit", Type: TypeText, Default: ""}}

// asked are the things that a person may be asked before a value is sent.
var asked = []Prop{flag("confirm", "Ask before sending", false, false), choice("reason", "Reason", "none", "none", "offered", "required"),
	choice("sign", "Signature", "none", "none", "own", "second")}

var dashed = choice("dash", "Dashes", "solid", "solid", "dashed", "dotted")
