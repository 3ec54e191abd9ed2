package host_test

import (
	"strings"
	"testing"

	"readyrail/internal/core/device"
	"readyrail/internal/host"
	"readyrail/internal/run"
)

func TestControllersTellHowTheyAre(t *testing.T) {
	s := newSiteWith(t, furnished{meter: true})
	named := func(dev, key, language string) host.ConditionInfo {
		d, err := s.p.Diagnose(run.Release, dev, language)
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range d.Conditions {
			if c.Key == key {
				return c
			}
		}
		t.Fatalf("%s has no %s: %+v", dev, key, d.Conditions)
		return host.ConditionInfo{}
	}
	s.until("the program runs", func() bool { return named("d-kiln", "Program", "").Level == device.LevelGood })
	if c := named("d-kiln", "Program", "de"); c.Name != "Programm" || c.Text != "Das Programm läuft" || c.Code != "0" ||
		c.Tag != "Plant.ProgramState" || len(c.Codes) != 2 || c.Codes[0].Text != c.Text {
		t.Errorf("%+v", c)
	}
	hold := func(v string) {
		t.Helper()
		if err := s.p.HoldTag(ctx, s.actors["ada"], s.tag("Plant.ProgramState"), holdAt(v, "test", 60)); err != nil {
			t.Fatal(err)
		}
	}
	hold("3")
	if c := named("d-kiln", "Program", ""); c.Level != device.LevelAttention || !c.Listed || !strings.HasPrefix(c.Text, "A chamber stands") {
		t.Errorf("%+v", c)
	}
	hold("99")
	if c := named("d-kiln", "Program", ""); c.Level != device.LevelAttention || c.Listed || c.Text != "" {
		t.Errorf("a code that is not in the list: %+v", c)
	}
	s.until("the server of the meter tells of itself",
		func() bool { return named("d-meter", device.ServerName, "").Level == device.LevelGood })
	facts := map[string]string{}
	for _, f := range named("d-meter", device.ServerName, "").Facts {
		facts[f.Name] = f.Text
	}
	if facts["product"] == "" || facts["started"] == "" {
		t.Errorf("%v", facts)
	}
	s.stop()
	s.until("nobody knows when the link is gone", func() bool {
		c := named("d-meter", device.ServerName, "")
		return c.Level == device.LevelUnknown && !c.Reason.IsZero() && named("d-kiln", "Network", "").Level == device.LevelUnknown
	})
}
