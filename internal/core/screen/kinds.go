package screen

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
	return append(out, visible(), number("opacity", "Opacity, %", 100, true), colourProp("tint", "Tint", "none"), flag("blink", "Alternate", false, true), colourProp("blinkTint", "Alternate with", "none"), number("blinkEvery", "Alternates every, s", 1, false))
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
var asked = []Prop{flag("confirm", "Ask before sending", false, false), choice("reason", "Reason", "none", "none", "offered", "required"), choice("sign", "Signature", "none", "none", "own", "second")}

var dashed = choice("dash", "Dashes", "solid", "solid", "dashed", "dotted")

var shapeKinds = []*Kind{
	{Name: "rect", Title: "Rectangle", Stock: "shapes", W: 160, H: 96, Level: true, Props: props(fill("sheet"), stroke("line", 1), number("radius", "Corner radius", 0, false), filled)},
	{Name: "ellipse", Title: "Ellipse", Stock: "shapes", W: 96, H: 96, Level: true, Props: props(fill("sheet"), stroke("line", 1), filled)},
	{Name: "line", Title: "Line", Stock: "shapes", W: 160, H: 0, Props: props(stroke("ink", 2), dashed, flag("rising", "From lower left", false, false), choice("ends", "Arrow", "none", "none", "end", "both"))},
	{Name: "polyline", Title: "Polyline", Stock: "shapes", W: 160, H: 96, Points: true, Props: props(stroke("ink", 2), dashed, choice("ends", "Arrow", "none", "none", "end", "both"))},
	{Name: "polygon", Title: "Polygon", Stock: "shapes", W: 120, H: 96, Points: true, Level: true, Props: props(fill("sheet"), stroke("ink", 1.5), filled)},
	{Name: "arc", Title: "Arc", Stock: "shapes", W: 96, H: 96, Props: props(fill("none"), stroke("ink", 2), number("from", "From, °", 0, true), number("to", "To, °", 90, true), flag("pie", "To the centre", false, false))},
	{Name: "path", Title: "Path", Stock: "shapes", W: 96, H: 96, Level: true, Props: props(Prop{Name: "path", Title: "Path in a field of 100 × 100", Type: TypeText, Default: "M5 95L50 5L95 95Z"}, fill("sheet"), stroke("ink", 1.5), filled)},
	{Name: "pipe", Title: "Pipe", Stock: "shapes", W: 160, H: 0, Points: true, Props: props(colourProp("colour", "Colour", "metal"), number("width", "Width", 10, false), choice("flow", "Flow", "none", "none", "forward", "back"), flag("flowing", "Flows", false, true))},
	{Name: "text", Title: "Text", Stock: "shapes", W: 160, H: 24, Props: props(Prop{Name: "text", Title: "Text", Type: TypeTemplate, Default: "Text", Bindable: true}, textLook)},
	{Name: "picture", Title: "Picture", Stock: "shapes", W: 160, H: 120, Props: props(Prop{Name: "picture", Title: "Picture", Type: TypePicture, Default: ""}, choice("fit", "Fit", "whole", "whole", "stretch"))},
}

var valueKinds = []*Kind{
	{Name: "readout", Title: "Readout", Stock: "values", W: 120, H: 32,
		Props: props(tagProp("Tag"), caption(""), fill("none"), flag("unit", "Show the unit", true, false), number("size", "Text size", 18, false),
			choice("align", "Alignment", "left", "left", "centre", "right"), colourProp("colour", "Text colour", "ink")),
		Live: []Live{{"text", "tag", TypeText}}},
	{Name: "lamp", Title: "State lamp", Stock: "values", W: 132, H: 28,
		Props: props(tagProp("Tag"), caption(""), colourProp("onColour", "Colour when on", "ink"), colourProp("offColour", "Colour when off", "none")),
		Live:  []Live{{"on", "tag", TypeBool}, {"text", "tag", TypeText}}},
	{Name: "statetext", Title: "State text", Stock: "values", W: 132, H: 28,
		Props: props(tagProp("Tag"), caption(""), fill("none"), colourProp("colour", "Text colour", "ink"), number("size", "Text size", 16, false), choice("align", "Alignment", "left", "left", "centre", "right")),
		Live:  []Live{{"text", "tag", TypeText}}},
	{Name: "bar", Title: "Bar", Stock: "values", W: 96, H: 320,
		Props: props(tagProp("Tag"), Prop{Name: "set", Title: "Set point", Type: TypeTag, Default: ""}, caption(""),
			number("low", "Low end", 0, false), number("high", "High end", 100, false),
			number("bandLow", "Normal from", 0, true), number("bandHigh", "Normal to", 0, true)),
		Live: []Live{{"value", "tag", TypeNumber}, {"text", "tag", TypeText}, {"setValue", "set", TypeNumber}}},
	{Name: "dial", Title: "Dial", Stock: "values", W: 144, H: 144,
		Props: props(tagProp("Tag"), Prop{Name: "set", Title: "Set point", Type: TypeTag, Default: ""}, caption(""), number("low", "Low end", 0, false), number("high", "High end", 100, false),
			number("bandLow", "Normal from", 0, true), number("bandHigh", "Normal to", 0, true)),
		Live: []Live{{"value", "tag", TypeNumber}, {"text", "tag", TypeText}, {"setValue", "set", TypeNumber}}},
	{Name: "sparkline", Title: "Sparkline", Stock: "values", W: 160, H: 48,
		Props: props(tagProp("Tag"), caption(""), number("minutes", "Minutes", 5, false), optional("low", "Low end"), optional("high", "High end"), colourProp("colour", "Colour", "ink")),
		Live:  []Live{{"value", "tag", TypeNumber}, {"text", "tag", TypeText}}},
	{Name: "table", Title: "Table of tags", Stock: "values", W: 280, H: 160, Props: props(caption(""), flag("descriptions", "Descriptions", true, false), flag("lines", "Lines", true, false))},
	{Name: "clock", Title: "Clock", Stock: "values", W: 120, H: 32, Props: props(choice("show", "Shows", "time", "time", "date", "both"), textLook)},
	{Name: "alarmlist", Title: "Alarm list", Stock: "values", W: 640, H: 280, Props: props(choice("list", "Lists", "standing", "standing", "aside", "all", "occurrences", "journal"),
		Prop{Name: "columns", Title: "Columns", Type: TypeText, Default: "tab,name,text,time"}, choice("order", "Order", "priority", "priority", "newest", "oldest"),
		choice("worst", "From", "low", "low", "medium", "high", "critical"), Prop{Name: "area", Title: "Area", Type: TypeArea, Default: ""}, Prop{Name: "group", Title: "Group", Type: TypeText, Default: ""},
		Prop{Name: "contains", Title: "With the words", Type: TypeText, Default: ""}, choice("stamp", "Time as", "time", "time", "date", "both"), flag("buttons", "Buttons", true, false))},
	{Name: "alarmkey", Title: "Key to the alarm codes", Stock: "values", W: 640, H: 72, Props: props()},
	{Name: "person", Title: "Person", Stock: "values", W: 160, H: 32, Props: props(textLook)},
}

// FunctionKeys are the keys of a panel that can press a button.
var FunctionKeys = []string{"F1", "F2", "F3", "F4", "F5", "F6", "F7", "F8", "F9", "F10", "F11", "F12"}

var actionKinds = []*Kind{
	{Name: "entry", Title: "Entry", Stock: "actions", W: 168, H: 68, Props: props(tagProp("Tag"), caption(""), entryLook, flag("spinner", "Steps beside it", false, false), asked, enabled()),
		Live: []Live{{"text", "tag", TypeText}, {"value", "tag", TypeNumber}}},
	{Name: "textentry", Title: "Text entry", Stock: "actions", W: 220, H: 68, Props: props(tagProp("Tag"), caption(""), asked, enabled()), Live: []Live{{"text", "tag", TypeText}}},
	{Name: "button", Title: "Button", Stock: "actions", W: 144, H: 48,
		Props: props(choice("action", "Does", ActionSet, ActionSet, ActionToggle, ActionHold, ActionPulse, ActionStep, ActionRequest, ActionOpen, ActionFace, ActionClose, ActionDiagnose, ActionRecord, ActionSignIn, ActionLanguage, ActionParam), caption("Button"),
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
			when(Prop{Name: "language", Title: "Language", Type: TypeText, Default: ""}, "action=language"),
			when(Prop{Name: "param", Title: "Parameter", Type: TypeParameter, Default: ""}, "action=param"),
			choice("key", "Function key", "none", append([]string{"none"}, FunctionKeys...)...),
			fill("sheet"), asked, enabled()),
		Live: []Live{{"on", "tag", TypeBool}}},
	{Name: "switch", Title: "Switch", Stock: "actions", W: 160, H: 48, Props: props(tagProp("Tag"), caption(""), asked, enabled()), Live: []Live{{"on", "tag", TypeBool}, {"text", "tag", TypeText}}},
	{Name: "selector", Title: "Selector", Stock: "actions", W: 200, H: 68,
		Props: props(choice("of", "Selects", "states", "states", "parameter"), when(tagProp("Tag"), "of=states"), when(Prop{Name: "param", Title: "Parameter", Type: TypeParameter, Default: ""}, "of=parameter"), caption(""),
			choice("look", "Look", "list", "list", "row"), asked, enabled()),
		Live: []Live{{"text", "tag", TypeText}, {"value", "tag", TypeNumber}}},
	{Name: "slider", Title: "Slider", Stock: "actions", W: 220, H: 64, Props: props(tagProp("Tag"), caption(""), entryLook, asked, enabled()), Live: []Live{{"value", "tag", TypeNumber}, {"text", "tag", TypeText}}},
	{Name: "nav", Title: "Screen list", Stock: "actions", W: 480, H: 56, Props: props(Prop{Name: "area", Title: "Area", Type: TypeArea, Default: ""})},
}

// Index says which index of a path a repeat runs over.
type Index string

// The indices of a path such as Line[2].Fan[1].Speed.
const (
	LastIndex  Index = "last"
	FirstIndex Index = "first"
	EveryIndex Index = "every"
)

var partKinds = []*Kind{
	{Name: "group", Title: "Group", Stock: "", W: 100, H: 100, Holds: true, Props: props()},
	{Name: "frame", Title: "Group box", Stock: "parts", W: 280, H: 200, Props: props(caption("Group"), fill("sheet"), stroke("line", 1))},
	{Name: "symbol", Title: "Symbol", Stock: "", W: 96, H: 96, Holds: true, Props: props(Prop{Name: "symbol", Title: "Symbol", Type: TypeScreen, Default: ""})},
	{Name: "embed", Title: "Screen within", Stock: "parts", W: 400, H: 240, Holds: true, Props: props(Prop{Name: "screen", Title: "Screen", Type: TypeScreen, Default: ""})},
	{Name: "tabs", Title: "Tabs", Stock: "parts", W: 480, H: 320, Holds: true, Props: props(fill("sheet"))},
	{Name: "repeat", Title: "Repeat", Stock: "parts", W: 400, H: 240, Holds: true,
		Props: props(Prop{Name: "symbol", Title: "What is repeated", Type: TypeScreen, Default: ""}, choice("over", "Over", "type", "type", "array"),
			when(Prop{Name: "type", Title: "Equipment of type", Type: TypeType, Default: ""}, "over=type"), when(Prop{Name: "below", Title: "Below", Type: TypeFolder, Default: ""}, "over=type"),
			when(Prop{Name: "array", Title: "Any one of the array", Type: TypeTag, Default: ""}, "over=array"),
			when(choice("index", "Index that runs", string(LastIndex), string(LastIndex), string(FirstIndex), string(EveryIndex)), "over=array"),
			number("columns", "Columns", 4, false), number("gap", "Gap", 8, false))},
}
