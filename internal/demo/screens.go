package demo

import (
	"fmt"

	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
)

// sketch collects the elements of one screen, from the lowest to the highest.
type sketch struct {
	p *project.Project
	s *screen.Screen
}

type props = map[string]any
type binds = map[string]string

func begin(p *project.Project, id, name, title, area string, order float64) *sketch {
	w, h := p.ScreenSize()
	return &sketch{p, &screen.Screen{ID: id, Name: name, Title: title, Area: area, Width: w, Height: h, Order: order, Elements: map[string]*screen.Element{}}}
}

// put adds an element; a "tag" or "set" property given as a path is looked up.
func (k *sketch) put(kind, name string, x, y, w, h float64, p props, b binds) {
	for _, key := range []string{"tag", "set", "answer"} {
		if path, ok := p[key].(string); ok {
			if id, found := k.p.FindPath(path); found {
				p[key] = id
			}
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
	return []*screen.Screen{overview(p), chamber(p), railCar(p)}
}

func chamber(p *project.Project) *screen.Screen {
	k := begin(p, "s-chamber1", "Chamber 1", "Drying chamber 1", "a-k1", 2)
	k.heading("Chamber 1")
	k.text(140, 27, 620, "{Kiln1.Species} · load {Kiln1.LoadId} · {Kiln1.Mode}, step {Kiln1.StepNo} of 6, {Kiln1.ElapsedHours:0} h", 15, "quiet")
	k.put("chamber", "Chamber", 24, 84, 616, 412, props{}, binds{"open": "not Kiln1.DoorClosed"})
	for i, x := range []float64{156, 448} {
		k.put("damper", fmt.Sprintf("Vent %d", i+1), x, 70, 60, 30, props{}, binds{"position": "Kiln1.VentPosition"})
		k.put("readout", "", x, 44, 72, 24, props{"tag": "Kiln1.VentPosition", "size": 15.0}, nil)
	}
	k.text(232, 46, 60, "vents", 14, "quiet")
	for i := 1; i <= 4; i++ {
		x := 108 + float64(i-1)*120
		fan := fmt.Sprintf("Kiln1.Fan[%d]", i)
		k.put("fan", fmt.Sprintf("Fan %d", i), x, 136, 56, 56, props{},
			binds{"running": fan + ".Running", "fault": fan + ".Fault", "hand": fan + ".HandMode", "speed": fan + ".Speed"})
		k.put("readout", "", x-12, 194, 80, 24, props{"tag": fan + ".Speed", "size": 14.0, "align": "centre"}, nil)
	}
	k.put("line", "Ceiling", 52, 226, 560, 0, props{"stroke": "ink", "strokeWidth": 2.0}, nil)
	k.put("spray", "Spray", 64, 234, 92, 20, props{}, binds{"open": "Kiln1.SprayOpen"})
	k.put("coil", "Heating coil", 52, 262, 64, 48, props{}, binds{"output": "Kiln1.HeatValve"})
	k.text(52, 312, 110, "heat valve", 14, "quiet")
	k.put("readout", "Heat valve", 52, 330, 90, 26, props{"tag": "Kiln1.HeatValve", "size": 16.0}, nil)
	k.put("burner", "Burner", 52, 376, 64, 48, props{}, binds{"running": "Kiln1.Burner.Flame", "fault": "Kiln1.Burner.Lockout"})
	k.text(52, 428, 80, "burner", 14, "quiet")
	k.put("stack", "Timber", 180, 264, 356, 208, props{}, binds{"moisture": "Kiln1.MoistureAvg"})
	for i, at := range [][2]float64{{192, 306}, {340, 296}, {262, 376}, {440, 400}} {
		k.put("readout", fmt.Sprintf("Probe %d", i+1), at[0], at[1], 68, 30,
			props{"tag": fmt.Sprintf("Kiln1.Moisture[%d]", i+1), "size": 16.0, "unit": false, "align": "centre", "fill": "sheet"}, nil)
	}
	k.text(286, 500, 200, "moisture probes, %", 14, "quiet")
	k.put("readout", "Door", 560, 500, 84, 24, props{"tag": "Kiln1.DoorClosed", "size": 14.0}, nil)
	k.text(520, 501, 44, "door", 14, "quiet")

	k.entry(24, 524, 176, "Dry bulb set point", "Kiln1.DryBulbSP")
	k.entry(212, 524, 176, "Wet bulb set point", "Kiln1.WetBulbSP")
	k.entry(400, 524, 176, "Air set point", "Kiln1.FanSpeedSP")
	button := func(x, w float64, caption, path, value, enabled string) {
		b := binds{}
		if enabled != "" {
			b["enabled"] = enabled
		}
		k.put("button", caption, x, 608, w, 52, props{"action": "set", "tag": path, "value": value, "caption": caption}, b)
	}
	button(24, 132, "Start", "Kiln1.Start", "true", "Kiln1.CanStart")
	button(168, 168, "Stop and cool", "Kiln1.Stop", "true", "Kiln1.Mode != 0")
	button(348, 132, "Reset", "Kiln1.Reset", "true", "")
	k.put("text", "Why not", 492, 622, 188, 24, props{"text": "Blocked: the chamber runs", "size": 14.0, "colour": "quiet"}, binds{"visible": "Kiln1.Mode != 0"})

	k.bar(684, "Dry bulb", "Kiln1.DryBulb", "Kiln1.DryBulbSP", 20, 100, 55, 84)
	k.bar(836, "Wet bulb", "Kiln1.WetBulb", "Kiln1.WetBulbSP", 20, 100, 50, 66)
	k.bar(988, "Moisture", "Kiln1.MoistureAvg", "Kiln1.TargetMoisture", 0, 60, 8, 45)
	k.bar(1140, "Air", "Kiln1.Fan[1].Speed", "Kiln1.FanSpeedSP", 0, 100, 30, 100)

	k.put("rect", "Panel", 684, 464, 568, 196, props{"fill": "sheet", "stroke": "line"}, nil)
	k.put("text", "", 704, 470, 240, 24, props{"text": "Target and reversal", "size": 15.0, "bold": true}, nil)
	k.entry(704, 504, 176, "Target moisture", "Kiln1.TargetMoisture")
	k.entry(896, 504, 176, "Reversal every", "Kiln1.ReversalMinutes")
	k.put("readout", "Depression", 704, 590, 170, 60, props{"tag": "Kiln1.Depression", "caption": "Wet-bulb depression", "size": 20.0}, nil)
	k.put("readout", "Fans", 896, 590, 120, 60, props{"tag": "Kiln1.FansRunning", "caption": "Fans running", "size": 20.0}, nil)
	k.put("lamp", "Flame", 1092, 516, 144, 28, props{"tag": "Kiln1.Burner.Flame", "caption": "Flame"}, nil)
	k.put("lamp", "Purge", 1092, 550, 144, 28, props{"tag": "Kiln1.Burner.PurgeFan", "caption": "Purge fan"}, nil)
	k.put("lamp", "Gas", 1092, 584, 144, 28, props{"tag": "Kiln1.Burner.GasValve", "caption": "Gas valve"}, nil)
	k.put("lamp", "Lockout", 1092, 618, 144, 28, props{"tag": "Kiln1.Burner.Lockout", "caption": "Locked out", "onColour": "high"}, nil)
	return k.s
}

func overview(p *project.Project) *screen.Screen {
	k := begin(p, "s-yard", "Yard", "Larchmoor yard", "", 1)
	k.s.Home = true
	k.heading("Larchmoor drying yard")
	k.text(276, 27, 600, "{Kiln1.Mode} · {Kiln1.FansRunning} of 4 fans run", 15, "quiet")
	// The chamber in small, with what matters of it.
	k.put("rect", "Card", 24, 72, 760, 372, props{"fill": "sheet", "stroke": "line", "radius": 4.0}, nil)
	k.put("text", "", 48, 88, 300, 28, props{"text": "Chamber 1", "size": 18.0, "bold": true}, nil)
	k.text(160, 91, 380, "{Kiln1.Species}, load {Kiln1.LoadId}", 15, "quiet")
	k.put("chamber", "Chamber", 48, 140, 420, 280, props{}, binds{"open": "not Kiln1.DoorClosed"})
	for i := 1; i <= 4; i++ {
		fan := fmt.Sprintf("Kiln1.Fan[%d]", i)
		k.put("fan", fmt.Sprintf("Fan %d", i), 92+float64(i-1)*88, 176, 44, 44, props{},
			binds{"running": fan + ".Running", "fault": fan + ".Fault", "hand": fan + ".HandMode", "speed": fan + ".Speed"})
	}
	k.put("line", "Ceiling", 68, 234, 380, 0, props{"stroke": "ink", "strokeWidth": 2.0}, nil)
	k.put("stack", "Timber", 140, 256, 240, 144, props{"rows": 7.0, "columns": 8.0}, binds{"moisture": "Kiln1.MoistureAvg"})
	k.put("coil", "Heating coil", 68, 262, 52, 40, props{}, binds{"output": "Kiln1.HeatValve"})
	k.put("burner", "Burner", 68, 340, 52, 40, props{}, binds{"running": "Kiln1.Burner.Flame", "fault": "Kiln1.Burner.Lockout"})
	value := func(x, y float64, caption, path string) {
		k.put("readout", caption, x, y, 136, 64, props{"tag": path, "caption": caption, "size": 22.0}, nil)
	}
	value(500, 140, "Dry bulb", "Kiln1.DryBulb")
	value(640, 140, "Set point", "Kiln1.DryBulbSP")
	value(500, 212, "Wet bulb", "Kiln1.WetBulb")
	value(640, 212, "Set point", "Kiln1.WetBulbSP")
	value(500, 284, "Moisture", "Kiln1.MoistureAvg")
	value(640, 284, "Target", "Kiln1.TargetMoisture")
	k.put("readout", "Outside", 640, 12, 120, 48, props{"tag": "Weather.Outside", "caption": "Outside"}, nil)
	k.put("readout", "Wind", 776, 12, 120, 48, props{"tag": "Weather.Wind", "caption": "Wind"}, nil)
	k.put("readout", "Power", 912, 12, 140, 48, props{"tag": "Meter.Power", "caption": "Power"}, nil)
	k.put("button", "Link", 1096, 14, 160, 44, props{"action": "diagnose", "device": "d-kiln", "caption": "Link"}, nil)
	k.put("button", "To chamber 1", 500, 372, 260, 48, props{"action": "open", "screen": "s-chamber1", "caption": "Open chamber 1"}, nil)

	k.put("rect", "Card", 808, 72, 448, 372, props{"fill": "sheet", "stroke": "line", "radius": 4.0}, nil)
	k.put("text", "", 832, 88, 300, 28, props{"text": "Burner", "size": 18.0, "bold": true}, nil)
	for i, l := range [][2]string{{"Call", "Heat called for"}, {"PurgeFan", "Purge fan"}, {"PurgeDone", "Purge complete"}, {"Spark", "Spark"}, {"GasValve", "Gas valve"}, {"Flame", "Flame proven"}, {"Lockout", "Locked out"}} {
		p := props{"tag": "Kiln1.Burner." + l[0], "caption": l[1]}
		if l[0] == "Lockout" {
			p["onColour"] = "high"
		}
		k.put("lamp", l[1], 832, 132+float64(i)*42, 220, 28, p, nil)
	}
	value(1084, 140, "Heat valve", "Kiln1.HeatValve")
	value(1084, 212, "Vents", "Kiln1.VentPosition")
	value(1084, 284, "Depression", "Kiln1.Depression")
	k.put("button", "Lamp test", 1084, 364, 148, 48, props{"action": "request", "tag": "Kiln1.LampTest", "value": "true", "answer": "Kiln1.LampTestDone", "answerValue": "true", "within": 5.0, "caption": "Lamp test"}, nil)

	k.put("rect", "Card", 24, 468, 1232, 184, props{"fill": "sheet", "stroke": "line", "radius": 4.0}, nil)
	k.put("text", "", 48, 484, 300, 28, props{"text": "Rail car", "size": 18.0, "bold": true}, nil)
	k.put("track", "Track", 48, 608, 900, 20, props{"sleepers": 36.0}, nil)
	k.put("car", "Car", 48, 544, 110, 68, props{"travel": 790.0}, binds{"position": "Car.Position / 60000", "loaded": "Car.Loaded", "fault": "Car.EStop"})
	value(960, 500, "Position", "Car.Position")
	value(1126, 500, "Speed", "Car.Velocity")
	k.put("button", "To the car", 984, 580, 248, 48, props{"action": "open", "screen": "s-car", "caption": "Open the rail car"}, nil)
	return k.s
}

func railCar(p *project.Project) *screen.Screen {
	k := begin(p, "s-car", "Rail car", "Rail car", "a-car", 3)
	k.heading("Rail car")
	k.put("text", "Invalid", 132, 27, 600, 24, props{"text": "The origin is not set: jog slowly and set zero", "size": 15.0, "colour": "high"}, binds{"visible": "not Car.PositionValid"})
	k.put("rect", "Card", 24, 72, 1232, 232, props{"fill": "sheet", "stroke": "line", "radius": 4.0}, nil)
	k.put("track", "Track", 56, 232, 1168, 24, props{"sleepers": 44.0}, nil)
	k.put("car", "Car", 56, 152, 136, 84, props{"travel": 1032.0}, binds{"position": "Car.Position / 60000", "loaded": "Car.Loaded", "fault": "Car.EStop"})
	for i := 0; i <= 6; i++ {
		k.put("text", "", 92+float64(i)*172, 264, 64, 22, props{"text": fmt.Sprintf("%d m", i*10), "size": 14.0, "colour": "quiet", "align": "centre"}, nil)
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
	jog := func(x float64, caption, path string) {
		k.put("button", caption, x, 368, 232, 96, props{"action": "hold", "tag": path, "caption": caption}, binds{"enabled": "not Car.EStop"})
	}
	jog(24, "Hold to go back", "Car.JogBack")
	jog(272, "Hold to go forward", "Car.JogForward")
	k.text(24, 476, 560, "The car moves while a button is held and stops by itself when it is let go.", 14, "quiet")
	k.text(24, 498, 560, "The safe stop is the emergency stop at the car.", 14, "quiet")
	k.put("button", "Set zero", 24, 548, 232, 52, props{"action": "set", "tag": "Car.SetZero", "value": "true", "caption": "Set zero here"}, binds{"enabled": "Car.Stationary and not Car.EStop"})
	k.put("text", "Why not", 272, 562, 320, 24, props{"text": "Zero is set while the car stands still", "size": 14.0, "colour": "quiet"}, binds{"visible": "not Car.Stationary"})

	k.put("text", "", 640, 332, 300, 28, props{"text": "Motion", "size": 18.0, "bold": true}, nil)
	k.entry(640, 368, 192, "Jog speed", "Car.VelocitySP")
	k.entry(848, 368, 192, "Acceleration", "Car.AccelSP")
	k.entry(1056, 368, 192, "Deceleration", "Car.DecelSP")
	return k.s
}
