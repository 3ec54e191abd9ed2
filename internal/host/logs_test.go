package host_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/host"
	"readyrail/internal/plant"
	"readyrail/internal/store"
)

// TestALogIsInTheHandOfWhoMay: by right from the Workshop, and by a button of the
// Desk; each stands in the trail, and system tags tell of it.
func TestALogIsInTheHandOfWhoMay(t *testing.T) {
	s := newSite(t)
	tom, ada := s.actors["tom"], s.actors["ada"]
	s.edit(project.Op{Kind: project.KindTag, ID: "count",
		Value: json.RawMessage(`{"name":"LogCount","type":"LINT","source":"system","system":"log.count","log":"l-lockout"}`)})
	s.release(map[string]screen.Element{
		"take": {Kind: "button", Name: "Keep", W: 100, H: 60, Props: map[string]any{"action": "log", "log": "l-lockout", "logDoes": "take"}},
		"mark": {Kind: "button", Name: "Mark", W: 100, H: 60, Props: map[string]any{"action": "log", "log": "l-lockout", "logDoes": "mark",
			"mark": "at {Car.VelocitySP:0} mm/s"}},
		"clear": {Kind: "button", Name: "Clear", W: 100, H: 60, Props: map[string]any{"action": "log", "log": "l-lockout",
			"logDoes": "clear", "reason": "required"}},
	})
	if err := s.p.ActOnLog(ctx, tom, "l-lockout", "stop", ""); err == nil {
		t.Error("an operator stopped a log from the Workshop")
	}
	s.until("the log's tags are read", func() bool {
		out, err := s.p.Write(ctx, tom, press("take", ""))
		return err == nil && out.New == "At a lockout: values taken" && s.show("LogCount") != "0"
	})
	if r := s.trail()[0]; r.What != audit.Event || r.Name != "Tom Alder" || r.New != "At a lockout: values taken" {
		t.Errorf("%+v", r)
	}
	if _, err := s.p.Write(ctx, tom, press("mark", "")); err != nil {
		t.Fatal(err)
	}
	spans, err := s.p.LogSpans(ctx, tom, "l-lockout", "", "mm/s", 0)
	if err != nil || len(spans) != 1 || !spans[0].Mark || spans[0].Person != "Tom Alder" {
		t.Fatal(spans, err)
	}
	if err := s.p.NoteLogSpan(ctx, tom, "l-lockout", spans[0].Seq, "as it should"); err != nil {
		t.Error(err)
	}
	clear := press("clear", "")
	clear.Reason = "it is enough"
	if _, err := s.p.Write(ctx, tom, clear); err == nil || !strings.Contains(err.Error(), "export it first") {
		t.Errorf("cleared what is nowhere else: %v", err)
	}

	if err := s.p.ActOnLog(ctx, ada, "l-lockout", "stop", ""); err != nil {
		t.Fatal(err)
	}
	if r := s.trail()[0]; r.What != audit.LogSet || r.Path != "At a lockout" || r.New != "stopped" {
		t.Errorf("%+v", r)
	}
	if _, err := s.p.Write(ctx, tom, press("take", "")); err == nil || !strings.Contains(err.Error(), "not at work") {
		t.Errorf("a stopped log took values: %v", err)
	}
	// What it has is read like what the recorder has.
	now := time.Now()
	got, err := s.p.Trend(ctx, tom, []string{s.id("Kiln1.DryBulb")}, host.Period{From: now.Add(-time.Minute), To: now, Log: "l-lockout"}, 100)
	if err != nil || len(got.Lines) != 1 || got.Lines[0].Pen == nil {
		t.Errorf("%+v %v", got, err)
	}
	// Deleted in the draft it is at work yet, and in the list.
	if _, err := s.p.Edit(ctx, ada, "x", []project.Op{{Kind: project.KindLog, ID: "l-lockout"}}); err != nil {
		t.Fatal(err)
	}
	if list, err := s.p.Logs(ctx, ada, false); err != nil || len(list) != 3 || list[2].Def != nil || list[2].State != "off" {
		t.Errorf("%+v %v", list, err)
	}
	list, err := s.p.Logs(ctx, tom, true)
	if err != nil || len(list) != 3 {
		t.Fatal(list, err)
	}
	for _, l := range list {
		if l.ID == "l-lockout" && (l.State != "off" || l.Person != "Ada Birch" || l.Count == 0) {
			t.Errorf("%+v", l)
		}
	}
}

// TestALogIsWrittenOutWhole to a folder that is not there, and comes; only what was
// read back may be cleared.
func TestALogIsWrittenOutWhole(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	s.edit(project.Op{Kind: project.KindLog, ID: "l-lockout", Path: "/out",
		Value: json.RawMessage(`{"folder":"stick","format":"csv-long","trail":true,"deliveries":true}`)})
	shown := func() host.LogShown {
		list, err := s.p.Logs(ctx, ada, true)
		if err != nil {
			t.Fatal(err)
		}
		return list[slices.IndexFunc(list, func(l host.LogShown) bool { return l.ID == "l-lockout" })]
	}
	act := func(act, text string) error { return s.p.ActOnLog(ctx, ada, "l-lockout", act, text) }
	s.cooled()
	s.until("values", func() bool { return act("take", "") == nil && shown().Count > 0 })
	if d, err := s.sent("ada", s.recipe("Larch 50").ID, 1, s.target("Kiln3"), "k-beside"); err != nil || d.State != "delivered" {
		t.Fatal(d, err)
	}
	if err := s.plant.WriteRegisters(plant.KilnUnit, 0, []uint16{900}); err != nil {
		t.Fatal(err)
	}
	s.until("another temperature", func() bool {
		for range 100 {
			s.plant.Advance()
		}
		return s.show("Kiln1.DryBulb") > "75"
	})
	if err := act("take", ""); err != nil {
		t.Fatal(err)
	}
	if err := act("export", ""); err == nil || !strings.Contains(err.Error(), "stick is not there") {
		t.Errorf("written to what is not there: %v", err)
	}
	if folders, err := s.p.Folders(ctx, ada); err != nil || len(folders) != 1 || folders[0].There || folders[0].Problem == "" {
		t.Errorf("%+v %v", folders, err)
	}
	if err := os.Mkdir(s.stick, 0o755); err != nil {
		t.Fatal(err)
	}
	if err := act("export", ""); err != nil {
		t.Fatal(err)
	}
	s.until("the file", func() bool { x := shown().Export; return x != nil && !x.Busy })
	x := shown()
	if x.Export.Problem != "" || !strings.HasPrefix(x.Export.File, "At a lockout 20") || x.Upto != x.Last {
		t.Fatalf("%+v", x)
	}
	data, err := os.ReadFile(filepath.Join(s.stick, x.Export.File))
	// Both moments have the temperatures; a BOOL that stands as before is not said again.
	if err != nil || strings.Count(string(data), ",Kiln1.DryBulb,") != 2 || strings.Count(string(data), ",Kiln1.Burner.Lockout,") != 1 {
		t.Errorf("%d values, %v\n%.300s", x.Count, err, data)
	}
	beside := strings.TrimSuffix(x.Export.File, ".csv") + " deliveries.csv"
	data, err = os.ReadFile(filepath.Join(s.stick, beside))
	lines := strings.Split(strings.TrimSpace(string(data)), "\n")
	if err != nil || len(lines) != 30 || !strings.Contains(lines[1], ",Larch 50,1,,Kiln3,delivered,,Ada Birch,") ||
		!strings.Contains(lines[1], ",Larch,Larch,confirmed") {
		t.Errorf("%d lines of deliveries (%v): %.300s", len(lines), err, data)
	}
	if err := act("export", ""); err == nil || !strings.Contains(err.Error(), "not written out already") {
		t.Error(err)
	}
	// The medium is finished with; nothing goes to it by itself then.
	if err := act("finish", ""); err != nil || !shown().Finished {
		t.Error(shown().Finished, err)
	}
	if r := s.trail()[0]; r.New != "finished with stick: its files are on it" {
		t.Errorf("%+v", r)
	}
	if err := act("finish", ""); err == nil || !strings.Contains(err.Error(), "already") {
		t.Error(err)
	}
	if err := act("clear", ""); err == nil {
		t.Error("cleared without a reason")
	}
	if err := act("clear", "it is on the stick"); err != nil || shown().Count != 0 {
		t.Error(shown().Count, err)
	}
	if r := s.trail()[0]; r.Reason != "it is on the stick" || !strings.HasPrefix(r.New, "cleared: ") {
		t.Errorf("%+v", r)
	}
}

// TestALogIsWrittenOutByItself as its time of the day has come, and says once what
// keeps it from that.
func TestALogIsWrittenOutByItself(t *testing.T) {
	s := newSiteWith(t, furnished{past: true})
	ada := s.actors["ada"]
	s.edit(project.Op{Kind: project.KindLog, ID: "l-drying", Path: "/out",
		Value: json.RawMessage(`{"folder":"stick","format":"csv","at":"00:00"}`)})
	shown := func() host.LogShown {
		list, err := s.p.Logs(ctx, ada, true)
		if err != nil {
			t.Fatal(err)
		}
		return list[slices.IndexFunc(list, func(l host.LogShown) bool { return l.ID == "l-drying" })]
	}
	said := func() (n int) {
		page, _, err := s.p.Journal(ctx, ada, store.JournalFilter{}, 200)
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range page {
			if e.What == "log-unwritten" {
				n++
			}
		}
		return n
	}
	s.until("that the folder is not there", func() bool { x := shown().Export; return x != nil && x.Problem != "" && said() == 1 })
	if err := os.Mkdir(s.stick, 0o755); err != nil {
		t.Fatal(err)
	}
	// It tries again in ten minutes; somebody who is in a hurry need not wait.
	if err := s.p.ActOnLog(ctx, ada, "l-drying", "export", ""); err != nil {
		t.Fatal(err)
	}
	s.until("the file", func() bool { return shown().Export.File != "" })
	if x := shown(); x.Export.Share != 1 || x.Exported == 0 {
		t.Errorf("%+v", x)
	}
	files, err := os.ReadDir(s.stick)
	if err != nil || len(files) != 1 {
		t.Error(files, err)
	}
}

// TestALogIsWrittenOutInParts writes a file for each day that is over, then one for
// each load that has ended; nothing twice.
func TestALogIsWrittenOutInParts(t *testing.T) {
	for _, c := range []struct {
		out   string
		files int
		first string
	}{
		{`{"folder":"stick","format":"parquet","per":"day"}`, 7, "Drying record 20"},
		{`{"folder":"stick","per":"span","name":"{of} load {span}","journal":true}`, 6, "Kiln1 load L-"},
	} {
		s := newSiteWith(t, furnished{past: true})
		ada := s.actors["ada"]
		if err := os.Mkdir(s.stick, 0o755); err != nil {
			t.Fatal(err)
		}
		s.edit(project.Op{Kind: project.KindLog, ID: "l-drying", Path: "/out", Value: json.RawMessage(c.out)})
		shown := func() host.LogShown {
			list, err := s.p.Logs(ctx, ada, true)
			if err != nil {
				t.Fatal(err)
			}
			return list[slices.IndexFunc(list, func(l host.LogShown) bool { return l.ID == "l-drying" })]
		}
		if err := s.p.ActOnLog(ctx, ada, "l-drying", "export", ""); err != nil {
			t.Fatal(err)
		}
		s.until("the files", func() bool { x := shown().Export; return x != nil && !x.Busy })
		x := shown()
		files, err := os.ReadDir(s.stick)
		beside := 0 // the journal of each
		for _, f := range files {
			if data, err := os.ReadFile(filepath.Join(s.stick, f.Name())); strings.HasSuffix(f.Name(), " journal.csv") {
				if beside++; err != nil || !strings.HasPrefix(string(data), "number,time,kind,") || !strings.Contains(string(data), "Fan 1 tripped") {
					t.Errorf("%s: %.300s %v", f.Name(), data, err)
				}
			}
		}
		if err != nil || x.Export.Problem != "" || len(files)-beside != c.files || x.Export.Files != c.files ||
			!strings.HasPrefix(files[0].Name(), c.first) {
			t.Errorf("%s: %d files, %v %+v %v", c.out, len(files), files, x.Export, err)
		}
		if journals := strings.Contains(c.out, "journal"); journals && beside != c.files || !journals && beside != 0 {
			t.Errorf("%s: %d journals", c.out, beside)
		}
		if x.Upto == 0 || x.Upto >= x.Last {
			t.Errorf("%s: all is written up to %d of %d, and a day or a load goes on", c.out, x.Upto, x.Last)
		}
		err = s.p.ActOnLog(ctx, ada, "l-drying", "export", "")
		if err == nil || !strings.Contains(err.Error(), "not written out already") && !strings.Contains(err.Error(), "tomorrow") {
			t.Errorf("%s: written once more: %v", c.out, err)
		}
	}
}
