package host_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// TestTagsDriveABook has a reader of codes ask for the car's motions: by name, in
// the rights of a role, with the answers of a function block; the trail says what
// asked.
func TestTagsDriveABook(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	car, _ := s.p.Draft().FindFolder("Car")
	var ops []project.Op
	put := func(kind, id, path string, v any) {
		doc, err := json.Marshal(v)
		if err != nil {
			t.Fatal(err)
		}
		ops = append(ops, project.Op{Kind: kind, ID: id, Path: path, Value: doc})
	}
	for name, typ := range map[string]value.Type{"Go": {Kind: value.BOOL}, "Wanted": {Kind: value.STRING, Len: 40}, "Busy": {Kind: value.BOOL},
		"Done": {Kind: value.BOOL}, "Wrong": {Kind: value.BOOL}, "WrongId": {Kind: value.INT}} {
		put(project.KindTag, "drive-"+name, "", tag.Tag{Name: name, Folder: car, Type: typ, Source: tag.Internal})
	}
	asks := recipe.Drive{Role: "r-operator", Execute: "drive-Go", Chosen: "drive-Wanted", Busy: "drive-Busy", Done: "drive-Done",
		Error: "drive-Wrong", ErrorID: "drive-WrongId"}
	put(project.KindBook, "b-car", "/sending/drive", asks)
	s.edit(ops...)
	hold := func(id, v string) {
		t.Helper()
		if err := s.p.HoldTag(ctx, ada, id, holdAt(v, "as a reader of codes does", 1)); err != nil {
			t.Fatal(err)
		}
	}
	tells := func(what string) {
		t.Helper()
		s.until("the block tells "+what, func() bool {
			got := ""
			for name, letter := range map[string]string{"Busy": "B", "Done": "D", "Wrong": "E"} {
				if s.show("Car."+name) == "on" {
					got += letter
				}
			}
			return got+s.show("Car.WrongId") == what
		})
	}
	hold("drive-Wanted", "wet rails ")
	hold("drive-Go", "false")
	tells("0")
	time.Sleep(1500 * time.Millisecond) // it has seen that nothing is asked
	hold("drive-Go", "true")
	tells("D0")
	s.until("the car has it", func() bool { return s.show("Car.VelocitySP") == "250" && s.show("Car.DecelSP") == "180" })
	hold("drive-Go", "false")
	tells("0")
	for _, c := range []struct {
		wanted, tells string
	}{{"Uphill", "E1"}, {"Empty", "D0"}} {
		hold("drive-Wanted", c.wanted)
		hold("drive-Go", "true")
		tells(c.tells)
		hold("drive-Go", "false")
		tells("0")
	}
	s.until("the car has the last", func() bool { return s.show("Car.VelocitySP") == "600" })
	var told []string
	for _, r := range s.trail() {
		if r.What == audit.Delivery || r.Outcome == audit.Rejected {
			told = append(told, r.Name+": "+r.New+r.Reason)
		}
	}
	slices.Reverse(told)
	all := strings.Join(told, "\n")
	for _, want := range []string{"Car motion by Car.Go: Wet rails, version 1: delivered", `has no recipe "Uphill"`, "Empty, version 1: delivered"} {
		if !strings.Contains(all, want) {
			t.Errorf("no %q in the trail:\n%s", want, all)
		}
	}
	list, err := s.p.Plant().Deliveries(ctx, ada, "b-car", nil, 0, time.Time{})
	if err != nil || len(list) != 2 || list[0].Person != "Car motion by Car.Go" {
		t.Errorf("%+v %v", list, err)
	}
}
