package project

import (
	"fmt"
	"strings"
	"testing"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/history"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// TestALogNamesItsTags names them in each way, and one twice.
func TestALogNamesItsTags(t *testing.T) {
	p := kilns(t)
	l := history.Log{Name: "Climate", How: history.LogHow{Way: history.AtChanges}, Keep: history.LogKeep{Days: 30}, Picks: []history.Pick{
		{Tag: "limit"}, {Type: "chamber", Member: "dry"}, {Folder: "k2", Like: "*speed"}, {Tag: "k2.dry"}}}
	p = edited(t, p, put(KindLog, "l", "", l))
	got := p.LogTags(p.Logs["l"])
	chambers := p.OfType("chamber", "")
	if len(got) < 2+len(chambers) || got[0] != "limit" || got[1] != chambers[0]+".dry" {
		t.Fatal(got)
	}
	count := map[string]int{}
	for _, id := range got {
		count[id]++
		if path, ok := p.Path(id); !ok {
			t.Errorf("%s is no tag", id)
		} else if strings.Contains(id, "speed") && !strings.HasPrefix(id, "k2.") {
			t.Errorf("%s is not in the folder", path)
		}
	}
	if count["k2.dry"] != 1 || count["k2.fan.1.speed"] != 1 {
		t.Error(count)
	}
	lines := ""
	for _, line := range p.LogLines(p.Logs["l"]) {
		lines += fmt.Sprint(line.Text, " ", line.Count, "; ")
	}
	if lines != "Limit 1; Chamber.DryBulb 10; North.Kiln2.*speed 2; North.Kiln2.DryBulb 1; " {
		t.Error(lines)
	}
	// What is typed as a pattern from the top follows its folder's name.
	shown, _ := p.Shown(KindLog, "l")
	if !strings.Contains(string(shown), "North.Kiln2.*speed") {
		t.Errorf("%s", shown)
	}
	p = edited(t, p, Op{Kind: KindLog, ID: "l", Value: shown})
	p = edited(t, p, put(KindEquipment, "k2", "/name", "Oven"))
	if got := p.LogLines(p.Logs["l"])[2]; got.Text != "North.Oven.*speed" || got.Count != 2 {
		t.Errorf("%+v", got)
	}
	if got := rulesOf(p, KindLog); got != "" {
		t.Error(got)
	}
	for _, id := range []string{"limit", "k2", "chamber"} {
		if !strings.Contains(fmt.Sprint(p.Uses(id)), "Climate") {
			t.Errorf("%s is not used by the log: %v", id, p.Uses(id))
		}
	}
}

// TestWhatToMendInALog has each finding once.
func TestWhatToMendInALog(t *testing.T) {
	wide := 500.0
	base := func() history.Log {
		return history.Log{Name: "L", How: history.LogHow{Way: history.AtChanges}, Keep: history.LogKeep{Days: 30},
			Picks: []history.Pick{{Tag: "k2.dry"}, {Tag: "limit"}}}
	}
	for want, change := range map[string]func(l *history.Log){
		"log.empty /picks":           func(l *history.Log) { l.Picks = nil },
		"log.tag /picks/2":           func(l *history.Log) { l.Picks = append(l.Picks, history.Pick{Tag: "none"}) },
		"log.folder /picks/2":        func(l *history.Log) { l.Picks = append(l.Picks, history.Pick{Folder: "none"}) },
		"log.type /picks/2":          func(l *history.Log) { l.Picks = append(l.Picks, history.Pick{Type: "none", Member: "dry"}) },
		"log.nothing /picks/2":       func(l *history.Log) { l.Picks = append(l.Picks, history.Pick{Like: "*nothing*"}) },
		"log.band /how/band":         func(l *history.Log) { l.How.Band, l.Picks[1].Tag = &wide, "level" },
		"log.full /keep/stops":       func(l *history.Log) { l.Keep.Stops, l.Keep.Count = true, 1000 },
		"log.alarm /how/alarm":       func(l *history.Log) { l.How.Alarm = "none" },
		"log.spanTag /spans":         func(l *history.Log) { l.Spans.Tag = "none" },
		"log.condition /while/holds": func(l *history.Log) { l.While.Holds = "North.Kiln2.DryBulb + 1" },
		"log.constant /how/rises":    func(l *history.Log) { l.How.Rises = "1 < 2" },
		"formula /spans/holds":       func(l *history.Log) { l.Spans.Holds = "Nowhere > 1" },
	} {
		l := base()
		change(&l)
		low, high := 0.0, 100.0
		p := edited(t, kilns(t), put(KindTag, "level", "", tag.Tag{Name: "Level", Type: value.Type{Kind: value.LREAL}, Source: tag.Internal,
			Low: &low, High: &high}), put(KindLog, "l", "", l))
		if got := rulesOf(p, KindLog); got != want {
			t.Errorf("%s: %s", want, got)
		}
	}
}

// TestAFullLogIsAnAlarm: an alarm on how a log stands says that it is full.
func TestAFullLogIsAnAlarm(t *testing.T) {
	l := history.Log{Name: "L", How: history.LogHow{Way: history.AtChanges}, Keep: history.LogKeep{Days: 30, Count: 1000, Stops: true},
		Picks: []history.Pick{{Tag: "limit"}}}
	state := tag.Tag{Name: "Stands", Type: value.Type{Kind: value.INT}, Source: tag.System, System: "log.state", Log: "l"}
	full := alarm.Alarm{Name: "The record is full", Tag: "s", Kind: alarm.Formula, Condition: "Stands == 3", Priority: alarm.Low}
	p := edited(t, kilns(t), put(KindLog, "l", "", l), put(KindTag, "s", "", state))
	if got := rulesOf(p, KindLog); got != "log.full /keep/stops" {
		t.Error(got)
	}
	if got := rulesOf(edited(t, p, put(KindAlarm, "a", "", full)), KindLog); got != "" {
		t.Error(got)
	}
}

// TestAScreenShowsALog needs one where it shows how a log stands, and none where
// what the recorder keeps will do.
func TestAScreenShowsALog(t *testing.T) {
	p := kilns(t)
	p = edited(t, p, put(KindLog, "l", "", history.Log{Name: "Climate", How: history.LogHow{Way: history.AtChanges},
		Keep: history.LogKeep{Days: 30}, Picks: []history.Pick{{Tag: "limit"}}}))
	element := func(kind, log string) *screen.Element {
		return &screen.Element{Kind: kind, W: 400, H: 300, Props: map[string]any{"log": log}, Tags: []string{"k1.dry"}}
	}
	p = edited(t, p, put(KindScreen, "s", "", screen.Screen{Name: "Logs", Width: 1280, Height: 676, Elements: map[string]*screen.Element{
		"a": element("logstate", "l"), "b": element("logstate", ""), "c": element("spanlist", "gone"), "d": element("records", ""),
		"e": element("trend", "gone"), "f": element("records", "l")}}))
	got := rulesOf(p, KindScreen)
	for id, wrong := range map[string]bool{"a": false, "b": true, "c": true, "d": false, "e": true, "f": false} {
		if strings.Contains(got, "screen.log /elements/"+id+"/props/log") != wrong {
			t.Errorf("%s: %s", id, got)
		}
	}
	if uses := fmt.Sprint(p.Uses("l")); strings.Count(uses, "Logs") < 2 {
		t.Error(uses)
	}
	// A table's tags are its columns.
	for _, e := range screen.Bind(p.Screens["s"], p, screen.View{}).Scene.Elements {
		if e.ID == "d" && (len(e.Pens) != 1 || e.Pens[0].Tag != "k1.dry") {
			t.Errorf("%+v", e.Pens)
		}
	}
}
