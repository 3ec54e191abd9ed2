package host

import (
	"encoding/json"
	"strings"
	"testing"

	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
)

// TestWhatWillNotBeKeptIsAFinding: a disk that fills up, and a log that is to go
// where the server lets nothing go.
func TestWhatWillNotBeKeptIsAFinding(t *testing.T) {
	p := newYard(t)
	p.storage.Store(&Storage{Recorder: 1e6, Daily: 1e9, Later: 3e9, Free: 5e9})
	if list := p.Failures(); len(list) != 0 {
		t.Errorf("there is room: %+v", list)
	}
	if share, ok := p.DiskTaken(); !ok || share < 0.59 || share > 0.61 {
		t.Errorf("%v of the disk is taken, %v", share, ok)
	}
	p.storage.Store(&Storage{Recorder: 1e6, Daily: 1e9, Later: 31e9, Free: 5e9})
	o := Actor{ID: "o", Name: "O", Owner: true}
	log := history.Log{Name: "Air", How: history.LogHow{Way: history.AtChanges}, Keep: history.LogKeep{Days: 30},
		Out: history.LogOut{Folder: "stick"}}
	value, err := json.Marshal(log)
	if err == nil {
		_, err = p.Edit(t.Context(), o, "a log", []project.Op{{Kind: project.KindLog, ID: "l", Value: value}})
	}
	if err != nil {
		t.Fatal(err)
	}
	list := p.Failures()
	if len(list) != 2 || list[1].ID != "l" || list[0].Rule != "history.disk" ||
		list[0].Args["days"] != "5" || list[1].Rule != "log.notAllowed" {
		t.Fatalf("%+v", list)
	}
	for _, f := range list {
		for _, language := range []string{"en", "de"} {
			if w := f.Render(language); w.Mend == "" || w.Says == "" || strings.Contains(w.Says+w.Mend, "{") {
				t.Errorf("in %s: %+v", language, w)
			}
		}
	}
	s, err := p.Storage(t.Context(), o)
	if err != nil || s.Free <= 0 || s.Recorder <= 0 || s.Daily != 0 || s.taken() != 0 {
		t.Errorf("of an empty project: %+v %v", s, err)
	}
}
