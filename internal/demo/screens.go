package demo

import (
	"fmt"

	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/plant"
)

// sketch collects the elements of one screen, from the lowest to the highest.
type sketch struct {
	p *project.Project
	s *screen.Screen
}

// The parameters that the demo's screens have.
var (
	ofChamber = screen.Param{ID: "k", Name: "K", Kind: screen.ParamEquipment, Type: "Chamber", Default: "Kiln1", Title: "Chamber"}
	ofFan     = screen.Param{ID: "f", Name: "F", Kind: screen.ParamEquipment, Type: "Fan", Default: "Kiln1.Fan[1]", Title: "Fan"}
	ofBay     = screen.Param{ID: "b", Name: "B", Kind: screen.ParamTag, Type: "BOOL", Default: "Yard.Bay[1]", Title: "Bay"}
)

// of gives the screen a parameter; type and default are named by their names.
func (k *sketch) of(param screen.Param) {
	for id, t := range k.p.Types {
		if t.Name == param.Type {
			param.Type = id
		}
	}
	param.Default = k.ref(param.Default)
	k.s.Params = append(k.s.Params, param)
}

// ref is the id of a tag, of equipment, or of a member of a parameter.
func (k *sketch) ref(path string) string {
	if id, ok := k.p.FindPath(path); ok {
		return id
	}
	if id, _, ok := k.s.FindParam(path, k.p.Type); ok {
		return id
	}
	return folder(k.p, path)
}

func folder(p *project.Project, path string) string {
	id, _ := p.FindFolder(path)
	return id
}

// symbol places a symbol or a part of a screen.
func (k *sketch) symbol(name string, x, y, w, h float64, symbol string, args map[string]string) {
	k.put("symbol", name, x, y, w, h, props{"symbol": symbol}, nil)
	k.last().Args = args
}

func (k *sketch) last() *screen.Element { return k.s.Elements[fmt.Sprintf("e%03d", len(k.s.Elements))] }

// drawing begins a screen that lies on others or in a window.
func drawing(p *project.Project, id, name string, role screen.Role, w, h int) *sketch {
	return &sketch{p, &screen.Screen{ID: id, Name: name, Role: role, Width: w, Height: h, Elements: map[string]*screen.Element{}}}
}

type props = map[string]any
type binds = map[string]string

func begin(p *project.Project, id, name, title, area string, order float64) *sketch {
	w, h := p.ScreenSize()
	return &sketch{p, &screen.Screen{ID: id, Name: name, Title: title, Area: area, Width: w, Height: h, Order: order,
		Elements: map[string]*screen.Element{}}}
}

// put adds an element; a "tag" or "set" property given as a path is looked up.
func (k *sketch) put(kind, name string, x, y, w, h float64, p props, b binds) {
	for _, key := range []string{"tag", "set", "answer", "array", "excludes"} {
		if path, ok := p[key].(string); ok {
			p[key] = k.ref(path)
		}
	}
	n := len(k.s.Elements) + 1
	k.s.Elements[fmt.Sprintf("e%03d", n)] = &screen.Element{Kind: kind, Name: name, X: x, Y: y, W: w, H: h, Z: float64(n), Props: p, Bind: b}
}

func (k *sketch) text(x, y, w float64, text string, size float64, colour string) {
	k.put("text", "", x, y, w, size*1.5, props{"text": text, "size": size, "colour": colour}, nil)
}

func (k *sketch) heading(text string) {
	k.put("text", "Heading", 24, 20, 760, 36, props{"text": text, "size": 20.0, "bold": true}, nil)
}

func (k *sketch) entry(x, y, w float64, caption, path string) {
	k.put("entry", caption, x, y, w, 68, props{"tag": path, "caption": caption}, nil)
}

func (k *sketch) bar(x float64, caption, path, set string, low, high, from, to float64) {
	p := props{"tag": path, "caption": caption, "low": low, "high": high, "bandLow": from, "bandHigh": to}
	if set != "" {
		p["set"] = set
	}
	k.put("bar", caption, x, 96, 112, 344, p, nil)
}

func screens(p *project.Project) []*screen.Screen {
	return []*screen.Screen{fanSymbol(p), fanFaceplate(p), chamberCard(p), bayPart(p), overview(p), chamber(p), burner(p), railCar(p),
		bays(p), energy(p), alarmScreen(p), climate(p), loads(p), recipesScreen(p), lighting(p)}
}

// fanSymbol is a fan with its speed below.
func fanSymbol(p *project.Project) *screen.Screen {
	k := drawing(p, "s-fan-symbol", "Fan symbol", screen.Symbol, 64, 64)
	k.of(ofFan)
	k.put("fan", "Fan", 4, 4, 56, 56, props{}, binds{"running": "F.Running", "fault": "F.Fault", "hand": "F.HandMode", "speed": "F.Speed"})
	return k.s
}

func fanFaceplate(p *project.Project) *screen.Screen {
	k := drawing(p, "s-fan", "Fan", screen.Faceplate, 380, 300)
	k.of(ofFan)
	k.s.Title, k.s.Background = "{F}", "sheet"
	k.symbol("Fan", 24, 24, 88, 88, "s-fan-symbol", map[string]string{"f": "$f"})
	k.put("statetext", "Turns", 132, 20, 220, 26, props{"tag": "F.Running", "size": 18.0}, nil)
	k.put("lamp", "Reverse", 132, 52, 220, 28, props{"tag": "F.Reverse", "caption": "Turns back"}, nil)
	k.put("lamp", "Hand", 132, 84, 220, 28, props{"tag": "F.HandMode", "caption": "In hand mode"}, nil)
	k.put("dial", "Speed", 16, 128, 160, 156, props{"tag": "F.Speed", "caption": "Speed", "bandLow": 30.0, "bandHigh": 100.0}, nil)
	k.put("sparkline", "Current", 196, 140, 168, 88, props{"tag": "F.Current", "caption": "Current", "minutes": 5.0, "low": 0.0}, nil)
	k.put("lamp", "Trip", 196, 244, 168, 28, props{"tag": "F.Fault", "caption": "Tripped", "onColour": "high"}, nil)
	return k.s
}

// chamberCard is a chamber in small, with what matters of it.
func chamberCard(p *project.Project) *screen.Screen {
	k := drawing(p, "s-card", "Chamber card", screen.Symbol, 400, 380)
	k.of(ofChamber)
	k.put("rect", "Card", 0, 0, 400, 380, props{"fill": "sheet", "stroke": "line", "radius": 4.0}, nil)
	k.put("text", "Name", 20, 12, 120, 28, props{"text": "{K}", "size": 18.0, "bold": true}, nil)
	k.put("text", "Load", 110, 15, 272, 24, props{"text": "{K.Species} · {K.LoadId}", "size": 14.0, "colour": "quiet", "align": "right"}, nil)
	k.put("chamber", "Chamber", 20, 52, 232, 212, props{}, binds{"open": "not K.DoorClosed"})
	for i := 1; i <= 4; i++ {
		k.symbol(fmt.Sprintf("Fan %d", i), 34+float64(i-1)*50, 82, 40, 40, "s-fan-symbol",
			map[string]string{"f": k.ref(fmt.Sprintf("K.Fan[%d]", i))})
	}
	k.put("line", "Ceiling", 32, 130, 196, 0, props{"stroke": "ink", "strokeWidth": 2.0}, nil)
	k.put("stack", "Timber", 84, 150, 128, 96, props{"rows": 6.0, "columns": 5.0}, binds{"moisture": "K.MoistureAvg"})
	k.put("coil", "Heating coil", 34, 146, 40, 32, props{}, binds{"output": "K.HeatValve"})
	k.put("burner", "Burner", 34, 208, 40, 34, props{}, binds{"running": "K.Burner.Flame", "fault": "K.Burner.Lockout"})
	value := func(y float64, caption, path string) {
		k.put("readout", caption, 272, y, 116, 56, props{"tag": path, "caption": caption, "size": 20.0}, nil)
	}
	value(52, "Dry bulb", "K.DryBulb")
	value(114, "Wet bulb", "K.WetBulb")
	value(176, "Moisture", "K.MoistureAvg")
	k.put("rect", "Mode", 272, 238, 108, 28, props{"fill": "none", "stroke": "quiet", "radius": 3.0}, nil)
	k.last().States = &screen.States{Of: "K.Mode", Set: "l-mode"}
	k.put("statetext", "Mode", 276, 238, 100, 28, props{"tag": "K.Mode", "align": "centre", "size": 15.0}, nil)
	k.put("sparkline", "Drying", 20, 276, 360, 44, props{"tag": "K.DryBulb", "caption": "Dry bulb, 10 minutes", "minutes": 10.0}, nil)
	k.put("button", "Open", 20, 328, 360, 44, props{"action": "open", "screen": "s-chamber1", "caption": "Open {K}"}, nil)
	k.last().Args = map[string]string{"k": "$k"}
	return k.s
}

// bayPart is one bay of the yard.
func bayPart(p *project.Project) *screen.Screen {
	k := drawing(p, "s-bay", "Bay", screen.Symbol, 64, 48)
	k.of(ofBay)
	k.put("rect", "Bay", 2, 2, 60, 44, props{"fill": "none", "stroke": "quiet"}, nil)
	k.put("stack", "Stack", 10, 8, 44, 32, props{"rows": 3.0, "columns": 3.0}, binds{"visible": "B"})
	return k.s
}

func overview(p *project.Project) *screen.Screen {
	k := begin(p, "s-yard", "Yard", "Larchmoor yard", "", 1)
	k.s.Home = true
	k.heading("Larchmoor drying yard")
	k.put("readout", "Outside", 640, 12, 120, 48, props{"tag": "Weather.Outside", "caption": "Outside"}, nil)
	k.put("readout", "Wind", 776, 12, 120, 48, props{"tag": "Weather.Wind", "caption": "Wind"}, nil)
	k.put("readout", "Power", 912, 12, 140, 48, props{"tag": "Meter.Power", "caption": "Power"}, nil)
	k.put("button", "Link", 1096, 14, 160, 44, props{"action": "diagnose", "device": "d-kiln", "caption": "Link"}, nil)
	k.put("repeat", "Chambers", 24, 76, 1232, 380,
		props{"symbol": "s-card", "over": "type", "type": typeNamed(p, "Chamber"), "columns": 3.0, "gap": 16.0}, nil)
	k.put("rect", "Card", 24, 476, 1232, 176, props{"fill": "sheet", "stroke": "line", "radius": 4.0}, nil)
	k.put("text", "", 48, 488, 300, 28, props{"text": "Rail car", "size": 18.0, "bold": true}, nil)
	k.put("track", "Track", 48, 612, 900, 20, props{"sleepers": 36.0}, nil)
	k.put("car", "Car", 48, 548, 110, 68, props{"travel": 790.0},
		binds{"position": "Car.Position / 60000", "loaded": "Car.Loaded", "fault": "Car.EStop"})
	k.put("readout", "Position", 984, 492, 136, 60, props{"tag": "Car.Position", "caption": "Position", "size": 22.0}, nil)
	k.put("readout", "Speed", 1130, 492, 110, 60, props{"tag": "Car.Velocity", "caption": "Speed", "size": 22.0}, nil)
	k.put("button", "To the car", 984, 584, 248, 48, props{"action": "open", "screen": "s-car", "caption": "Open the rail car"}, nil)
	return k.s
}

// burner is the burner of a chamber in a window: the steps of lighting in their
// order.
func burner(p *project.Project) *screen.Screen {
	k := drawing(p, "s-burner", "Burner", screen.PopUp, 560, 420)
	k.of(ofChamber)
	k.s.Title, k.s.Background, k.s.Area = "Burner of {K}", "sheet", "a-kilns"
	k.put("burner", "Burner", 320, 24, 200, 150, props{}, binds{"running": "K.Burner.Flame", "fault": "K.Burner.Lockout"})
	for i, l := range [][2]string{{"Call", "Heat called for"}, {"PurgeFan", "Purge fan"}, {"PurgeDone", "Purge complete"},
		{"Spark", "Spark"}, {"GasValve", "Gas valve"}, {"Flame", "Flame proven"}, {"Lockout", "Locked out"}} {
		with := props{"tag": "K.Burner." + l[0], "caption": l[1]}
		if l[0] == "Lockout" {
			with["onColour"] = "high"
		}
		k.put("lamp", l[1], 24, 24+float64(i)*40, 210, 28, with, nil)
	}
	k.put("button", "Signals", 320, 232, 216, 44, props{"action": "open", "screen": "s-lighting", "caption": "Signals over time"}, nil)
	k.last().Args = map[string]string{"k": "$k"}
	k.put("readout", "Heat valve", 24, 336, 160, 60, props{"tag": "K.HeatValve", "caption": "Heat valve", "size": 22.0}, nil)
	k.put("pipe", "Gas", 300, 176, 120, 56, props{"colour": "metal", "flow": "forward"}, binds{"flowing": "K.Burner.GasValve"})
	k.last().Points = []float64{0, 1, 1, 1, 1, 0}
	k.put("valve", "Gas valve", 256, 212, 56, 40, props{}, binds{"position": "K.Burner.GasValve ? 100 : 0"})
	k.put("button", "Lamp test", 320, 284, 216, 48,
		props{"action": "request", "tag": "K.LampTest", "value": "true", "answer": "K.LampTestDone", "answerValue": "true", "within": 5.0,
			"caption": "Lamp test"}, nil)
	k.put("button", "Reset", 320, 340, 216, 52, props{"action": "pulse", "tag": "K.Reset", "value": "true", "release": "false",
		"pulse": 400.0, "caption": "Take the lockout back", "why": "The burner is not locked out", "confirm": true},
		binds{"enabled": "K.Burner.Lockout"})
	return k.s
}

// bays is the yard: every bay by one repeat.
func bays(p *project.Project) *screen.Screen {
	k := begin(p, "s-bays", "Bays", "Yard bays", "a-yard", 4)
	k.heading("Yard bays")
	k.text(160, 27, 600, "{Yard.Count} of 48 bays hold timber, the next is {Yard.NextBay}", 15, "quiet")
	k.put("rect", "Card", 24, 72, 1232, 340, props{"fill": "sheet", "stroke": "line", "radius": 4.0}, nil)
	k.put("repeat", "Bays", 48, 92, 1184, 300, props{"symbol": "s-bay", "over": "array", "array": "Yard.Bay[1]", "columns": 12.0,
		"gap": 8.0}, nil)
	k.put("switch", "Load", 48, 460, 220, 48, props{"tag": "Yard.LoadCycle", "caption": "Loading cycle"}, nil)
	k.put("switch", "Unload", 300, 460, 220, 48, props{"tag": "Yard.UnloadCycle", "caption": "Unloading cycle"}, nil)
	k.put("dial", "Filled", 1064, 436, 192, 192, props{"tag": "Yard.Count", "caption": "Bays filled", "low": 0.0, "high": 48.0}, nil)
	return k.s
}

func energy(p *project.Project) *screen.Screen {
	k := begin(p, "s-energy", "Energy", "Energy and weather", "", 5)
	k.heading("Energy and weather")
	k.put("frame", "Meter", 24, 76, 604, 576, props{"caption": "Meter"}, nil)
	k.put("dial", "Power", 60, 120, 260, 250, props{"tag": "Meter.Power", "caption": "Power", "high": 120.0, "bandLow": 0.0,
		"bandHigh": 90.0}, nil)
	k.put("readout", "Energy", 360, 136, 230, 72, props{"tag": "Meter.Energy", "caption": "Energy", "size": 28.0}, nil)
	k.put("readout", "Gross", 360, 226, 230, 72, props{"tag": "Meter.Gross", "caption": "On the weighbridge", "size": 28.0}, nil)
	k.put("lamp", "Stable", 360, 318, 220, 28, props{"tag": "Meter.Stable", "caption": "Weight is steady"}, nil)
	k.put("sparkline", "Power", 60, 400, 532, 216, props{"tag": "Meter.Power", "caption": "Power, 10 minutes", "minutes": 10.0, "low": 0.0},
		nil)
	k.put("frame", "Weather", 652, 76, 604, 280, props{"caption": "Weather"}, nil)
	k.put("readout", "Outside", 688, 132, 180, 72, props{"tag": "Weather.Outside", "caption": "Outside", "size": 28.0}, nil)
	k.put("readout", "Humidity", 876, 132, 180, 72, props{"tag": "Weather.Humidity", "caption": "Humidity", "size": 28.0}, nil)
	k.put("readout", "Wind", 1064, 132, 180, 72, props{"tag": "Weather.Wind", "caption": "Wind", "size": 28.0}, nil)
	k.put("sparkline", "Outside", 688, 232, 532, 100, props{"tag": "Weather.Outside", "caption": "Outside, 30 minutes", "minutes": 30.0}, nil)
	k.put("table", "Chambers", 652, 380, 604, 272, props{"caption": "Heat valves and vents", "descriptions": false}, nil)
	for n := 1; n <= plant.Chambers; n++ {
		k.last().Tags = append(k.last().Tags, k.ref(fmt.Sprintf("Kiln%d.HeatValve", n)), k.ref(fmt.Sprintf("Kiln%d.VentPosition", n)))
	}
	return k.s
}

// climate is the course of a chamber's air, over a working day at first.
func climate(p *project.Project) *screen.Screen {
	k := begin(p, "s-climate", "Trends", "Climate of {K}", "a-kilns", 7)
	k.of(ofChamber)
	k.put("selector", "Chamber", 24, 10, 330, 48, props{"of": "parameter", "param": "k"}, nil)
	k.put("trend", "Climate", 0, 66, 1280, 610, props{"view": "v-climate", "equipment": "$k", "minutes": 480.0}, nil)
	return k.s
}

// loads are what the drying record has: each load with its course, how the record
// stands, and the moistures as a table.
func loads(p *project.Project) *screen.Screen {
	k := begin(p, "s-loads", "Loads", "Loads of the chambers", "a-kilns", 8)
	k.heading("Loads of the chambers")
	k.put("spanlist", "Loads", 24, 70, 1232, 384, props{"log": "l-drying"}, nil)
	k.put("logstate", "Record", 24, 468, 500, 190, props{"log": "l-drying"}, nil)
	k.put("records", "Moistures", 540, 468, 716, 190, props{"log": "l-drying", "minutes": 1440.0, "every": "10 min", "files": false}, nil)
	for n := 1; n <= plant.Chambers; n++ {
		k.last().Tags = append(k.last().Tags, k.ref(fmt.Sprintf("Kiln%d.MoistureAvg", n)))
	}
	return k.s
}

// recipesScreen has the drying schedules, where the shift sends them.
func recipesScreen(p *project.Project) *screen.Screen {
	k := begin(p, "s-recipes", "Recipes", "Drying schedules", "a-kilns", 9)
	k.put("recipes", "Drying schedules", 0, 0, 1280, 676, props{"book": "b-drying"}, nil)
	return k.s
}

// lighting are the signals of a chamber's burner, as it lights.
func lighting(p *project.Project) *screen.Screen {
	k := drawing(p, "s-lighting", "Burner signals", screen.PopUp, 1000, 600)
	k.of(ofChamber)
	k.s.Title, k.s.Background, k.s.Area = "Burner signals of {K}", "sheet", "a-kilns"
	k.put("trend", "Signals", 0, 0, 1000, 544, props{"view": "v-burner", "equipment": "$k", "minutes": 15.0}, nil)
	k.put("button", "Keep", 760, 550, 224, 44, props{"action": "log", "log": "l-lockout", "logDoes": "take",
		"caption": "Keep this moment"}, nil)
	return k.s
}

// alarmScreen has the alarms on one page: what stands, what is set aside, what
// happened, and what the codes mean.
func alarmScreen(p *project.Project) *screen.Screen {
	k := begin(p, "s-alarms", "Alarms", "Alarms of the yard", "", 6)
	k.heading("Alarms of the yard")
	k.put("frame", "Standing", 24, 76, 800, 330, props{"caption": "Standing"}, nil)
	k.put("alarmlist", "Standing", 36, 108, 776, 286, props{"columns": "tab,time,path,text"}, nil)
	k.put("frame", "Set aside", 844, 76, 412, 330, props{"caption": "Set aside"}, nil)
	k.put("alarmlist", "Set aside", 856, 108, 388, 286, props{"list": "aside", "columns": "tab,name,state", "buttons": false}, nil)
	k.put("alarmlist", "Journal", 24, 426, 1232, 166, props{"list": "journal"}, nil)
	k.put("alarmkey", "Codes", 24, 606, 1232, 64, props{}, nil)
	return k.s
}

func typeNamed(p *project.Project, name string) string {
	for id, t := range p.Types {
		if t.Name == name {
			return id
		}
	}
	return ""
}

func chamber(p *project.Project) *screen.Screen {
	k := begin(p, "s-chamber1", "Chamber", "Drying chamber {K}", "a-kilns", 2)
	k.of(ofChamber)
	for n := 1; n <= plant.Chambers; n++ {
		k.s.Entries = append(k.s.Entries, screen.Entry{Name: fmt.Sprintf("Kiln%d", n),
			Args: map[string]string{"k": folder(p, fmt.Sprintf("Kiln%d", n))}})
	}
	k.heading("{K}")
	k.text(120, 27, 620, "{K.Species} · load {K.LoadId} · {K.Mode}, step {K.StepNo} of 6, {K.ElapsedHours:0} h", 15, "quiet")
	k.put("chamber", "Chamber", 24, 84, 616, 412, props{}, binds{"open": "not K.DoorClosed"})
	for i, x := range []float64{156, 448} {
		k.put("damper", fmt.Sprintf("Vent %d", i+1), x, 70, 60, 30, props{}, binds{"position": "K.VentPosition"})
		k.put("readout", "", x, 44, 72, 24, props{"tag": "K.VentPosition", "size": 15.0}, nil)
	}
	k.text(232, 46, 60, "vents", 14, "quiet")
	for i := 1; i <= 4; i++ {
		x := 108 + float64(i-1)*120
		fan := fmt.Sprintf("K.Fan[%d]", i)
		k.symbol(fmt.Sprintf("Fan %d", i), x, 136, 56, 56, "s-fan-symbol", map[string]string{"f": k.ref(fan)})
		k.put("readout", "", x-12, 194, 80, 24, props{"tag": fan + ".Speed", "size": 14.0, "align": "centre"}, nil)
	}
	k.put("line", "Ceiling", 52, 226, 560, 0, props{"stroke": "ink", "strokeWidth": 2.0}, nil)
	k.put("spray", "Spray", 64, 234, 92, 20, props{}, binds{"open": "K.SprayOpen"})
	k.put("coil", "Heating coil", 52, 262, 64, 48, props{}, binds{"output": "K.HeatValve"})
	k.text(52, 312, 110, "heat valve", 14, "quiet")
	k.put("readout", "Heat valve", 52, 330, 90, 26, props{"tag": "K.HeatValve", "size": 16.0}, nil)
	k.put("burner", "Burner", 52, 376, 64, 48, props{}, binds{"running": "K.Burner.Flame", "fault": "K.Burner.Lockout"})
	k.text(52, 428, 80, "burner", 14, "quiet")
	k.put("stack", "Timber", 180, 264, 356, 208, props{}, binds{"moisture": "K.MoistureAvg"})
	for i, at := range [][2]float64{{192, 306}, {340, 296}, {262, 376}, {440, 400}} {
		k.put("readout", fmt.Sprintf("Probe %d", i+1), at[0], at[1], 68, 30,
			props{"tag": fmt.Sprintf("K.Moisture[%d]", i+1), "size": 16.0, "unit": false, "align": "centre", "fill": "sheet"}, nil)
	}
	k.text(286, 500, 200, "moisture probes, %", 14, "quiet")
	k.put("readout", "Door", 560, 500, 84, 24, props{"tag": "K.DoorClosed", "size": 14.0}, nil)
	k.text(520, 501, 44, "door", 14, "quiet")

	k.entry(24, 524, 176, "Dry bulb set point", "K.DryBulbSP")
	k.entry(212, 524, 176, "Wet bulb set point", "K.WetBulbSP")
	k.entry(400, 524, 176, "Air set point", "K.FanSpeedSP")
	button := func(x, w float64, caption, path, value, enabled string) {
		b := binds{}
		if enabled != "" {
			b["enabled"] = enabled
		}
		k.put("button", caption, x, 608, w, 52, props{"action": "set", "tag": path, "value": value, "caption": caption}, b)
	}
	button(24, 132, "Start", "K.Start", "true", "K.CanStart")
	button(168, 168, "Stop and cool", "K.Stop", "true", "K.Mode != 0")
	button(348, 132, "Reset", "K.Reset", "true", "")
	k.put("text", "Why not", 492, 622, 188, 24, props{"text": "Blocked: the chamber runs", "size": 14.0, "colour": "quiet"},
		binds{"visible": "K.Mode != 0"})

	k.bar(684, "Dry bulb", "K.DryBulb", "K.DryBulbSP", 20, 100, 55, 84)
	k.bar(836, "Wet bulb", "K.WetBulb", "K.WetBulbSP", 20, 100, 50, 66)
	k.bar(988, "Moisture", "K.MoistureAvg", "K.TargetMoisture", 0, 60, 8, 45)
	k.bar(1140, "Air", "K.Fan[1].Speed", "K.FanSpeedSP", 0, 100, 30, 100)

	k.put("rect", "Panel", 684, 464, 568, 196, props{"fill": "sheet", "stroke": "line"}, nil)
	k.put("text", "", 704, 470, 240, 24, props{"text": "Target and reversal", "size": 15.0, "bold": true}, nil)
	k.entry(704, 504, 176, "Target moisture", "K.TargetMoisture")
	k.entry(896, 504, 176, "Reversal every", "K.ReversalMinutes")
	k.put("readout", "Depression", 704, 590, 170, 60, props{"tag": "K.Depression", "caption": "Wet-bulb depression", "size": 20.0}, nil)
	k.put("readout", "Fans", 896, 590, 120, 60, props{"tag": "K.FansRunning", "caption": "Fans running", "size": 20.0}, nil)
	k.put("button", "Burner", 1092, 476, 144, 36, props{"action": "open", "screen": "s-burner", "caption": "Burner"}, nil)
	k.last().Args = map[string]string{"k": "$k"}
	k.put("lamp", "Flame", 1092, 516, 144, 28, props{"tag": "K.Burner.Flame", "caption": "Flame"}, nil)
	k.put("lamp", "Purge", 1092, 550, 144, 28, props{"tag": "K.Burner.PurgeFan", "caption": "Purge fan"}, nil)
	k.put("lamp", "Gas", 1092, 584, 144, 28, props{"tag": "K.Burner.GasValve", "caption": "Gas valve"}, nil)
	k.put("lamp", "Lockout", 1092, 618, 144, 28, props{"tag": "K.Burner.Lockout", "caption": "Locked out", "onColour": "high"}, nil)
	return k.s
}

func railCar(p *project.Project) *screen.Screen {
	k := begin(p, "s-car", "Rail car", "Rail car", "a-car", 3)
	k.heading("Rail car")
	k.put("button", "Controller", 1096, 14, 160, 44,
		props{"action": "diagnose", "device": "d-car", "part": "Motion", "caption": "Controller"}, nil)
	k.put("text", "Invalid", 132, 27, 600, 24, props{"text": "The origin is not set: jog slowly and set zero", "size": 15.0,
		"colour": "high"}, binds{"visible": "not Car.PositionValid"})
	k.put("rect", "Card", 24, 72, 1232, 232, props{"fill": "sheet", "stroke": "line", "radius": 4.0}, nil)
	k.put("track", "Track", 56, 232, 1168, 24, props{"sleepers": 44.0}, nil)
	k.put("car", "Car", 56, 152, 136, 84, props{"travel": 1032.0},
		binds{"position": "Car.Position / 60000", "loaded": "Car.Loaded", "fault": "Car.EStop"})
	for i := 0; i <= 6; i++ {
		k.put("text", "", 92+float64(i)*172, 264, 64, 22,
			props{"text": fmt.Sprintf("%d m", i*10), "size": 14.0, "colour": "quiet", "align": "centre"}, nil)
	}
	readout := func(x float64, caption, path string) {
		k.put("readout", caption, x, 88, 200, 60, props{"tag": path, "caption": caption, "size": 24.0}, nil)
	}
	readout(56, "Position", "Car.Position")
	readout(280, "Speed", "Car.Velocity")
	k.put("lamp", "Stationary", 520, 104, 150, 28, props{"tag": "Car.Stationary", "caption": "Stationary"}, nil)
	k.put("lamp", "Loaded", 690, 104, 130, 28, props{"tag": "Car.Loaded", "caption": "Loaded"}, nil)
	k.put("lamp", "Origin", 840, 104, 170, 28, props{"tag": "Car.PositionValid", "caption": "Origin set"}, nil)
	k.put("lamp", "Emergency stop", 1030, 104, 200, 28, props{"tag": "Car.EStop", "caption": "Emergency stop", "onColour": "critical"}, nil)

	k.put("text", "", 24, 332, 300, 28, props{"text": "Jog", "size": 18.0, "bold": true}, nil)
	jog := func(x float64, caption, path, opposite string) {
		k.put("button", caption, x, 368, 232, 96, props{"action": "hold", "tag": path, "caption": caption, "excludes": opposite},
			binds{"enabled": "not Car.EStop"})
	}
	jog(24, "Hold to go back", "Car.JogBack", "Car.JogForward")
	jog(272, "Hold to go forward", "Car.JogForward", "Car.JogBack")
	k.text(24, 476, 560, "The car moves while a button is held and stops by itself when it is let go.", 14, "quiet")
	k.text(24, 498, 560, "The safe stop is the emergency stop at the car.", 14, "quiet")
	k.put("button", "Set zero", 24, 548, 232, 52, props{"action": "set", "tag": "Car.SetZero", "value": "true", "caption": "Set zero here"},
		binds{"enabled": "Car.Stationary and not Car.EStop"})
	k.put("text", "Why not", 272, 562, 320, 24, props{"text": "Zero is set while the car stands still", "size": 14.0, "colour": "quiet"},
		binds{"visible": "not Car.Stationary"})

	k.put("text", "", 640, 332, 300, 28, props{"text": "Motion", "size": 18.0, "bold": true}, nil)
	k.entry(640, 368, 192, "Jog speed", "Car.VelocitySP")
	k.entry(848, 368, 192, "Acceleration", "Car.AccelSP")
	k.entry(1056, 368, 192, "Deceleration", "Car.DecelSP")
	return k.s
}
