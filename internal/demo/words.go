package demo

// german are the wordings of the demo's screens in German.
var german = map[string]string{
	"Larchmoor drying yard": "Holztrocknung Larchmoor", "Larchmoor yard": "Platz Larchmoor", "Outside": "Außen", "Wind": "Wind", "Power": "Leistung", "Link": "Verbindung", "Rail car": "Schienenwagen",
	"Position": "Position", "Speed": "Geschwindigkeit", "Open the rail car": "Schienenwagen öffnen", "Dry bulb": "Trockenkugel", "Wet bulb": "Feuchtkugel", "Moisture": "Feuchte", "Open {K}": "{K} öffnen",
	"Dry bulb, 10 minutes": "Trockenkugel, 10 Minuten", "Yard": "Platz", "Bays": "Fächer", "Yard bays": "Fächer des Platzes", "Energy": "Energie", "Energy and weather": "Energie und Wetter", "Weather": "Wetter", "Meter": "Zähler",
	"Humidity": "Feuchte der Luft", "On the weighbridge": "Auf der Waage", "Weight is steady": "Gewicht steht", "Dry bulb set point": "Sollwert Trockenkugel", "Wet bulb set point": "Sollwert Feuchtkugel", "Air set point": "Sollwert Luft",
	"Start": "Start", "Stop and cool": "Stopp und kühlen", "Reset": "Zurücksetzen", "Jog": "Tippen", "Motion": "Bewegung", "Hold to go back": "Halten: zurück", "Hold to go forward": "Halten: vor", "Set zero here": "Hier nullen",
	"Heat called for": "Wärme gefordert", "Purge fan": "Spülgebläse", "Purge complete": "Gespült", "Spark": "Zündfunke", "Gas valve": "Gasventil", "Flame proven": "Flamme erkannt", "Locked out": "Verriegelt",
	"Loading cycle": "Einlagern", "Unloading cycle": "Auslagern", "Bays filled": "Fächer belegt", "Speed, %": "Drehzahl, %", "Current": "Strom", "Tripped": "Ausgelöst",
}
