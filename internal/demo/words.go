package demo

import (
	"fmt"
	"maps"

	"readyrail/internal/plant"
)

// german are the wordings of the demo's screens in German.
var german = map[string]string{
	"Larchmoor drying yard": "Holztrocknung Larchmoor", "Larchmoor yard": "Platz Larchmoor", "Outside": "Außen", "Wind": "Wind", "Power": "Leistung", "Link": "Verbindung", "Rail car": "Schienenwagen",
	"Position": "Position", "Speed": "Geschwindigkeit", "Open the rail car": "Schienenwagen öffnen", "Dry bulb": "Trockenkugel", "Wet bulb": "Feuchtkugel", "Moisture": "Feuchte", "Open {K}": "{K} öffnen",
	"Dry bulb, 10 minutes": "Trockenkugel, 10 Minuten", "Yard": "Platz", "Bays": "Fächer", "Yard bays": "Fächer des Platzes", "Energy": "Energie", "Energy and weather": "Energie und Wetter", "Weather": "Wetter", "Meter": "Zähler",
	"Humidity": "Feuchte der Luft", "On the weighbridge": "Auf der Waage", "Weight is steady": "Gewicht steht", "Dry bulb set point": "Sollwert Trockenkugel", "Wet bulb set point": "Sollwert Feuchtkugel", "Air set point": "Sollwert Luft",
	"Start": "Start", "Stop and cool": "Stopp und kühlen", "Reset": "Zurücksetzen", "Jog": "Tippen", "Motion": "Bewegung", "Hold to go back": "Halten: zurück", "Hold to go forward": "Halten: vor", "Set zero here": "Hier nullen",
	"Heat called for": "Wärme gefordert", "Purge fan": "Spülgebläse", "Purge complete": "Gespült", "Spark": "Zündfunke", "Gas valve": "Gasventil", "Flame proven": "Flamme erkannt", "Locked out": "Verriegelt",
	"Loading cycle": "Einlagern", "Unloading cycle": "Auslagern", "Bays filled": "Fächer belegt", "Current": "Strom", "Tripped": "Ausgelöst",
}

// germanAlarms are the wordings of the alarms: their names, their messages and
// what to do.
func germanAlarms() map[string]string {
	out := map[string]string{
		"Alarms": "Alarme", "Alarms of the yard": "Alarme des Platzes", "Standing": "Anstehend", "Set aside": "Zurückgestellt",
		"Dry bulb high": "Trockenkugel hoch", "Dry bulb high-high": "Trockenkugel sehr hoch", "Dry bulb changes too fast": "Trockenkugel ändert sich zu schnell", "Depression too small": "Psychrometrische Differenz zu klein",
		"Dry bulb off its set point": "Trockenkugel weg vom Sollwert", "Moisture spread too large": "Feuchten zu verschieden", "Door open while heating": "Tür offen beim Heizen", "Burner lockout": "Brenner verriegelt", "Burner locked out": "Brenner verriegelt",
		"Emergency stop": "Not-Halt", "Emergency stop of the car pressed": "Not-Halt des Wagens gedrückt", "Link to the kilns lost": "Verbindung zu den Kammern verloren", "The kilns' controller does not answer": "Die Steuerung der Kammern antwortet nicht",
		"Chamber at {value:0.0} °C, above {limit:0}": "Kammer bei {value:0.0} °C, über {limit:0}", "{value:0.0} °C, more than {limit:0} K within a minute": "{value:0.0} °C, mehr als {limit:0} K in einer Minute", "{value:0.0} °C, set point {target:0.0} °C": "{value:0.0} °C, Sollwert {target:0.0} °C",
		"Overload, or a phase lost": "Überlast, oder eine Phase fehlt", "Air falls, the load dries unevenly": "Weniger Luft, die Ladung trocknet ungleich", "Look at the breaker; reset once": "Schutzschalter ansehen; einmal zurücksetzen",
		"Shut the door": "Tür schließen", "Look at gas and spark; reset the burner": "Gas und Zündung ansehen; Brenner zurücksetzen", "Close the heat valve by hand; open the vent": "Heizventil von Hand schließen; Klappe öffnen", "Go and look; reset at the car": "Hingehen und nachsehen; am Wagen zurücksetzen",
	}
	for k := 1; k <= plant.Chambers; k++ {
		out[fmt.Sprintf("Chamber at {value:0.0} °C, limit {limit:0}; vent {Kiln%d.VentPosition:0} %%", k)] = fmt.Sprintf("Kammer bei {value:0.0} °C, Grenze {limit:0}; Klappe {Kiln%d.VentPosition:0} %%", k)
		out[fmt.Sprintf("The door is open, dry bulb {Kiln%d.DryBulb:0.0} °C", k)] = fmt.Sprintf("Die Tür ist offen, Trockenkugel {Kiln%d.DryBulb:0.0} °C", k)
		for f := 1; f <= 4; f++ {
			out[fmt.Sprintf("Fan %d tripped", f)] = fmt.Sprintf("Lüfter %d ausgelöst", f)
			out[fmt.Sprintf("Fan %d tripped at {Kiln%d.Fan[%d].Speed:0} %%", f, k, f)] = fmt.Sprintf("Lüfter %d bei {Kiln%d.Fan[%d].Speed:0} %% ausgelöst", f, k, f)
			out[fmt.Sprintf("Moisture probe %d broken", f)], out[fmt.Sprintf("Probe %d gives no value", f)] = fmt.Sprintf("Feuchtefühler %d defekt", f), fmt.Sprintf("Fühler %d gibt keinen Wert", f)
		}
	}
	maps.Copy(out, german)
	return out
}
