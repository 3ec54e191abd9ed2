package host_test

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/host"
	"readyrail/internal/link"
	"readyrail/internal/run"
)

func (s *site) tag(path string) string {
	s.t.Helper()
	id, ok := s.p.Draft().FindPath(path)
	if !ok {
		s.t.Fatalf("there is no %s", path)
	}
	return id
}

func (s *site) quality(program run.Program, path string) value.Quality {
	return s.p.ReadTags(program, []string{s.tag(path)})[0].Value.Quality
}

// reopen ends the host as a person would and opens it again.
func (s *site) reopen() {
	s.h.Close()
	s.open()
	s.p, _ = s.h.Project("larchmoor")
}

func holdAt(value, reason string, minutes int) host.HoldOrder {
	return host.HoldOrder{Value: value, Minutes: minutes, Given: host.Given{Reason: reason}}
}

func TestAHeldTagOutlivesARestartAndEndsInTime(t *testing.T) {
	s := newSite(t)
	ada, tom := s.actors["ada"], s.actors["tom"]
	id := s.tag("Kiln1.DryBulb")
	if err := s.p.HoldTag(ctx, tom, id, holdAt("50", "x", 60)); !errors.As(err, new(*access.Denied)) {
		t.Errorf("an operator held a tag: %v", err)
	}
	for _, c := range []struct {
		value, reason string
		minutes       int
	}{{"50", "", 60}, {"x", "why", 60}, {"50", "why", 0}, {"50", "why", 9000 * 60}} {
		if s.p.HoldTag(ctx, ada, id, holdAt(c.value, c.reason, c.minutes)) == nil {
			t.Errorf("%+v was taken", c)
		}
	}
	if err := s.p.HoldTag(ctx, ada, id, holdAt("50", "probe broken", 60)); err != nil {
		t.Fatal(err)
	}
	if s.show("Kiln1.DryBulb") != "50.0" || s.quality(run.Release, "Kiln1.DryBulb") != value.Held ||
		s.quality(run.Draft, "Kiln1.DryBulb") != value.Held {
		t.Errorf("held: %s", s.show("Kiln1.DryBulb"))
	}
	s.reopen()
	if s.show("Kiln1.DryBulb") != "50.0" || len(s.p.Overrides()) != 1 || s.p.Overrides()[0].Reason != "probe broken" {
		t.Errorf("after a restart: %s, %+v", s.show("Kiln1.DryBulb"), s.p.Overrides())
	}
	if err := s.p.GiveBack(ctx, ada, id, "given back"); err != nil {
		t.Fatal(err)
	}
	s.until("the probe's own value", func() bool { return s.show("Kiln1.DryBulb") != "50.0" && s.show("Kiln1.DryBulb") != "bad" })
	whats := ""
	for _, r := range s.trail() {
		whats = r.What + " " + whats
	}
	if !strings.Contains(whats, audit.Held) || !strings.Contains(whats, audit.Given) {
		t.Errorf("the trail: %s", whats)
	}
}

func TestRetainedValuesOutliveARestart(t *testing.T) {
	s := newSite(t)
	id := s.tag("Plant.ShiftNote")
	if err := s.p.TakeTurn(ctx, s.actors["ada"], []string{"d-kiln"}, "test", time.Hour); err != nil {
		t.Fatal(err)
	}
	// The release is what keeps; internal tags of the draft are its own.
	if _, err := s.p.WriteDraft(ctx, s.actors["ada"], id, "all well", "key-retained-1"); err != nil {
		t.Fatal(err)
	}
	s.p.SetForTest(run.Release, id, value.Str("car greased"))
	s.reopen()
	if got := s.show("Plant.ShiftNote"); got != "car greased" {
		t.Errorf("after a restart: %q", got)
	}
}

func TestAWriteFromTheDraftNeedsTheTurn(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	id := s.tag("Kiln1.DryBulbSP")
	if _, err := s.p.WriteDraft(ctx, ada, id, "60", "key-draft-1"); err == nil ||
		!strings.Contains(err.Error(), "needs the commissioning turn") {
		t.Errorf("without the turn: %v", err)
	}
	if err := s.p.TakeTurn(ctx, s.actors["tom"], []string{"d-kiln"}, "x", time.Hour); !errors.As(err, new(*access.Denied)) {
		t.Errorf("an operator took the turn: %v", err)
	}
	if err := s.p.TakeTurn(ctx, ada, []string{"d-car"}, "loop check", time.Hour); err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.WriteDraft(ctx, ada, id, "60", "key-draft-2"); err == nil || !strings.Contains(err.Error(), "does not name the device") {
		t.Errorf("another device: %v", err)
	}
	if err := s.p.TakeTurn(ctx, ada, []string{"d-kiln"}, "loop check", time.Hour); err != nil {
		t.Fatal(err)
	}
	other := host.Actor{ID: "u-other", Name: "Other", Owner: true}
	if err := s.p.TakeTurn(ctx, other, []string{"d-kiln"}, "me too", time.Hour); err == nil || !strings.Contains(err.Error(), "has the turn") {
		t.Errorf("two had the turn: %v", err)
	}
	if _, err := s.p.WriteDraft(ctx, ada, id, "99", "key-draft-3"); err == nil || !strings.Contains(err.Error(), "limits") {
		t.Errorf("past the limit: %v", err)
	}
	out, err := s.p.WriteDraft(ctx, ada, id, "60.5", "key-draft-4")
	if err != nil || out.Outcome != audit.Confirmed {
		t.Fatalf("%+v, %v", out, err)
	}
	s.until("the release sees what the plant has", func() bool { return s.show("Kiln1.DryBulbSP") == "60.5" })
	if err := s.p.EndTurn(ctx, ada); err != nil || s.p.Turn(ada) != nil {
		t.Errorf("end: %v", err)
	}
}

func TestAProofHoldsForItsDefinition(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	id := s.tag("Kiln1.DryBulb")
	check := func() host.LoopCheck {
		all, err := s.p.LoopChecks(ctx)
		if err != nil {
			t.Fatal(err)
		}
		c, _ := all.Of(s.p.Draft().Tags[id])
		return c
	}
	if err := s.p.Prove(ctx, s.actors["tom"], []string{id}, host.Passed, ""); !errors.As(err, new(*access.Denied)) {
		t.Errorf("an operator proved: %v", err)
	}
	if err := s.p.Prove(ctx, ada, []string{id}, host.Failed, " "); err == nil {
		t.Error("failed without a note")
	}
	s.until("a value", func() bool { return s.quality(run.Draft, "Kiln1.DryBulb") == value.Good })
	if err := s.p.Prove(ctx, ada, []string{id}, host.Passed, ""); err != nil {
		t.Fatal(err)
	}
	if c := check(); c.Result != host.Passed || c.Person != "Ada Birch" || c.Raw == "" || !strings.Contains(c.Seen, "°C") {
		t.Errorf("%+v", c)
	}
	edit := func(pointer, v string) {
		t.Helper()
		if _, err := s.p.Edit(ctx, ada, "x", []project.Op{{Kind: "tag", ID: id, Path: pointer, Value: []byte(v)}}); err != nil {
			t.Fatal(err)
		}
	}
	edit("/description", `"another word"`)
	if c := check(); c.Result != host.Passed {
		t.Errorf("a description is no definition: %+v", c)
	}
	edit("/address", `"input:1"`)
	if c := check(); c.Result != host.Untested || !c.Outdated {
		t.Errorf("another address: %+v", c)
	}
	if _, err := s.p.Undo(ctx, ada); err != nil {
		t.Fatal(err)
	}
	if c := check(); c.Result != host.Passed {
		t.Errorf("undone, it is what was proved: %+v", c)
	}
	edit("/scale/engHigh", `240`)
	if c := check(); !c.Outdated {
		t.Errorf("another scaling: %+v", c)
	}
	var b strings.Builder
	if err := s.p.WriteLoopChecks(ctx, &b); err != nil || !strings.Contains(b.String(), "untested since its definition changed") {
		t.Errorf("%v", err)
	}
}

func TestTryReachesNoDevice(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	if err := s.p.StartTry(ctx, s.actors["tom"], nil); !errors.As(err, new(*access.Denied)) {
		t.Errorf("an operator tried the draft: %v", err)
	}
	if err := s.p.StartTry(ctx, ada, []string{"d-car"}); err != nil {
		t.Fatal(err)
	}
	c := s.cmd("s-chamber1", "Dry bulb set point", "66")
	c.Program = run.Try
	if out, err := s.p.Write(ctx, ada, c); err != nil || out.Outcome != audit.Confirmed {
		t.Fatalf("%+v, %v", out, err)
	}
	id := s.tag("Kiln1.DryBulbSP")
	if v := s.p.ReadTags(run.Try, []string{id})[0].Value; v.Float() != 66 {
		t.Errorf("the stand-in has %v", v.Float())
	}
	c = s.cmd("s-chamber1", "Dry bulb set point", "99")
	c.Program = run.Try
	if _, err := s.p.Write(ctx, ada, c); err == nil || !strings.Contains(err.Error(), "limits") {
		t.Errorf("limits hold in Try too: %v", err)
	}
	c = s.cmd("s-car", "Jog speed", "300")
	c.Program = run.Try
	if _, err := s.p.Write(ctx, ada, c); err == nil || !strings.Contains(err.Error(), "does not write to devices") {
		t.Errorf("a device that is read: %v", err)
	}
	s.until("what is read is real", func() bool {
		return s.p.ReadTags(run.Try, []string{s.tag("Car.VelocitySP")})[0].Value.Float() == 400
	})
	time.Sleep(300 * time.Millisecond)
	if got := s.show("Kiln1.DryBulbSP"); got != "72.0" {
		t.Errorf("Try reached the plant: %s", got)
	}
	for _, r := range s.trail() {
		if r.Path == "Kiln1.DryBulbSP" {
			t.Error("what is tried is in the trail")
		}
	}
	if err := s.p.StopTry(ctx, ada); err != nil || s.p.TryInfo() != nil {
		t.Error(err)
	}
	if _, err := s.p.Write(ctx, ada, c); err == nil {
		t.Error("a run that has ended took a value")
	}
}

func TestHeartbeatBothWays(t *testing.T) {
	s := newSiteWith(t, furnished{meter: true})
	s.until("the controller hears us, and we it", func() bool {
		d, err := s.p.Diagnose(run.Release, "d-kiln", "")
		return err == nil && d.Heartbeat == "heard" && s.show("Plant.SupervisionHeard") == "on"
	})
	s.until("the system tag says that the link is up",
		func() bool { return s.show("Plant.KilnLink") == "on" && s.show("Plant.LinksDown") == "0" })
	s.stop()
	s.until("and notices when it is gone", func() bool {
		return s.show("Plant.KilnLink") == "off"
	})
}

func TestTheClockOfAControllerIsSet(t *testing.T) {
	s := newSite(t)
	ops := []project.Op{}
	for i, part := range []string{"Unix", "Year", "Month", "Hour", "Set"} {
		typ, address := "UINT", fmt.Sprintf("holding:%d", 700+2*i)
		switch part {
		case "Unix":
			typ = "UDINT"
		case "Set":
			typ, address = "BOOL", "coil:700"
		}
		doc := fmt.Sprintf(`{"name":"Set%s","type":%q,"source":"device","device":"d-kiln","address":%q,"access":"readwrite"}`, part, typ, address)
		ops = append(ops, project.Op{Kind: project.KindTag, ID: "clock-" + part, Value: []byte(doc)})
	}
	ops = append(ops, project.Op{Kind: project.KindDevice, ID: "d-kiln", Path: "/clock",
		Value: []byte(`{"unix":"clock-Unix","year":"clock-Year","month":"clock-Month","hour":"clock-Hour","set":"clock-Set","hours":24,"utc":true}`)})
	if _, err := s.p.Edit(ctx, s.actors["ada"], "a clock", ops); err != nil {
		t.Fatal(err)
	}
	before := time.Now().UTC()
	if _, err := s.p.Publish(ctx, s.actors["ada"], host.ReleaseOrder{Note: "with a clock"}); err != nil {
		t.Fatal(err)
	}
	s.until("it is set, the bit last", func() bool { return s.show("SetSet") == "on" })
	if got := s.show("SetYear") + s.show("SetMonth"); got != fmt.Sprint(before.Year())+fmt.Sprint(int(before.Month())) {
		t.Errorf("year and month: %s", got)
	}
	r := s.p.ReadTags(run.Release, []string{"clock-Unix"})[0].Value
	if n := r.Int(); n < before.Unix() || n > time.Now().Unix() {
		t.Errorf("%d, want about %d", n, before.Unix())
	}
}

func TestAButtonThatAsksAndWaits(t *testing.T) {
	s := newSite(t)
	out, err := s.p.Write(ctx, s.actors["tom"], s.cmd("s-burner", "Lamp test", ""))
	if err != nil || out.Outcome != audit.Confirmed {
		t.Errorf("the lamp test: %+v, %v", out, err)
	}
	s.until("the answer is there", func() bool { return s.show("Kiln1.LampTestDone") == "on" })
	// The same with an answer that never comes.
	id := s.tag("Kiln1.Burner.Lockout")
	screen := s.p.Draft().Screens["s-burner"]
	for eid := range screen.Elements {
		if project.ElementName(screen, eid) == "Lamp test" {
			ops := []project.Op{{Kind: "screen", ID: "s-burner", Path: "/elements/" + eid + "/props/answer", Value: []byte(`"` + id + `"`)},
				{Kind: "screen", ID: "s-burner", Path: "/elements/" + eid + "/props/within", Value: []byte(`0.3`)}}
			if _, err := s.p.Edit(ctx, s.actors["ada"], "x", ops); err != nil {
				t.Fatal(err)
			}
		}
	}
	if _, err := s.p.Publish(ctx, s.actors["ada"], host.ReleaseOrder{Note: "no answer"}); err != nil {
		t.Fatal(err)
	}
	out, err = s.p.Write(ctx, s.actors["tom"], s.cmd("s-burner", "Lamp test", ""))
	if err != nil || out.Outcome != audit.Unanswered {
		t.Errorf("without an answer: %+v, %v", out, err)
	}
}

func TestTheVaultKeepsItsSecrets(t *testing.T) {
	s := newSite(t)
	ada, tom := s.actors["ada"], s.actors["tom"]
	entry := host.NewVaultEntry{Name: "broker", Kind: host.Password, User: "station", Password: "pine-cone",
		Roles: []string{"Engineer"}, Hosts: []string{"127.0.0.1", "10.1.0.0/16"}}
	if err := s.h.PutVault(ctx, tom, entry); err == nil {
		t.Error("an operator put a credential")
	}
	for _, bad := range []host.NewVaultEntry{{Name: "", Kind: host.Password, User: "u", Password: "p"},
		{Name: "x", Kind: host.Password, User: "u"}, {Name: "x", Kind: host.Certificate, Certificate: "no", Key: "pem"},
		{Name: "x", Kind: host.Password, User: "u", Password: "p"},
		{Name: "x", Kind: host.Password, User: "u", Password: "p", Hosts: []string{"a/b"}}} {
		if s.h.PutVault(ctx, ada, bad) == nil {
			t.Errorf("%+v was taken", bad)
		}
	}
	if err := s.h.PutVault(ctx, ada, entry); err != nil {
		t.Fatal(err)
	}
	if err := s.p.MayUse(ctx, tom, "broker", "127.0.0.1"); err == nil || !strings.Contains(err.Error(), "Engineer") {
		t.Errorf("a role that may not: %v", err)
	}
	if err := s.p.MayUse(ctx, ada, "Broker", "10.1.2.3"); err != nil {
		t.Error(err)
	}
	if err := s.p.MayUse(ctx, ada, "broker", "10.2.0.1"); err == nil || !strings.Contains(err.Error(), "may not go to 10.2.0.1") {
		t.Errorf("a host that it may not go to: %v", err)
	}
	if list, err := s.h.Vault(ctx, tom); err != nil || len(list) != 0 {
		t.Errorf("who may use none sees %+v, %v", list, err)
	}
	list, err := s.h.Vault(ctx, ada)
	if err != nil || len(list) != 1 || list[0].User != "station" || list[0].Person != "Ada Birch" {
		t.Errorf("%+v, %v", list, err)
	}
	out, err := s.h.ExportVault(ctx, ada, "two old larches")
	if err != nil || strings.Contains(string(out), "pine-cone") || !strings.HasPrefix(string(out), "age-encryption.org/v1\n-> scrypt") {
		t.Errorf("export: %v", err)
	}
	if _, err := s.h.ExportVault(ctx, ada, "short"); err == nil {
		t.Error("a short passphrase was taken")
	}
	if err := s.h.DropVault(ctx, ada, "broker"); err != nil {
		t.Fatal(err)
	}
	if _, err := s.h.ImportVault(ctx, ada, out, "the wrong one"); err == nil || !strings.Contains(err.Error(), "passphrase is not right") {
		t.Errorf("a wrong passphrase: %v", err)
	}
	if _, err := s.h.ImportVault(ctx, ada, []byte("no age file"), "two old larches"); err == nil {
		t.Error("anything was imported")
	}
	if n, err := s.h.ImportVault(ctx, ada, out, "two old larches"); err != nil || n != 1 {
		t.Errorf("import: %d, %v", n, err)
	}
	data, _ := os.ReadFile(filepath.Join(s.dir, "vault.key"))
	if info, err := os.Stat(filepath.Join(s.dir, "vault.key")); err != nil || info.Mode().Perm() != 0o600 ||
		!strings.HasPrefix(string(data), "AGE-SECRET-KEY-") {
		t.Errorf("the key file: %v", err)
	}
	os.Chmod(filepath.Join(s.dir, "vault.key"), 0o644)
	s.h.Close()
	if _, err := host.Open(s.dir, quiet, host.Options{}); err == nil || !strings.Contains(err.Error(), "mode 600") {
		t.Errorf("a key that others can read: %v", err)
	}
	os.Chmod(filepath.Join(s.dir, "vault.key"), 0o600)
	s.open()
}

func TestTheAllowList(t *testing.T) {
	s := newSite(t)
	d := *s.p.Draft().Devices["d-kiln"]
	if _, err := s.h.TestDevice(ctx, d); err != nil {
		t.Errorf("loopback is on the list of itself: %v", err)
	}
	d.Host = "203.0.113.9"
	if _, err := s.h.TestDevice(ctx, d); err == nil || !strings.Contains(err.Error(), "--device-host") {
		t.Errorf("a public address: %v", err)
	}
	s.h.Close()
	h, err := host.Open(s.dir, quiet, host.Options{Devices: []string{"10.1.0.0/16", "plc.example"}})
	if err != nil {
		t.Fatal(err)
	}
	s.h = h
	s.p, _ = h.Project("larchmoor")
	if _, err := s.h.TestDevice(ctx, *s.p.Draft().Devices["d-kiln"]); err == nil {
		t.Error("loopback is not on this list")
	}
	s.until("the link says why it stays down", func() bool {
		st := s.p.Links(run.Draft)
		return st[0].State == link.Down && strings.Contains(st[0].Problem.String(), "not on its list")
	})
	if _, err := host.ParseAllow([]string{"http://x"}); err == nil {
		t.Error("a URL is no host")
	}
}

func TestDiagnosisAndProbe(t *testing.T) {
	s := newSiteWith(t, furnished{meter: true})
	s.until("some rounds", func() bool {
		d, err := s.p.Diagnose(run.Draft, "d-kiln", "")
		return err == nil && len(d.Polls) == 2 && d.Polls[0].Kept > 3 && d.Resting > 0
	})
	d, _ := s.p.Diagnose(run.Draft, "d-kiln", "")
	report := d.Report(time.Now())
	for _, want := range []string{"KilnPLC", "modbus-tcp", "Poll       every 250 ms", "holding:0 to", "At rest"} {
		if !strings.Contains(report, want) {
			t.Errorf("the report has no %q:\n%s", want, report)
		}
	}
	regs, _, err := s.p.Probe(ctx, "d-kiln", "holding", 0, 5)
	if err != nil || regs[0].Unsigned != 720 || regs[1].Unsigned != 595 {
		t.Errorf("%+v, %v", regs, err)
	}
	if _, _, err := s.p.Probe(ctx, "d-kiln", "holding", 65530, 20); err == nil {
		t.Error("past the end")
	}
	items, err := s.p.Browse(ctx, "d-meter", "ns=1;s=Meter")
	if err != nil || len(items) != 6 {
		t.Errorf("%+v, %v", items, err)
	}
	heard, err := s.p.Hear(ctx, "d-weather", "larchmoor/#", time.Second)
	if err != nil || len(heard) != 2 {
		t.Errorf("%+v, %v", heard, err)
	}
	spans, err := s.p.AddressMap("d-kiln")
	uses := map[string]int{}
	for _, sp := range spans {
		uses[sp.Use]++
	}
	if err != nil || uses["used"] == 0 || uses["free"] == 0 || uses["overlapping"] != 0 {
		t.Errorf("%v, %v", uses, err)
	}
}

func TestWatchSetsArePersonal(t *testing.T) {
	s := newSite(t)
	ada, tom := s.actors["ada"], s.actors["tom"]
	if err := s.p.PutWatchSet(ctx, ada, host.WatchSet{Name: "burner", Tags: []string{"a", "b"}}); err != nil {
		t.Fatal(err)
	}
	if l, _ := s.p.WatchSets(ctx, ada); len(l) != 1 || len(l[0].Tags) != 2 {
		t.Errorf("%+v", l)
	}
	if l, _ := s.p.WatchSets(ctx, tom); len(l) != 0 {
		t.Errorf("another's set: %+v", l)
	}
	if err := s.p.DropWatchSet(ctx, ada, "Burner"); err != nil {
		t.Error(err)
	}
	if l, _ := s.p.WatchSets(ctx, ada); len(l) != 0 {
		t.Errorf("deleted: %+v", l)
	}
}

func TestTagsThatNobodyNeedsAreNotRead(t *testing.T) {
	s := newSite(t)
	s.until("currents rest", func() bool { return s.quality(run.Draft, "Kiln2.Fan[1].Current") == value.BadResting })
	w := s.p.WatchTags(run.Draft, []string{s.tag("Kiln2.Fan[1].Current")})
	s.until("watched, it is read", func() bool { return s.quality(run.Draft, "Kiln2.Fan[1].Current") == value.Good })
	w.Close()
	s.until("and rests again", func() bool { return s.quality(run.Draft, "Kiln2.Fan[1].Current") == value.BadResting })
}
