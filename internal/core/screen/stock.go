package screen

// The stock of equipment: drawings of our own, each with the states that such
// equipment has. How they look is the canvas's affair.

var machine = []Prop{flag("running", "Running", false, true), flag("fault", "Fault", false, true), flag("hand", "Hand mode", false, true)}
var valve = []Prop{number("position", "Open, %", 0, true), flag("fault", "Fault", false, true), flag("hand", "Hand mode", false, true)}
var vessel = []Prop{number("level", "Level, %", 0, true), colourProp("levelColour", "Colour of the level", "water"), flag("fault", "Fault", false, true)}
var contact = []Prop{flag("closed", "Closed", false, true), flag("fault", "Fault", false, true), flag("hand", "Hand mode", false, true)}
var live = []Prop{flag("running", "Energised", false, true), flag("fault", "Fault", false, true)}

func part(name, title string, w, h float64, with ...any) *Kind {
	return &Kind{Name: name, Title: title, Stock: "equipment", W: w, H: h, Props: props(with...)}
}

// anyPart stands for equipment of which nothing more is known.
func anyPart(k *Kind) *Kind { k.any = true; return k }

var equipmentKinds = []*Kind{
	anyPart(part("motor", "Motor", 56, 56, machine)),
	part("pump", "Pump", 56, 56, machine),
	part("gearpump", "Gear pump", 56, 56, machine),
	part("fan", "Fan", 56, 56, machine, number("speed", "Speed, %", 100, true)),
	part("axialfan", "Axial fan", 56, 56, machine),
	part("blower", "Blower", 64, 56, machine),
	part("compressor", "Compressor", 56, 56, machine),
	part("mixer", "Mixer", 56, 72, machine),
	part("press", "Press", 64, 64, machine),
	part("saw", "Circular saw", 72, 56, machine),
	part("bandsaw", "Band saw", 56, 80, machine),
	part("planer", "Planer", 80, 48, machine),
	part("belt", "Belt conveyor", 160, 40, machine),
	part("rollers", "Roller conveyor", 160, 40, machine),
	part("screw", "Screw conveyor", 160, 40, machine),
	part("elevator", "Bucket elevator", 48, 128, machine),
	part("drive", "Drive", 56, 56, machine),
	part("burner", "Burner", 64, 48, flag("running", "Flame", false, true), flag("fault", "Locked out", false, true)),
	part("valve", "Valve", 56, 40, valve),
	part("valve3", "Three-way valve", 56, 48, valve),
	part("controlvalve", "Control valve", 56, 56, valve),
	part("butterfly", "Butterfly valve", 56, 40, valve),
	part("damper", "Damper", 56, 28, number("position", "Open, %", 0, true)),
	part("slide", "Slide gate", 56, 48, valve),
	part("door", "Door", 72, 88, flag("open", "Open", false, true), flag("fault", "Fault", false, true)),
	part("gate", "Gate", 96, 64, flag("open", "Open", false, true), flag("fault", "Fault", false, true)),
	part("tank", "Open tank", 96, 120, vessel),
	part("closedtank", "Closed tank", 96, 128, vessel),
	part("conetank", "Cone tank", 96, 144, vessel),
	part("silo", "Silo", 96, 160, vessel),
	part("hopper", "Hopper", 96, 88, vessel),
	part("exchanger", "Heat exchanger", 64, 64, live),
	part("coil", "Heating coil", 64, 48, number("output", "Output, %", 0, true)),
	part("filter", "Filter", 56, 56, live),
	part("cyclone", "Cyclone", 64, 104, live),
	part("chimney", "Chimney", 40, 120, live),
	part("spray", "Spray bar", 88, 20, flag("open", "Open", false, true)),
	part("breaker", "Breaker", 40, 64, contact),
	part("isolator", "Isolator", 40, 64, contact),
	part("transformer", "Transformer", 48, 72, live),
	part("meter", "Meter", 56, 56, live),
	part("generator", "Generator", 56, 56, machine),
	part("battery", "Battery", 72, 48, number("level", "Charge, %", 0, true), flag("fault", "Fault", false, true)),
	part("sensor", "Sensor", 48, 64, Prop{Name: "letters", Title: "Letters", Type: TypeText, Default: "TI"}, Prop{Name: "loop", Title: "Loop", Type: TypeTemplate, Default: "101"},
		choice("place", "Where it is", "field", "field", "panel", "local"), flag("fault", "Fault", false, true)),
	part("chamber", "Drying chamber", 600, 384, fill("sheet"), flag("open", "Door open", false, true)),
	part("stack", "Timber stack", 352, 208, number("rows", "Rows", 9, false), number("columns", "Columns", 11, false), number("moisture", "Moisture, %", 20, true)),
	part("car", "Rail car", 120, 72, flag("loaded", "Loaded", false, true), flag("fault", "Fault", false, true),
		number("travel", "Travel, pixels", 0, false), number("position", "Along the travel, 0 to 1", 0, true)),
	part("track", "Rail track", 640, 20, number("sleepers", "Sleepers", 24, false)),
	part("lift", "Lift table", 96, 64, machine, number("position", "Height, %", 0, true)),
	part("tee", "Pipe tee", 40, 40, live),
	part("elbow", "Pipe elbow", 40, 40, live),
	part("cross", "Pipe cross", 40, 40, live),
	part("reducer", "Reducer", 40, 40, live),
	part("flange", "Flange", 40, 40, live),
	part("cap", "Pipe end", 40, 40, live),
}
