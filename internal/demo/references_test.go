package demo

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/plant"
)

// TestEveryReferenceIsAUse walks the stored form of every thing of the yard.
// Whatever in it is the id of another thing, or a formula that names one, has
// to be found when that other thing is asked where it is used.
func TestEveryReferenceIsAUse(t *testing.T) {
	p := yard(t)
	ids := map[string]string{} // to their kinds
	for _, e := range p.Entities() {
		ids[e.ID] = e.Kind
	}
	for id := range p.Tags {
		ids[id] = project.KindTag
	}
	for id := range p.Pieces() {
		ids[id] = project.KindEquipment
	}
	for _, a := range p.Site().Areas {
		ids[a.ID] = "area"
	}
	seen := map[string]int{}
	for _, e := range p.Entities() {
		if e.Kind == project.KindWords {
			continue // What a wording names is what its text names.
		}
		var doc any
		if err := json.Unmarshal(e.Doc, &doc); err != nil {
			t.Fatal(err)
		}
		each(doc, "", func(place, text string) {
			// What equipment consists of is itself.
			if e.Kind == project.KindEquipment && strings.HasPrefix(place, "/ids/") {
				return
			}
			if place == "/id" || e.Kind == project.KindSite && strings.HasSuffix(place, "/id") {
				return
			}
			named := formula.TemplateReferences(text)
			named = append(named, formula.References(text)...)
			named = append(named, text)
			for _, id := range named {
				kind, is := ids[id]
				if !is || id == e.ID {
					continue
				}
				seen[kind]++
				found := slices.ContainsFunc(p.Uses(id), func(u project.Use) bool { return u.Kind == e.Kind && u.ID == e.ID })
				if !found {
					t.Errorf("%s %s names the %s %s at %s, which does not know of it", e.Kind, e.ID, kind, id, place)
				}
			}
		})
	}
	// The yard has a reference to each kind that can be referred to.
	for _, kind := range []string{"area", project.KindDevice, project.KindTag, project.KindFolder, project.KindType, project.KindEquipment,
		project.KindScreen, project.KindLook} {
		if seen[kind] == 0 {
			t.Errorf("nothing in the yard names a %s, so that this test says nothing of it", kind)
		}
	}
}

// TestWhatIsDeletedIsMissed deletes one thing after another that something
// refers to: either the edit is refused, or the check finds a user of it.
func TestWhatIsDeletedIsMissed(t *testing.T) {
	// What nothing in the yard needs yet.
	put := func(kind, id, path, doc string) project.Op {
		return project.Op{Kind: kind, ID: id, Path: path, Value: json.RawMessage(doc)}
	}
	p, _, err := yard(t).Edit([]project.Op{
		put(project.KindStyle, "t-large", "", `{"name":"Large","size":30,"colour":"ink"}`),
		put(project.KindPicture, "x-gate", "", `{"name":"Gate","type":"image/svg+xml","data":"<svg/>","w":10,"h":10}`),
		put(project.KindRole, "r-guard", "", `{"name":"Guard","rights":["operate"]}`),
		put(project.KindScreen, "s-yard", "/roles", `["r-guard"]`),
		put(project.KindScreen, "s-yard", "/elements/sign", `{"kind":"text","w":100,"h":20,"props":{"style":"t-large"}}`),
		put(project.KindScreen, "s-yard", "/elements/gate", `{"kind":"picture","w":100,"h":20,"props":{"picture":"x-gate"}}`),
	})
	if err != nil {
		t.Fatal(err)
	}
	deleted := map[string]int{}
	for _, e := range p.Entities() {
		uses := p.Uses(e.ID)
		if len(uses) == 0 || e.Kind == project.KindWords || deleted[e.Kind] > 20 {
			continue // A language without wordings is shown in the first one.
		}
		deleted[e.Kind]++
		without, _, err := p.Edit([]project.Op{{Kind: e.Kind, ID: e.ID}})
		if err == nil && !missed(without, uses) {
			t.Errorf("%s %s is gone, and none of its %d users is found, as %v", e.Kind, e.ID, len(uses), uses[0])
		}
	}
	for i, a := range p.Site().Areas {
		areas, _ := json.Marshal(slices.Delete(slices.Clone(p.Site().Areas), i, i+1))
		without, _, err := p.Edit([]project.Op{{Kind: project.KindSite, ID: project.SiteID, Path: "/areas", Value: areas}})
		if err == nil && !missed(without, p.Uses(a.ID)) {
			t.Errorf("the area %s is gone, and none of its users is found", a.Name)
		}
	}
	for _, kind := range []string{project.KindDevice, project.KindFolder, project.KindTag, project.KindType, project.KindScreen,
		project.KindLook, project.KindStyle, project.KindPicture, project.KindRole} {
		if deleted[kind] == 0 {
			t.Errorf("no %s was deleted", kind)
		}
	}
}

// TestAProjectOpensWhateverItsDevicesBecame gives a device another protocol, so
// that the addresses of its tags are none there: the check says so, and the
// project is read again all the same.
func TestAProjectOpensWhateverItsDevicesBecame(t *testing.T) {
	p := yard(t)
	for id, protocol := range map[string]string{"d-kiln": "opcua", "d-weather": "modbus-tcp"} {
		q, _, err := p.Edit([]project.Op{{Kind: project.KindDevice, ID: id, Path: "/protocol", Value: json.RawMessage(`"` + protocol + `"`)},
			{Kind: project.KindDevice, ID: id, Path: "/order", Value: json.RawMessage(`"ABCD"`)},
			{Kind: project.KindDevice, ID: id, Path: "/maxBlock", Value: json.RawMessage("100")}})
		if err != nil {
			t.Fatal(err)
		}
		again, err := project.Load(q.Entities())
		if err != nil {
			t.Fatalf("with %s over %s the project does not open: %v", id, protocol, err)
		}
		for _, version := range []*project.Project{q, again} {
			if !slices.ContainsFunc(version.Findings(), func(f project.Finding) bool { return f.Rule == "tag.address" }) {
				t.Errorf("nobody is told that the addresses of %s are none over %s", id, protocol)
			}
		}
	}
}

// missed tells whether the check has something to say of one of the users.
func missed(p *project.Project, users []project.Use) bool {
	return slices.ContainsFunc(p.Findings(), func(f project.Finding) bool {
		return slices.ContainsFunc(users, func(u project.Use) bool { return u.Kind == f.Kind && u.ID == f.ID })
	})
}

func yard(t *testing.T) *project.Project {
	t.Helper()
	p, err := Project(plant.Addresses{Modbus: "127.0.0.1:5020", OPCUA: "127.0.0.1:4850", MQTT: "127.0.0.1:1893"})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// each hands over every text in a document with its place.
func each(v any, place string, do func(place, text string)) {
	switch v := v.(type) {
	case map[string]any:
		for k, inner := range v {
			each(inner, place+"/"+k, do)
		}
	case []any:
		for i, inner := range v {
			each(inner, fmt.Sprintf("%s/%d", place, i), do)
		}
	case string:
		do(place, v)
	}
}
