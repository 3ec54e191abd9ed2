package edit_test

import (
	"context"
	"errors"
	"strings"
	"testing"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/edit"
)

// newEdits opens an empty project in a folder of its own.
func newEdits(t *testing.T) *edit.Edits {
	t.Helper()
	return openEdits(t, t.TempDir(), edit.Options{First: edit.NewProject("yard")})
}

func openEdits(t *testing.T, dir string, o edit.Options) *edit.Edits {
	t.Helper()
	e := edit.New(o)
	t.Cleanup(e.Close)
	if err := e.Open(context.Background(), dir); err != nil {
		t.Fatal(err)
	}
	return e
}

func put(kind, id, doc string) []project.Op {
	return []project.Op{{Kind: kind, ID: id, Value: []byte(doc)}}
}

var (
	ada = access.Actor{ID: "ada", Name: "Ada"}
	ben = access.Actor{ID: "ben", Name: "Ben"}
)

// Each takes back what was their own, the newest first, and it stays so over a
// restart.
func TestUndoIsEachPersonsOwn(t *testing.T) {
	dir := t.TempDir()
	first := edit.NewProject("yard")
	e := openEdits(t, dir, edit.Options{First: first})
	for _, step := range []struct {
		who  access.Actor
		name string
	}{{ada, "A1"}, {ben, "B1"}, {ada, "A2"}} {
		if _, err := e.Edit(t.Context(), step.who, "make "+step.name, put(project.KindTag, "t"+step.name,
			`{"name":"`+step.name+`","type":"INT","source":"internal"}`)); err != nil {
			t.Fatal(err)
		}
	}
	has := func(want string) {
		t.Helper()
		got := []string{}
		for _, id := range e.Draft().SortedTags() {
			got = append(got, e.Draft().Tags[id].Name)
		}
		if strings.Join(got, " ") != want {
			t.Fatalf("%v, not %s", got, want)
		}
	}
	has("A1 A2 B1")
	for _, want := range []string{"make A2", "make A1"} {
		if label, err := e.Undo(t.Context(), ada); err != nil || label != want {
			t.Fatalf("%s %v", label, err)
		}
	}
	has("B1")
	if _, err := e.Undo(t.Context(), ada); !errors.Is(err, edit.ErrNothing) {
		t.Errorf("a third time: %v", err)
	}
	if label, err := e.Redo(t.Context(), ada); err != nil || label != "make A1" {
		t.Errorf("%s %v", label, err)
	}
	revision := e.Revision()
	e.Close()
	e = openEdits(t, dir, edit.Options{})
	has("A1 B1")
	if e.Revision() != revision {
		t.Errorf("revision %d, not %d", e.Revision(), revision)
	}
	if label, err := e.Redo(t.Context(), ada); err != nil || label != "make A2" {
		t.Errorf("%s %v", label, err)
	}
}

// What a person may not make leaves nothing behind, and nobody is told of it.
func TestWhatAPersonMayNotIsNotMade(t *testing.T) {
	told := 0
	no := errors.New("not you")
	e := openEdits(t, t.TempDir(), edit.Options{First: edit.NewProject("yard"), Edited: func(*project.Project, edit.Made) { told++ },
		May: func(_ context.Context, who access.Actor, _, next *project.Project) error {
			if who.ID == "ben" && len(next.Tags) > 0 {
				return no
			}
			return nil
		}})
	ops := put(project.KindTag, "t1", `{"name":"A","type":"INT","source":"internal"}`)
	if _, err := e.Edit(t.Context(), ben, "make A", ops); !errors.Is(err, no) || len(e.Draft().Tags) != 0 || told != 0 {
		t.Fatalf("%v, %d tags, told %d times", err, len(e.Draft().Tags), told)
	}
	if _, err := e.Edit(t.Context(), ada, "make A", ops); err != nil || told != 1 {
		t.Fatalf("%v, told %d times", err, told)
	}
	// An edit that changes nothing is none.
	before := e.Revision()
	if changes, err := e.Edit(t.Context(), ada, "make A", ops); err != nil || len(changes) != 0 || e.Revision() != before || told != 1 {
		t.Errorf("%v %v, revision %d, told %d times", changes, err, e.Revision(), told)
	}
}

// A release is what the archive gives back; a refusal comes before anything is
// kept, and the next one goes on from there.
func TestAReleaseIsKeptWhole(t *testing.T) {
	dir := t.TempDir()
	e := openEdits(t, dir, edit.Options{First: edit.NewProject("yard")})
	none := func() ([]project.Op, error) { return nil, nil }
	ran := 0
	run := func(released *project.Project) {
		ran++
		if released == e.Draft() || released.Site().Name != e.Draft().Site().Name {
			t.Error("what runs is not what the archive gives back")
		}
	}
	if last, err := e.LastRelease(t.Context()); last != nil || err != nil || e.ReleaseInfo() != nil {
		t.Fatalf("%v %v", last, err)
	}
	for what, try := range map[string]func() error{
		"a long note": func() error {
			_, err := e.Publish(t.Context(), ada, edit.Wording{Note: strings.Repeat("é", 1001)}, none, run)
			return err
		},
		"what is adopted cannot be": func() error {
			cannot := func() ([]project.Op, error) { return put(project.KindTag, "t1", `{"name":"1 no"}`), nil }
			_, err := e.Publish(t.Context(), ada, edit.Wording{}, cannot, run)
			return err
		},
	} {
		if try() == nil || ran != 0 || e.ReleaseInfo() != nil {
			t.Errorf("%s: released", what)
		}
	}
	info, err := e.Publish(t.Context(), ada, edit.Wording{Note: strings.Repeat("é", 1000)}, none, run)
	if err != nil || info.Number != 1 || ran != 1 {
		t.Fatalf("%+v %v, ran %d times", info, err, ran)
	}
	e.Close()
	e = openEdits(t, dir, edit.Options{})
	last, err := e.LastRelease(t.Context())
	if err != nil || last == nil || e.ReleaseInfo().Hash != info.Hash {
		t.Errorf("%v %v", last, err)
	}
}
