package device

import (
	"strings"
	"testing"

	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

func TestParseAddress(t *testing.T) {
	for _, c := range []struct{ in, want, ref, bad string }{
		{in: "coil:7", want: "coil:7", ref: "000008"}, {in: "Discrete:3", want: "discrete:3", ref: "100004"},
		{in: " input:12 ", want: "input:12", ref: "300013"}, {in: "holding:40", want: "holding:40", ref: "400041"},
		{in: "holding:40.3", want: "holding:40.3", ref: "400041.3"}, {in: "holding:65535", want: "holding:65535", ref: "465536"},
		{in: "400041", want: "holding:40", ref: "400041"}, {in: "30013", want: "input:12", ref: "300013"},
		{in: "00001", want: "coil:0", ref: "000001"}, {in: "465536", want: "holding:65535", ref: "465536"},
		{in: "holding:65536", bad: "0 to 65535"}, {in: "holding:-1", bad: "0 to 65535"}, {in: "holding:4.16", bad: "bits 0 to 15"},
		{in: "coil:4.1", bad: "bit already"}, {in: "register:4", bad: "not a space"}, {in: "400000", bad: "write space:number"},
		{in: "40", bad: "write space:number"}, {in: "200001", bad: "write space:number"}, {in: "", bad: "write space:number"},
		{in: "holding:", bad: "0 to 65535"}, {in: "holding:0x10", bad: "0 to 65535"},
	} {
		a, err := ParseAddress(c.in)
		if c.bad != "" {
			if err == nil || !strings.Contains(err.Error(), c.bad) {
				t.Errorf("%q: %v; want a refusal with %q", c.in, err, c.bad)
			}
			continue
		}
		if err != nil || a.String() != c.want || a.Reference() != c.ref {
			t.Errorf("%q: %v, %s, %v; want %s, %s", c.in, a, a.Reference(), err, c.want, c.ref)
		}
	}
}

func FuzzAddress(f *testing.F) {
	for _, s := range []string{"holding:40.3", "400041", "coil:", ":", "input:99999"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		a, err := ParseAddress(s)
		if err != nil {
			return
		}
		b, err := ParseAddress(a.String())
		if err != nil || a != b {
			t.Errorf("%q is %v, which reads back as %v, %v", s, a, b, err)
		}
	})
}

func TestFit(t *testing.T) {
	for _, c := range []struct{ addr, typ, bad string }{
		{"coil:1", "BOOL", ""}, {"coil:1", "INT", "only a BOOL fits"}, {"holding:1", "BOOL", "needs its bit"},
		{"holding:1.2", "BOOL", ""}, {"holding:1.2", "INT", "one bit"}, {"holding:65535", "INT", ""},
		{"holding:65535", "REAL", "past the end"}, {"holding:65532", "LREAL", ""}, {"holding:65533", "LREAL", "past the end"},
		{"holding:10", "STRING(16)", ""}, {"holding:65530", "STRING(16)", "takes 8 registers"},
	} {
		a, _ := ParseAddress(c.addr)
		typ, _ := value.ParseType(c.typ)
		err := a.Fit(typ)
		if (c.bad == "") != (err == nil) || (err != nil && !strings.Contains(err.Error(), c.bad)) {
			t.Errorf("%s at %s: %v; want %q", c.typ, c.addr, err, c.bad)
		}
	}
}

func TestCheckTagAccess(t *testing.T) {
	d := New()
	tg := &tag.Tag{Name: "A", Type: value.Type{Kind: value.INT}, Source: tag.Device, Address: "input:4", Access: tag.ReadWrite}
	if field, err := d.CheckTag(tg); field != "access" || err == nil {
		t.Errorf("a written input register: %q, %v", field, err)
	}
	tg.Address = "holding:4"
	if _, err := d.CheckTag(tg); err != nil {
		t.Error(err)
	}
}

func TestDeviceCheckNamesTheField(t *testing.T) {
	for field, mend := range map[string]func(*Device){
		"":         func(*Device) {},
		"name":     func(d *Device) { d.Name = "Kiln PLC" },
		"host":     func(d *Device) { d.Host = "http://x" },
		"port":     func(d *Device) { d.Port = 70000 },
		"unit":     func(d *Device) { d.Unit = 256 },
		"order":    func(d *Device) { d.Order = "ABBA" },
		"maxBlock": func(d *Device) { d.MaxBlock = 126 },
		"timeout":  func(d *Device) { d.Timeout = 1 },
	} {
		d := New()
		d.Name = "KilnPLC"
		mend(&d)
		if got, err := d.Check(); got != field || (err == nil) != (field == "") {
			t.Errorf("want %q, got %q, %v", field, got, err)
		}
	}
}
