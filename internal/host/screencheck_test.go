package host_test

import (
	"strings"
	"testing"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/host"
)

func TestAScreenIsAccepted(t *testing.T) {
	s := newSite(t)
	ada, tom := s.actors["ada"], s.actors["tom"]
	kiln2 := screen.Args{"k": s.id("Kiln2")}
	count := func(args screen.Args) map[string]int {
		list, err := s.p.ScreenChecks(ctx, "s-chamber1", args)
		if err != nil {
			t.Fatal(err)
		}
		n := map[string]int{}
		for _, c := range list {
			n[c.Result]++
			if c.Outdated {
				n["outdated"]++
			}
		}
		return n
	}
	list, err := s.p.ScreenChecks(ctx, "s-chamber1", kiln2)
	if err != nil || len(list) < 20 || list[0].Element != "" {
		t.Fatalf("%d points, %v", len(list), err)
	}
	entry := ""
	for _, c := range list {
		if c.Kind == "entry" {
			entry = c.Element
		}
	}
	if err := s.p.ProveScreen(ctx, tom, "s-chamber1", host.ScreenProof{Elements: []string{""}, Result: host.Passed}); err == nil {
		t.Error("an operator accepts a screen")
	}
	for reason, proof := range map[string]host.ScreenProof{
		"say in the note":      {Args: kiln2, Elements: []string{entry}, Result: host.Failed},
		"passed or failed":     {Args: kiln2, Elements: []string{entry}, Result: "fine"},
		"not one of this":      {Args: kiln2, Elements: []string{entry, "nothing"}, Result: host.Passed},
		"has no such":          {Args: map[string]string{"z": "1"}, Elements: []string{entry}, Result: host.Passed},
		"no equipment of its ": {Args: map[string]string{"k": s.id("Car")}, Elements: []string{entry}, Result: host.Passed},
	} {
		if err := s.p.ProveScreen(ctx, ada, "s-chamber1", proof); err == nil || !strings.Contains(err.Error(), reason) {
			t.Errorf("%s: %v", reason, err)
		}
	}
	if n := count(kiln2); n[host.Untested] != len(list) {
		t.Errorf("after refusals: %v", n)
	}
	if err := s.p.ProveScreen(ctx, ada, "s-chamber1",
		host.ScreenProof{Args: kiln2, Elements: []string{"", entry}, Result: host.Passed}); err != nil {
		t.Fatal(err)
	}
	if n := count(kiln2); n[host.Passed] != 2 {
		t.Errorf("proved two: %v", n)
	}
	if n := count(screen.Args{"k": s.id("Kiln1")}); n[host.Passed] != 0 {
		t.Errorf("another chamber is proved along: %v", n)
	}
	if r := s.trail()[0]; r.What != audit.ScreenProof || r.New != host.Passed || r.Name != ada.Name {
		t.Errorf("%+v", r)
	}
	// The tag of the entry takes another limit: its proof is out of date.
	if _, err := s.p.Edit(ctx, ada, "limit", []project.Op{{Kind: project.KindScreen, ID: "s-chamber1",
		Path: "/elements/" + entry + "/props/high", Value: []byte("55")}}); err != nil {
		t.Fatal(err)
	}
	if n := count(kiln2); n[host.Passed] != 1 || n["outdated"] != 1 {
		t.Errorf("after another limit: %v", n)
	}
	var csv strings.Builder
	if err := s.p.WriteScreenChecks(ctx, &csv); err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"Kiln2,", "untested since its definition changed", "limits: "} {
		if !strings.Contains(csv.String(), want) {
			t.Errorf("the register lacks %q", want)
		}
	}
	// It is taken back, and stays so over a restart.
	if err := s.p.ProveScreen(ctx, ada, "s-chamber1", host.ScreenProof{Args: kiln2, Elements: []string{""}}); err != nil {
		t.Fatal(err)
	}
	if n := count(kiln2); n[host.Passed] != 0 {
		t.Errorf("taken back: %v", n)
	}
}
