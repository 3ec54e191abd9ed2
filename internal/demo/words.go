package demo

import (
	"fmt"
	"maps"

	"readyrail/internal/plant"
)

// german are the wordings of the demo's screens in German.
var german = map[string]string{
	"After work on the rail": "Nach Arbeiten an der Schiene", "After an emergency stop": "Nach einem Not-Halt",
	"The position was lost": "Die Position ging verloren",
	"checked at the mark":   "an der Marke geprüft", "load is secured": "Ladung ist gesichert",
	"allowed by the schedule": "vom Trockenplan erlaubt",
	"Larchmoor drying yard":   "Holztrocknung Larchmoor", "Larchmoor yard": "Platz Larchmoor", "Outside": "Außen", "Wind": "Wind", "Power": "Leistung", "Link": "Verbindung", "Rail car": "Schienenwagen",
	"Position": "Position", "Speed": "Geschwindigkeit", "Open the rail car": "Schienenwagen öffnen", "Dry bulb": "Trockenkugel", "Wet bulb": "Feuchtkugel", "Moisture": "Feuchte", "Open {K}": "{K} öffnen",
	"Dry bulb, 10 minutes": "Trockenkugel, 10 Minuten", "Yard": "Platz", "Bays": "Fächer", "Yard bays": "Fächer des Platzes", "Energy": "Energie", "Energy and weather": "Energie und Wetter", "Weather": "Wetter", "Meter": "Zähler",
	"Humidity": "Feuchte der Luft", "On the weighbridge": "Auf der Waage", "Weight is steady": "Gewicht steht", "Dry bulb set point": "Sollwert Trockenkugel", "Wet bulb set point": "Sollwert Feuchtkugel", "Air set point": "Sollwert Luft",
	"Start": "Start", "Stop and cool": "Stopp und kühlen", "Reset": "Zurücksetzen", "Jog": "Tippen", "Motion": "Bewegung", "Hold to go back": "Halten: zurück", "Hold to go forward": "Halten: vor", "Set zero here": "Hier nullen",
	"Heat called for": "Wärme gefordert", "Purge fan": "Spülgebläse", "Purge complete": "Gespült", "Spark": "Zündfunke", "Gas valve": "Gasventil", "Flame proven": "Flamme erkannt", "Locked out": "Verriegelt",
	"Loading cycle": "Einlagern", "Unloading cycle": "Auslagern", "Bays filled": "Fächer belegt", "Current": "Strom", "Tripped": "Ausgelöst",
	"0 m": "0 m", "10 m": "10 m", "20 m": "20 m", "30 m": "30 m", "40 m": "40 m", "50 m": "50 m", "60 m": "60 m", "{K.Species} · load {K.LoadId} · {K.Mode}, step {K.StepNo} of 6, {K.ElapsedHours:0} h": "{K.Species} · Ladung {K.LoadId} · {K.Mode}, Schritt {K.StepNo} von 6, {K.ElapsedHours:0} h",
	"{K.Species} · {K.LoadId}": "{K.Species} · {K.LoadId}", "{Yard.Count} of 48 bays hold timber, the next is {Yard.NextBay}": "{Yard.Count} von 48 Fächern sind belegt, das nächste ist {Yard.NextBay}",
	"Acceleration": "Beschleunigung", "Trends": "Verläufe", "Climate of {K}": "Klima von {K}",
	"Loads": "Ladungen", "Loads of the chambers": "Ladungen der Kammern",
	"Burner signals of {K}": "Brennersignale von {K}", "Burner signals": "Brennersignale", "Signals over time": "Signale im Verlauf",
	"At least 1 °C below the dry bulb": "Mindestens 1 °C unter der Trockenkugel", "Car motion": "Fahrt des Wagens",
	"Conditioning": "Konditionieren", "Drying schedule": "Trocknungsplan", "Drying time": "Trocknungsdauer", "Fan reversal": "Lüfterumkehr",
	"Load": "Ladung", "Recipes": "Rezepte", "Drying schedules": "Trocknungspläne", "Moisture from": "Ab Feuchte", "Note": "Notiz", "Outlook": "Ausblick", "Species": "Holzart", "Thickness": "Dicke",
	"Step 1: warm-up": "Stufe 1: Anwärmen", "Step 2": "Stufe 2", "Step 3": "Stufe 3", "Step 4": "Stufe 4", "Step 5": "Stufe 5",
	"Step 6: final": "Stufe 6: Schluss", "Velocity": "Geschwindigkeit",
	"The chamber is not idle, or its door is open":   "Die Kammer ist nicht in Ruhe, oder ihre Tür ist offen",
	"The last step begins above the target moisture": "Die letzte Stufe beginnt über der Zielfeuchte",
	"The last step is not cooler than the first":     "Die letzte Stufe ist nicht kühler als die erste",
	"Keep this moment": "Diesen Moment festhalten",
	"Chamber climate":  "Kammerklima", "Burner lighting": "Zündung des Brenners",
	"Air": "Luft", "Bay": "Fach", "Blocked: the chamber runs": "Gesperrt: die Kammer läuft", "Burner": "Brenner", "burner": "Brenner",
	"Burner of {K}": "Brenner von {K}", "Chamber": "Kammer", "Kiln1": "Kiln1", "Kiln2": "Kiln2", "Kiln3": "Kiln3",
	"Chamber card": "Kammerkarte", "Deceleration": "Verzögerung", "door": "Tür", "Drying chamber {K}": "Trockenkammer {K}", "Fan": "Lüfter",
	"Fan symbol": "Lüftersymbol", "Fans running": "Laufende Lüfter", "Flame": "Flamme", "Heat valve": "Heizventil", "heat valve": "Heizventil",
	"Heat valves and vents": "Heizventile und Klappen", "In hand mode": "Im Handbetrieb", "Jog speed": "Tippgeschwindigkeit", "Kilns": "Trockenkammern",
	"Lamp test": "Lampentest", "Loaded": "Beladen", "moisture probes, %": "Feuchtefühler, %", "Origin set": "Nullpunkt gesetzt",
	"Outside, 30 minutes": "Außen, 30 Minuten", "Power, 10 minutes": "Leistung, 10 Minuten", "Reversal every": "Umkehr alle", "Stationary": "Steht",
	"Take the lockout back": "Verriegelung aufheben", "Target and reversal": "Ziel und Umkehr", "Target moisture": "Zielfeuchte",
	"Program": "Programm", "The program runs": "Das Programm läuft", "A chamber stands by a fault: see its alarms": "Eine Kammer steht durch eine Störung: siehe ihre Alarme",
	"Network": "Netz", "All partners are heard": "Alle Partner sind zu hören",
	"Nobody supervises this controller: check this server and the network": "Niemand überwacht diese Steuerung: Server und Netz prüfen",
	"Controller": "Steuerung", "Ready": "Bereit", "The car moves": "Der Wagen fährt",
	"Let go, as nobody supervises any more: check this server and the network": "Losgelassen, weil niemand mehr überwacht: Server und Netz prüfen",
	"Emergency stop: release it at the car, then reset":                        "Not-Halt: am Wagen entriegeln, dann zurücksetzen",
	"Field bus": "Feldbus", "All stations answer": "Alle Stationen antworten",
	"Station 4 (bays 25 to 48) does not answer: check its supply and its plug":    "Station 4 (Fächer 25 bis 48) antwortet nicht: Versorgung und Stecker prüfen",
	"The burner is not locked out":                                                "Der Brenner ist nicht verriegelt",
	"The car moves while a button is held and stops by itself when it is let go.": "Der Wagen fährt, solange eine Taste gehalten wird, und hält von selbst, wenn sie losgelassen wird.",
	"The origin is not set: jog slowly and set zero":                              "Der Nullpunkt fehlt: langsam tippen und nullen",
	"The safe stop is the emergency stop at the car.":                             "Der sichere Halt ist der Not-Halt am Wagen.", "Turns back": "Dreht zurück", "vents": "Klappen",
	"Wet-bulb depression": "Psychrometrische Differenz", "Zero is set while the car stands still": "Genullt wird, während der Wagen steht",
}

// germanAlarms are the wordings of the alarms: their names, their messages and
// what to do.
func germanAlarms() map[string]string {
	out := map[string]string{
		"Alarms": "Alarme", "Alarms of the yard": "Alarme des Platzes", "Standing": "Anstehend", "Set aside": "Zurückgestellt",
		"Half a schedule": "Halber Trocknungsplan", "Half a motion": "Halbe Fahrt", "The link or the server failed while a motion was sent": "Verbindung oder Server fiel aus, während eine Fahrt geliefert wurde",
		"The car would move by a mix of two motions": "Der Wagen führe nach einer Mischung zweier Fahrten", "A delivery was left half-way: see Recipes": "Eine Lieferung blieb auf halbem Weg: siehe Rezepte",
		"The link or the server failed while a schedule was sent": "Verbindung oder Server fiel aus, während ein Plan geliefert wurde",
		"The chamber would run a mix of two schedules":            "Die Kammer führe nach einer Mischung zweier Pläne",
		"Put back or send again, at Recipes":                      "Unter Rezepte zurücknehmen oder neu senden",
		"Dry bulb high":                                           "Trockenkugel hoch", "Dry bulb high-high": "Trockenkugel sehr hoch", "Dry bulb changes too fast": "Trockenkugel ändert sich zu schnell", "Depression too small": "Psychrometrische Differenz zu klein",
		"Dry bulb off its set point": "Trockenkugel weg vom Sollwert", "Moisture spread too large": "Feuchten zu verschieden", "Door open while heating": "Tür offen beim Heizen", "Burner lockout": "Brenner verriegelt", "Burner locked out": "Brenner verriegelt",
		"Emergency stop": "Not-Halt", "Emergency stop of the car pressed": "Not-Halt des Wagens gedrückt", "Link to the kilns lost": "Verbindung zu den Kammern verloren", "The kilns' controller does not answer": "Die Steuerung der Kammern antwortet nicht",
		"Chamber at {value:0.0} °C, above {limit:0}": "Kammer bei {value:0.0} °C, über {limit:0}", "{value:0.0} °C, more than {limit:0} K within a minute": "{value:0.0} °C, mehr als {limit:0} K in einer Minute", "{value:0.0} °C, set point {target:0.0} °C": "{value:0.0} °C, Sollwert {target:0.0} °C",
		"Overload, or a phase lost": "Überlast, oder eine Phase fehlt", "Air falls, the load dries unevenly": "Weniger Luft, die Ladung trocknet ungleich", "Look at the breaker; reset once": "Schutzschalter ansehen; einmal zurücksetzen",
		"Burner off, or set point just changed": "Brenner aus, oder Sollwert eben geändert", "Cable, switch or controller": "Kabel, Switch oder Steuerung",
		"Checks on the surface": "Risse an der Oberfläche", "Drying takes longer": "Das Trocknen dauert länger",
		"Fire hazard, load lost": "Brandgefahr, Ladung verloren", "Heat is lost, steam at the door": "Wärme geht verloren, Dampf an der Tür",
		"Heat valve stuck open, or vent closed":          "Heizventil klemmt offen, oder Klappe zu",
		"Heat valve worked by hand, door open, or steam": "Heizventil von Hand, Tür offen oder Dampf", "Heating out of control": "Heizung außer Kontrolle",
		"Lengthen conditioning; check the probes":       "Ausgleich verlängern; Fühler prüfen",
		"Look at the burner and the heat valve":         "Brenner und Heizventil ansehen",
		"Look at the controller's cabinet; run by hand": "Schaltschrank der Steuerung ansehen; von Hand fahren",
		"Look at the heat valve":                        "Heizventil ansehen", "Mixed timber in the load, or a probe in a knot": "Gemischtes Holz, oder ein Fühler im Ast",
		"No flame within three seconds": "Keine Flamme binnen drei Sekunden", "Nothing of the kilns is known": "Von den Kammern ist nichts bekannt",
		"One probe fewer in the mean": "Ein Fühler weniger im Mittel", "Part of the load stays wet": "Ein Teil der Ladung bleibt nass",
		"Probes differ by more than 8 %, mean {value:0.0} %": "Fühler weichen um mehr als 8 % ab, Mittel {value:0.0} %",
		"Put it back at the next load":                       "Bei der nächsten Ladung wieder einsetzen", "Somebody pressed it": "Jemand hat ihn gedrückt",
		"Somebody went in, or the latch is worn": "Jemand ging hinein, oder der Riegel ist verschlissen",
		"Stop the burner; leave the door shut":   "Brenner stoppen; Tür zu lassen", "The car stands": "Der Wagen steht",
		"The chamber cools": "Die Kammer kühlt aus", "The load does not dry": "Die Ladung trocknet nicht",
		"Timber dries too fast and checks": "Das Holz trocknet zu schnell und reißt", "Wet the wick; look at the spray": "Docht nässen; Sprühung ansehen",
		"Wick dry, or spray stuck open": "Docht trocken, oder Sprühung klemmt offen",
		"Shut the door":                 "Tür schließen", "Look at gas and spark; reset the burner": "Gas und Zündung ansehen; Brenner zurücksetzen", "Close the heat valve by hand; open the vent": "Heizventil von Hand schließen; Klappe öffnen", "Go and look; reset at the car": "Hingehen und nachsehen; am Wagen zurücksetzen",
	}
	for k := 1; k <= plant.Chambers; k++ {
		out[fmt.Sprintf("Chamber at {value:0.0} °C, limit {limit:0}; vent {Kiln%d.VentPosition:0} %%", k)] = fmt.Sprintf("Kammer bei {value:0.0} °C, Grenze {limit:0}; Klappe {Kiln%d.VentPosition:0} %%", k)
		out[fmt.Sprintf("The door is open, dry bulb {Kiln%d.DryBulb:0.0} °C", k)] = fmt.Sprintf("Die Tür ist offen, Trockenkugel {Kiln%d.DryBulb:0.0} °C", k)
		out[fmt.Sprintf("Wet bulb {Kiln%d.WetBulb:0.0} °C, dry bulb {Kiln%d.DryBulb:0.0} °C", k, k)] = fmt.Sprintf("Feuchtkugel {Kiln%d.WetBulb:0.0} °C, Trockenkugel {Kiln%d.DryBulb:0.0} °C", k, k)
		for f := 1; f <= 4; f++ {
			out[fmt.Sprintf("Probe %d fell out, or its cable broke", f)] = fmt.Sprintf("Fühler %d herausgefallen, oder sein Kabel gebrochen", f)
			out[fmt.Sprintf("Fan %d tripped", f)] = fmt.Sprintf("Lüfter %d ausgelöst", f)
			out[fmt.Sprintf("Fan %d tripped at {Kiln%d.Fan[%d].Speed:0} %%", f, k, f)] = fmt.Sprintf("Lüfter %d bei {Kiln%d.Fan[%d].Speed:0} %% ausgelöst", f, k, f)
			out[fmt.Sprintf("Moisture probe %d broken", f)], out[fmt.Sprintf("Probe %d gives no value", f)] = fmt.Sprintf("Feuchtefühler %d defekt", f), fmt.Sprintf("Fühler %d gibt keinen Wert", f)
		}
	}
	maps.Copy(out, german)
	return out
}
