package demo

import (
	"testing"

	"readyrail/internal/plant"
)

func TestTheDemoHasNoErrorsAndNoWarnings(t *testing.T) {
	p, err := Project(plant.Addresses{Modbus: "127.0.0.1:5020", OPCUA: "127.0.0.1:4850", MQTT: "127.0.0.1:1893"})
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range p.Findings() {
		if f.Severity != "note" {
			t.Errorf("%s at %s %s: %s", f.Rule, f.Name, f.Place, f.Render("en").Says)
		}
	}
	if len(p.Tags) < 250 || len(p.Screens) != 11 {
		t.Errorf("%d tags, %d screens", len(p.Tags), len(p.Screens))
	}
}

// Every text of the demo that has a German wording is still there, and every
// text has one.
func TestTheDemosAlarmsSpeakGerman(t *testing.T) {
	p, err := Project(plant.Addresses{Modbus: "127.0.0.1:5020", OPCUA: "127.0.0.1:4850", MQTT: "127.0.0.1:1893"})
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range p.Sheet("de") {
		switch {
		case r.Stale:
			t.Errorf("%q is nowhere", r.Text)
		case r.Word == "":
			t.Errorf("%q has no German: %s", r.Text, r.Where)
		}
	}
	for _, id := range p.SortedAlarms() {
		if a := p.Alarms[id]; p.Word("de", a.Name) == a.Name {
			t.Errorf("%q has no German", a.Name)
		}
	}
}
