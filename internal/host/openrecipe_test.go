package host_test

import (
	"encoding/json"
	"strings"
	"testing"

	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/host"
	"readyrail/internal/run"
)

// TestWhatIsOpenIsEachPagesOwn: tags of the open recipe show what the page that looks
// told, and no other page's; nobody writes them.
func TestWhatIsOpenIsEachPagesOwn(t *testing.T) {
	s := newSite(t)
	ada, tom := s.actors["ada"], s.actors["tom"]
	version := s.p.Draft()
	var book, field string
	for id, b := range version.Books {
		if b.Name == "Drying schedule" {
			f, _ := b.Named("Step[1].Dry")
			book, field = id, f.ID
		}
	}
	plan, err := s.p.OpenTags(ctx, ada, project.OpenTags{Book: book, Folder: "Open"}, true)
	if err != nil || plan.Total < 10 {
		t.Fatal(plan, err)
	}
	dry := s.id("Open.Step[1].Dry")
	s.release(map[string]screen.Element{
		"name": {Kind: "readout", Name: "Name", W: 100, H: 30, Props: map[string]any{"tag": s.id("Open.Recipe")}},
		"edit": {Kind: "readout", Name: "Edited", W: 100, H: 30, Props: map[string]any{"tag": s.id("Open.Changed")}},
		"dry":  {Kind: "entry", Name: "Dry", W: 100, H: 30, Props: map[string]any{"tag": dry}},
	})
	look := func(page int64) (shows func() map[string]string, end func()) {
		f, err := s.p.OpenFeed(run.Release, "s-car", screen.View{}, tom, page)
		if err != nil {
			t.Fatal(err)
		}
		v := f.View()
		var targets []struct{ Element, Prop string }
		values := map[string]string{}
		return func() map[string]string {
			scene, frame, _ := v.Next()
			var in struct {
				Scene struct {
					Bindings []struct{ Element, Prop string }
					Books    []string
				}
			}
			if scene != nil && json.Unmarshal(scene, &in) == nil {
				if targets = in.Scene.Bindings; len(in.Scene.Books) != 1 || in.Scene.Books[0] != book {
					t.Errorf("the page is to tell of %v", in.Scene.Books)
				}
			}
			var out struct{ V [][]json.RawMessage }
			if json.Unmarshal(frame, &out) == nil {
				for _, cell := range out.V {
					var at int
					if json.Unmarshal(cell[0], &at) == nil && targets[at].Prop == "text" {
						values[targets[at].Element] = strings.Trim(string(cell[1]), `"`)
					}
				}
			}
			return values
		}, func() { v.Close(); s.p.CloseFeed(f) }
	}
	first, endFirst := look(1)
	defer endFirst()
	other, endOther := look(2)
	defer endOther()
	s.until("nothing is open", func() bool { v := first(); return v["dry"] == "null" && v["edit"] == "off" && v["name"] == "" })

	tell := func(text string, changed bool) {
		open := run.OpenRecipe{Name: "Larch 50", Version: 3, Changed: changed, Values: map[string]string{field: text}}
		s.p.TellOpen(1, run.Release, book, &open)
	}
	tell("61.5", false)
	s.until("it is shown", func() bool {
		v := first()
		return v["name"] == "Larch 50" && strings.HasPrefix(v["dry"], "61.5") && v["edit"] == "off"
	})
	tell("62", true)
	s.until("its edit is shown", func() bool { v := first(); return strings.HasPrefix(v["dry"], "62.0") && v["edit"] == "on" })
	tell("hot", true)
	s.until("what is no number is not shown as one", func() bool { return first()["dry"] == "null" })
	if v := other(); v["name"] != "" || v["dry"] != "null" {
		t.Errorf("another page shows %v", v)
	}
	// A client that writes it all the same is refused; so is one that holds it.
	if out, err := s.p.Write(ctx, tom, s.cmd("s-car", "Dry", "60")); err == nil || !strings.Contains(err.Error(), "it is entered and saved there") {
		t.Errorf("%+v %v", out, err)
	}
	// A release keeps what the page told; a page that is closed is forgotten.
	tell("61.5", false)
	if _, err := s.p.Publish(ctx, ada, host.ReleaseOrder{Note: "again"}); err != nil {
		t.Fatal(err)
	}
	s.until("it is shown after a release", func() bool { return strings.HasPrefix(first()["dry"], "61.5") })
	s.p.TellOpen(1, run.Release, book, nil)
	s.until("nothing is open again", func() bool { return first()["dry"] == "null" })
	tell("61.5", false)
	s.p.ForgetPage(1)
	again, endAgain := look(1)
	defer endAgain()
	s.until("a page of the same number begins anew", func() bool { v := again(); _, seen := v["dry"]; return seen })
}
