package demo

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"readyrail/internal/core/project"
)

// wander makes a version by edits here and there: things altered, renamed, taken away
// and made.
func wander(t *testing.T, p *project.Project, seed uint64) *project.Project {
	t.Helper()
	r := rand.New(rand.NewPCG(seed, 2))
	made := 0
	try := func(ops ...project.Op) {
		if next, _, err := p.Edit(ops); err == nil {
			p, made = next, made+1
		}
	}
	text := func(s string) json.RawMessage { b, _ := json.Marshal(s); return b }
	tags := p.SortedTags()
	alarms := project.SortedKeys(p.Alarms)
	screens := project.SortedKeys(p.Screens)
	for i := range 60 {
		tag, alarm := tags[r.IntN(len(tags))], alarms[r.IntN(len(alarms))]
		if p.Tags[tag] == nil {
			continue
		}
		name := fmt.Sprintf("W%d", i)
		switch r.IntN(8) {
		case 0:
			try(project.Op{Kind: "tag", ID: tag, Path: "/name", Value: text(name)})
		case 1:
			try(project.Op{Kind: "tag", ID: tag, Path: "/description", Value: text("so it is " + name)})
		case 2:
			try(project.Op{Kind: "tag", ID: tag})
		case 3:
			folder := `{"name":"` + name + `"}`
			new := `{"name":"Inside","type":"REAL","source":"internal","folder":"f` + name + `"}`
			try(project.Op{Kind: "folder", ID: "f" + name, Value: json.RawMessage(folder)},
				project.Op{Kind: "tag", ID: "t" + name, Value: json.RawMessage(new)})
		case 4:
			try(project.Op{Kind: "alarm", ID: alarm, Path: "/priority", Value: text("low")})
		case 5:
			try(project.Op{Kind: "alarm", ID: alarm})
		case 6:
			try(project.Op{Kind: "screen", ID: screens[r.IntN(len(screens))], Path: "/name", Value: text(name)})
		case 7:
			try(project.Op{Kind: "folder", ID: p.Tags[tag].Folder, Path: "/name", Value: text(name)})
		}
	}
	if made < 15 {
		t.Fatalf("only %d edits could be made", made)
	}
	return p
}

func things(list []project.Difference) (out []project.Thing) {
	for _, d := range list {
		out = append(out, project.Thing{Kind: d.Kind, ID: d.ID})
	}
	return out
}

func sameProject(t *testing.T, what string, got, want *project.Project) {
	t.Helper()
	a, _ := json.Marshal(got.Entities())
	b, _ := json.Marshal(want.Entities())
	if string(a) != string(b) {
		t.Errorf("%s: it is not the same: %s", what, told(project.Differences(want, got)))
	}
}

// TestTakingAllDifferencesIsTheOtherVersion: what differs between A and B, taken into A,
// is B; undone it is A again.
func TestTakingAllDifferencesIsTheOtherVersion(t *testing.T) {
	p := yard(t)
	for seed := range uint64(12) {
		a, b := wander(t, p, 2*seed), wander(t, p, 2*seed+1)
		next, changes, err := a.Take(b, things(project.Differences(a, b)))
		if err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
		what := fmt.Sprintf("seed %d", seed)
		sameProject(t, what, next, b)
		back, _, err := next.Revert(changes)
		if err != nil {
			t.Fatalf("seed %d, undone: %v", seed, err)
		}
		sameProject(t, what+", undone", back, a)
	}
}

// TestAThingBringsWhatItNeeds: a tag that is taken comes with its folder, where that is
// missing; what else differs stays as it is.
func TestAThingBringsWhatItNeeds(t *testing.T) {
	p := yard(t)
	tag, _ := p.FindPath("Car.VelocitySP")
	folder := p.Tags[tag].Folder
	after, _, err := p.Edit([]project.Op{{Kind: "rule", ID: "q-zero", Path: "/note", Value: json.RawMessage(`"another"`)},
		{Kind: "tag", ID: tag}})
	if err != nil {
		t.Fatal(err)
	}
	if next, _, err := after.Take(p, []project.Thing{{Kind: "tag", ID: tag}}); err != nil {
		t.Error(err)
	} else if got := told(project.Differences(p, next)); strings.Contains(got, "Car.VelocitySP") || !strings.Contains(got, `→"another"`) {
		t.Errorf("with the tag back: %s", got)
	}
	bare := project.New("Bare")
	next, changes, err := bare.Take(p, []project.Thing{{Kind: "tag", ID: tag}})
	if err != nil {
		t.Fatal(err)
	}
	if next.Tags[tag] == nil || next.Folders[folder] == nil || next.Devices[p.Tags[tag].Device] == nil || len(changes) < 3 {
		t.Errorf("into an empty project came %d things", len(changes))
	}
}

func TestWhatCannotBeTaken(t *testing.T) {
	p := yard(t)
	var made string
	for id := range p.Tags {
		if _, isMade := p.Doc("tag", id); isMade && strings.HasPrefix(p.NameOf(project.Thing{Kind: "tag", ID: id}), "Kiln1.Fan[1]") {
			made = id
		}
	}
	for says, thing := range map[string]project.Thing{
		"made of equipment":        {Kind: "tag", ID: made},
		"neither version has this": {Kind: "tag", ID: "nobody"},
		"holds no things of kind":  {Kind: "spaceship", ID: "x"},
	} {
		if _, _, err := p.Take(p, []project.Thing{thing}); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%+v: %v", thing, err)
		}
	}
}
