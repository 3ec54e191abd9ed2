package demo

import (
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/value"
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
	if len(p.Tags) < 250 || len(p.Screens) != 15 {
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
	// On a screen that is given equipment the wordings hold too.
	bound := screen.Bind(p.Screens["s-chamber1"], p, screen.View{Language: "de", Zone: time.UTC})
	heading := ""
	for i, at := range bound.Scene.Bindings {
		if at.Prop == "text" {
			said, _ := bound.Append(nil, i, &formula.Frame{Slots: make([]value.Value, len(bound.Inputs))})
			heading += string(said)
		}
	}
	if !strings.Contains(heading, "Schritt") || strings.Contains(heading, "step") {
		t.Errorf("the chamber's heading: %s", heading)
	}
	for _, id := range p.SortedAlarms() {
		if a := p.Alarms[id]; p.Word("de", a.Name) == a.Name {
			t.Errorf("%q has no German", a.Name)
		}
	}
}
