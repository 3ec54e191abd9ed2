package host_test

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
	"readyrail/internal/host"
)

// TestAFileComesIntoALog: values from before it began, in both forms of files; what
// it has itself stands, the same file again adds nothing, and what cannot be read
// brings nothing in.
func TestAFileComesIntoALog(t *testing.T) {
	s := newSite(t)
	ada, tom := s.actors["ada"], s.actors["tom"]
	const log = "l-drying"
	dry := s.id("Kiln1.DryBulb")
	s.until("the log is at work", func() bool {
		list, err := s.p.Logs(ctx, ada, true)
		return err == nil && len(list) > 0
	})
	shown := func() host.LogShown {
		t.Helper()
		list, err := s.p.Logs(ctx, ada, true)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range list {
			if l.ID == log {
				return l
			}
		}
		t.Fatal("there is no such log")
		return host.LogShown{}
	}
	begin := time.Now().Add(-20 * 24 * time.Hour).Truncate(time.Minute)
	stamp := func(minutes int) string { return begin.Add(time.Duration(minutes) * time.Minute).Format(time.RFC3339) }
	read := func(from, to int) (out []string) {
		t.Helper()
		in := host.Period{From: begin.Add(time.Duration(from) * time.Minute), To: begin.Add(time.Duration(to) * time.Minute), Log: log}
		table, err := s.p.Table(ctx, tom, []string{dry}, in, 0)
		if err != nil {
			t.Fatal(err)
		}
		if err := table.Each(ctx, func(r host.TableRow) bool {
			text := strings.TrimSpace(r.Values[0])
			if r.Bad != nil {
				text = "-"
			}
			out = append(out, fmt.Sprintf("%d:%s", (r.At-begin.UnixMilli())/60_000, text))
			return true
		}); err != nil {
			t.Fatal(err)
		}
		return out
	}
	fill := func(who host.Actor, lines string, apply bool) (*host.LogFilling, error) {
		return s.p.FillLog(ctx, who, log, []byte(lines), apply)
	}

	wide := "time,Kiln1.DryBulb [°C],Nowhere.Else\n" +
		stamp(0) + ",60.5,1\n" + stamp(1) + ",61,1\n" + stamp(3) + ",,1\n" + stamp(4) + ",62.2,1\n" + stamp(5) + ",62.5,1\n"
	if _, err := fill(tom, wide, false); err == nil {
		t.Error("an operator brought a file into a log")
	}
	before := shown()
	f, err := fill(ada, wide, false)
	if err != nil || f.Rows != 5 || fmt.Sprint(f.Ignored) != "[Nowhere.Else]" || len(f.Tags) != 1 || f.Tags[0].Take != 4 || f.Take != 4 {
		t.Fatalf("%+v %v", f, err)
	}
	if got := read(-5, 30); len(got) != 0 {
		t.Errorf("looking at a file brought %v in", got)
	}
	if _, err := fill(ada, wide, true); err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(read(-5, 30)); got != "[0:60.5 1:61.0 3:- 4:62.2 5:62.5 6:-]" {
		t.Error(got)
	}
	if r := s.trail()[0]; r.What != audit.LogSet || r.Person != ada.ID || !strings.Contains(r.New, "brought in from a file: 4 values") {
		t.Errorf("%+v", r)
	}
	if now := shown(); now.Count < before.Count+6 || now.First != begin.UnixMilli() {
		t.Errorf("%d values since %d, not %d more since %d", now.Count, now.First, 6, begin.UnixMilli())
	}
	// Again, and with other values in a time that is known.
	if _, err := fill(ada, wide, true); err == nil || !strings.Contains(err.Error(), "nothing that the log does not have") {
		t.Errorf("twice: %v", err)
	}
	f, err = fill(ada, "time;Kiln1.DryBulb\n"+stamp(0)+";99\n"+begin.Add(30*time.Second).Format(time.RFC3339)+";98\n"+stamp(3)+";97\n"+
		begin.Add(210*time.Second).Format(time.RFC3339)+";96\n", true)
	if err != nil || f.Tags[0].There != 2 || f.Tags[0].Known != 1 || f.Tags[0].Take != 1 || f.Tags[0].Path != "Kiln1.DryBulb" {
		t.Errorf("%+v %v", f, err)
	}
	// A line each value, as files of ours are; with why one was bad.
	long := "time,tag,value,unit,bad\n" + stamp(60) + ",Kiln1.DryBulb,70,°C,\n" +
		stamp(61) + ",Kiln1.DryBulb,,°C," + string(value.BadNoAnswer.Reason()) + "\n" + stamp(62) + ",Nobody,1,,\n"
	if f, err = fill(ada, long, true); err != nil || f.Tags[0].Take != 2 || fmt.Sprint(f.Ignored) != "[Nobody]" {
		t.Errorf("%+v %v", f, err)
	}

	for what, c := range map[string]struct{ file, says string }{
		"no time":           {"when,Kiln1.DryBulb\n" + stamp(0) + ",1\n", "one of them is time"},
		"a time to come":    {"time,Kiln1.DryBulb\n" + time.Now().Add(time.Hour).Format(time.RFC3339) + ",1\n", "is not over yet"},
		"what is no time":   {"time,Kiln1.DryBulb\n" + stamp(90) + ",1\nyesterday,1\n", `line 3, time: "yesterday" is no time`},
		"what is no number": {"time,Kiln1.DryBulb\n" + stamp(90) + ",1\n" + stamp(91) + ",\"61,5\"\n", "line 3, Kiln1.DryBulb"},
		"another unit":      {"time,Kiln1.DryBulb [°F]\n" + stamp(90) + ",160\n", "°C"},
		"nothing":           {"", "the sheet is empty"},
		"no tag of it":      {"time,Nowhere\n" + stamp(90) + ",160\n", "nothing that the log does not have"},
	} {
		if _, err := fill(ada, c.file, true); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if got := read(89, 95); len(got) != 0 {
		t.Errorf("what was refused brought %v in", got)
	}
	// As the columns of a view stand, and no further than the tags that were asked for.
	in := host.Period{From: begin, To: begin.Add(2 * time.Minute), Log: log}
	table, err := s.p.Table(ctx, tom, []string{"gone", dry}, in, 0)
	if err != nil {
		t.Fatal(err)
	}
	decimals := 3
	if err := table.Look([]string{"gone", dry}, []history.ViewColumn{{}, {Title: "Dry", Decimals: &decimals, Prefix: "T "}}); err != nil {
		t.Fatal(err)
	}
	var lines []string
	if err := table.Lines(ctx, false, 0, func(cells []string) error { lines = append(lines, cells[1]); return nil }); err != nil ||
		fmt.Sprint(lines) != "[Dry [°C] T 60.500 T 61.000]" {
		t.Error(lines, err)
	}
	// What it was written out to comes into it again, and adds nothing.
	if table, err = s.p.Table(ctx, tom, []string{dry}, host.Period{From: begin, To: begin.Add(time.Hour), Log: log}, 0); err != nil {
		t.Fatal(err)
	}
	var file bytes.Buffer
	if err := table.Lines(context.Background(), true, 0, func(cells []string) error {
		_, err := fmt.Fprintln(&file, strings.Join(cells, ";"))
		return err
	}); err != nil {
		t.Fatal(err)
	}
	if f, err := fill(ada, file.String(), false); err != nil || f.Take != 0 || len(f.Problems) != 0 || f.Tags[0].There < 7 {
		t.Errorf("%+v %v", f, err)
	}
}
