package device

import (
	"strings"
	"testing"

	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

func TestNodeAddresses(t *testing.T) {
	for _, good := range []string{"ns=2;s=Meter.Power", "i=2258", "ns=3;i=1042|Batch.Weights[2]", "ns=2;s=A|[0]",
		"ns=1;g=09087e75-8e5e-499b-954f-f2a9603db28a"} {
		if _, err := ParseNode(good); err != nil {
			t.Errorf("%s: %v", good, err)
		}
	}
	for _, bad := range []string{"", "Power", "ns=x;s=A", "ns=2;i=abc", "ns=2;s=A|", "ns=2;s=A|[x]", "ns=2;s=A|.B", "ns=2;s=A|B..C",
		"ns=70000;i=1"} {
		if _, err := ParseNode(bad); err == nil {
			t.Errorf("%q was taken", bad)
		}
	}
}

func TestTopics(t *testing.T) {
	for _, c := range []struct {
		filter, topic string
		want          bool
	}{
		{"yard/weather", "yard/weather", true}, {"yard/+", "yard/weather", true}, {"yard/+", "yard/a/b", false}, {"yard/#", "yard/a/b", true},
		{"yard/#", "yard", true},
		{"#", "yard", true}, {"#", "$SYS/x", false}, {"+/weather", "yard/weather", true}, {"yard", "yard/a", false}, {"+", "/a", false},
		{"/+", "/a", true},
	} {
		if got := (Topic{Name: c.filter}).Match(c.topic); got != c.want {
			t.Errorf("%s takes %s: %v", c.filter, c.topic, got)
		}
	}
	for _, bad := range []string{"", "a/b+/c", "a/#/b", "a|", "a|x..y"} {
		if _, err := ParseTopic(bad); err == nil {
			t.Errorf("%q was taken", bad)
		}
	}
	d := NewOf(MQTT)
	d.Name = "W"
	tg := &tag.Tag{Name: "A", Type: value.Type{Kind: value.REAL}, Source: tag.Device, Address: "yard/+/t", Access: tag.ReadWrite}
	if field, err := d.CheckTag(tg); field != "access" || err == nil {
		t.Errorf("a wildcard was writable: %s, %v", field, err)
	}
	tg.WriteAddress = "yard/1/set"
	if _, err := d.CheckTag(tg); err != nil {
		t.Error(err)
	}
}

func TestLocatedVariables(t *testing.T) {
	d := New()
	typ := func(s string) value.Type { k, _ := value.ParseType(s); return k }
	for _, c := range []struct{ text, typ, want string }{
		{"%IW3", "INT", "input:3"}, {"%QX2.5", "BOOL", "coil:21"}, {"%IX7", "BOOL", "discrete:7"}, {"%MW12", "INT", "holding:12"},
		{"%MD6", "REAL", "holding:12"},
		{"%ML2", "LREAL", "holding:8"}, {"%MX3.4", "BOOL", "holding:1.12"}, {"%MX4.15", "BOOL", "holding:4.15"}, {"MB6", "USINT", "holding:3"},
		{"%MB7", "USINT", "!odd byte"}, {"%IX7", "INT", "!only a BOOL"}, {"%MW99999", "INT", "!last one is 65535"},
		{"%FOO", "INT", "!not a located"},
	} {
		got, err := d.Located(c.text, typ(c.typ))
		if says, bad := strings.CutPrefix(c.want, "!"); bad {
			if err == nil || !strings.Contains(err.Error(), says) {
				t.Errorf("%s: %q, %v; want %q", c.text, got, err, says)
			}
		} else if err != nil || got != c.want {
			t.Errorf("%s as %s: %q, %v; want %s", c.text, c.typ, got, err, c.want)
		}
	}
	d.Locate = []Location{{"MW", "holding", 100}}
	if got, _ := d.Located("%MW12", typ("INT")); got != "holding:112" {
		t.Error(got)
	}
	if _, err := d.Located("%IW1", typ("INT")); err == nil || !strings.Contains(err.Error(), "no line for %IW") {
		t.Error(err)
	}
}

func TestWhatADeviceRefuses(t *testing.T) {
	for want, mend := range map[string]func(*Device){
		"groups":    func(d *Device) { d.Groups = []Group{{"a", "fast", 100, false}, {"b", "Fast", 200, false}} },
		"heartbeat": func(d *Device) { d.Heartbeat = &Heartbeat{Out: "t", Every: 5} },
		"clock":     func(d *Device) { d.Clock = &Clock{Hours: 0} },
		"locate":    func(d *Device) { d.Locate = []Location{{"MW", "coil", 0}} },
		"inFlight":  func(d *Device) { d.InFlight = 99 },
		"bitWrite":  func(d *Device) { d.BitWrite = "x" },
		"conditions": func(d *Device) {
			d.Conditions = []Condition{{Name: "Program", Tag: "t", Codes: []Code{{"3", LevelFault, ""}, {"3", LevelGood, ""}}}}
		},
		"protocol": func(d *Device) { d.Protocol = "x" },
		"mode":     func(d *Device) { *d = NewOf(OPCUA); d.Name = "M"; d.Mode = "sign" },
		"security": func(d *Device) { *d = NewOf(OPCUA); d.Name = "M"; d.Security = "Rot13" },
		"qos":      func(d *Device) { *d = NewOf(MQTT); d.Name = "M"; d.QoS = 3 },
		"will":     func(d *Device) { *d = NewOf(MQTT); d.Name = "M"; d.Will = "a/+" },
	} {
		d := New()
		d.Name = "PLC"
		mend(&d)
		if got, err := d.Check(); got != want || err == nil {
			t.Errorf("want %s, got %s, %v", want, got, err)
		}
	}
	for _, p := range Protocols {
		d := NewOf(p)
		d.Name = "D"
		if field, err := d.Check(); err != nil {
			t.Errorf("%s as it is offered: %s %v", p, field, err)
		}
	}
	d := New()
	tg := &tag.Tag{Name: "A", Type: value.Type{Kind: value.INT}, Source: tag.Device, Address: "input:4", Access: tag.ReadWrite,
		WriteAddress: "holding:9"}
	if _, err := d.CheckTag(tg); err != nil {
		t.Errorf("read here, written there: %v", err)
	}
	tg.WriteAddress = "input:9"
	if field, _ := d.CheckTag(tg); field != "writeAddress" {
		t.Errorf("written to an input register: %s", field)
	}
}

func FuzzAddressesOfEveryKind(f *testing.F) {
	for _, s := range []string{"ns=2;s=A|B[1]", "a/+/c|x.y[0]", "%MX3.4", "|", "[", "ns="} {
		f.Add(s)
	}
	d := New()
	f.Fuzz(func(t *testing.T, s string) {
		ParseNode(s)
		ParseTopic(s)
		d.Located(s, value.Type{Kind: value.BOOL})
	})
}
