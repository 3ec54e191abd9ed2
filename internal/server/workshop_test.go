package server

import (
	"encoding/json"
	"net/http"
	"slices"
	"strings"
	"testing"

	"readyrail/internal/core/project"
)

const yard = "/api/projects/larchmoor"

// asked reads an answer of 200.
func asked[T any](c *client, path string) (out T) {
	c.t.Helper()
	w := c.do("GET", yard+path, "")
	if w.Code != http.StatusOK {
		c.t.Fatalf("%s: %d %s", path, w.Code, w.Body)
	}
	if err := json.Unmarshal(w.Body.Bytes(), &out); err != nil {
		c.t.Fatalf("%s: %v", path, err)
	}
	return out
}

// edited sends ops and reads what came of it.
func (c *client) edited(ops string) (revision int64, refused *Problem) {
	c.t.Helper()
	w := c.do("POST", yard+"/edits", `{"label":"an edit","ops":[`+ops+`]}`)
	if w.Code == http.StatusOK {
		var r EditResult
		if err := json.Unmarshal(w.Body.Bytes(), &r); err != nil {
			c.t.Fatal(err)
		}
		return r.Revision, nil
	}
	refused = &Problem{}
	if err := json.Unmarshal(w.Body.Bytes(), refused); err != nil {
		c.t.Fatalf("%d %s", w.Code, w.Body)
	}
	return 0, refused
}

// TestTheWorkshopIsOneAnswer: findings that are known already are left out, and
// come again when another edit alters them.
func TestTheWorkshopIsOneAnswer(t *testing.T) {
	c := newServer(t).as(t, "ada")
	first := asked[Workshop](c, "/workshop")
	if first.Check == "" || len(first.Devices) != 4 || len(first.Screens) != 15 || len(first.Types) != 5 {
		t.Fatalf("check %q, %d devices, %d screens, %d types", first.Check, len(first.Devices), len(first.Screens), len(first.Types))
	}
	revision, refused := c.edited(`{"kind":"site","id":"site","path":"/description","value":"Three chambers"}`)
	if refused != nil {
		t.Fatal(refused)
	}
	same := asked[Workshop](c, "/workshop?check="+first.Check)
	if same.Findings != nil || same.Check != first.Check || same.Overview.Revision != revision ||
		same.Overview.Site.Description != "Three chambers" {
		t.Errorf("after an edit without a finding: %+v", same.Overview)
	}
	if _, refused = c.edited(`{"kind":"site","id":"site","path":"/areas","value":[]}`); refused != nil {
		t.Fatal(refused)
	}
	next := asked[Workshop](c, "/workshop?language=de&check="+first.Check)
	if next.Check == first.Check {
		t.Fatal("the areas are gone, and the findings are said to be the same")
	}
	gone := slices.ContainsFunc(next.Findings, func(f FindingInfo) bool {
		return f.Rule == "area.gone" && f.Stop == project.StopScreens && strings.HasPrefix(f.Says, "Den Bereich")
	})
	if !gone {
		t.Errorf("no screen misses its area among %d findings", len(next.Findings))
	}
}

// TestTwoEngineersAtOnePlace: who edits what another has changed meanwhile is
// told both values; elsewhere in the same thing nobody is in the way.
func TestTwoEngineersAtOnePlace(t *testing.T) {
	s := newServer(t)
	ada := s.as(t, "ada")
	element := asked[map[string]any](ada, "/screens/s-yard")["elements"].(map[string]any)
	id := ""
	for k := range element {
		id = max(id, k)
	}
	at := func(field, value, was string) string {
		return `{"kind":"screen","id":"s-yard","path":"/elements/` + id + "/" + field + `","value":` + value + `,"was":` + was + `}`
	}
	number := func(field string) string {
		b, _ := json.Marshal(element[id].(map[string]any)[field])
		return string(b)
	}
	x, y := number("x"), number("y")
	if _, refused := ada.edited(at("x", "11", x)); refused != nil {
		t.Fatal(refused.Detail)
	}
	if _, refused := ada.edited(at("y", "12", y)); refused != nil {
		t.Errorf("another property of the same element: %s", refused.Detail)
	}
	_, refused := ada.edited(at("x", "13", x))
	if refused == nil || refused.Refusal == nil || !refused.Refusal.Stale || string(refused.Refusal.Theirs) != "11" ||
		string(refused.Refusal.Yours) != "13" {
		t.Fatalf("a stale edit: %+v", refused)
	}
	// Nothing of an edit is applied when one of its ops is refused.
	if _, refused := ada.edited(at("y", "50", "12") + "," + at("x", "13", x)); refused == nil {
		t.Fatal("half an edit was taken")
	}
	now := asked[map[string]any](ada, "/screens/s-yard")["elements"].(map[string]any)[id].(map[string]any)
	if now["x"] != 11.0 || now["y"] != 12.0 {
		t.Errorf("it lies at %v, %v", now["x"], now["y"])
	}
}

func TestEditsThatCannotBe(t *testing.T) {
	c := newServer(t).as(t, "ada")
	before := asked[Overview](c, "").Revision
	for ops, want := range map[string]string{
		`{"kind":"valve","id":"v","path":"","value":{}}`:                                        `no things of kind "valve"`,
		`{"kind":"","id":"v","path":"","value":{}}`:                                             `no things of kind ""`,
		`{"kind":"site","id":"site","path":""}`:                                                 "cannot be deleted",
		`{"kind":"site","id":"other","path":"","value":{"name":"Other"}}`:                       "one site",
		`{"kind":"equipment","id":"a.b","path":"","value":{}}`:                                  "holds no point",
		`{"kind":"tag","id":"a/b","path":"","value":{}}`:                                        "plain characters",
		`{"kind":"tag","id":"n","path":"","value":{"name":"N","typo":1}}`:                       "typo",
		`{"kind":"device","id":"d-kiln","path":"/unit","value":300}`:                            "0 to 255",
		`{"kind":"role","id":"r-new","path":"","value":{"name":"New","rights":["everything"]}}`: "not known",
		`{"kind":"style","id":"s","path":"","value":{"name":"S","size":1,"colour":"ink"}}`:      "6 to 400",
		`{"kind":"words","id":"no language","path":"","value":{"words":{}}}`:                    "plain characters",
		`{"kind":"words","id":"x","path":"","value":{"words":{}}}`:                              "no code of a language",
	} {
		_, refused := c.edited(ops)
		if refused == nil || !strings.Contains(refused.Detail, want) {
			t.Errorf("%s: %+v, not %q", ops, refused, want)
		}
	}
	if after := asked[Overview](c, "").Revision; after != before {
		t.Errorf("what was refused made the draft %d of %d", after, before)
	}
}

// TestTheFinderGoesOut asks for a text that a device, equipment, tags and alarms
// have, and for one that nothing has.
func TestTheFinderGoesOut(t *testing.T) {
	s := newServer(t)
	c := s.as(t, "ada")
	count := map[string]int{}
	for _, h := range asked[[]project.Hit](c, "/find?text=kiln") {
		count[h.Kind]++
		if h.Name == "" || h.ID == "" {
			t.Errorf("%+v has no name", h)
		}
	}
	if count["device"] != 1 || count["equipment"] != 3 || count["tag"] == 0 || count["alarm"] == 0 {
		t.Errorf("%v", count)
	}
	if list := asked[[]project.Hit](c, "/find?text=sawmill"); len(list) != 0 {
		t.Errorf("%+v", list)
	}
	if w := c.do("GET", yard+"/find?text="+strings.Repeat("x", 201), ""); w.Code != http.StatusUnprocessableEntity {
		t.Errorf("a text without end: %d", w.Code)
	}
	if w := s.as(t, "tom").do("GET", yard+"/find?text=kiln", ""); w.Code != http.StatusForbidden {
		t.Errorf("an operator looks through the draft: %d", w.Code)
	}
}

// TestUsesGoOut asks where an area, state looks and equipment are used.
func TestUsesGoOut(t *testing.T) {
	c := newServer(t).as(t, "ada")
	for id, kinds := range map[string][]string{"a-k1": {"folder", "equipment", "tag", "screen", "alarm"}, "l-mode": {"screen"},
		"d-kiln": {"tag", "equipment"}, "nothing": nil} {
		list := asked[[]project.Use](c, "/uses/"+id)
		found := slices.ContainsFunc(list, func(u project.Use) bool { return slices.Contains(kinds, u.Kind) && u.Name != "" })
		if found != (kinds != nil) || kinds == nil && len(list) > 0 {
			t.Errorf("%s: %+v", id, list)
		}
	}
}

// TestTheCatalogueDescribesEveryKind: what the client is told is enough for a
// link to each thing.
func TestTheCatalogueDescribesEveryKind(t *testing.T) {
	c := newServer(t).as(t, "ada")
	var out Catalogue
	if err := json.Unmarshal(c.do("GET", "/api/catalogue", "").Body.Bytes(), &out); err != nil {
		t.Fatal(err)
	}
	stops := map[string]project.Stop{}
	for _, k := range out.Things {
		stops[k.Name] = k.Stop
	}
	for kind, stop := range map[string]project.Stop{"site": "site", "device": "devices", "tag": "tags", "folder": "tags", "type": "equipment",
		"equipment": "equipment", "screen": "screens", "look": "screens", "alarm": "alarms", "role": "people", "words": "site"} {
		if stops[kind] != stop {
			t.Errorf("things of kind %s are worked on at %q, not %q", kind, stops[kind], stop)
		}
	}
	fields := map[string][]string{}
	for _, k := range out.Kinds {
		fields[k.Name] = k.Fields
	}
	if !slices.Equal(fields["table"], []string{"tags"}) || !slices.Equal(fields["button"], []string{"then", "operators"}) ||
		fields["rect"] != nil {
		t.Errorf("what elements have beside their properties: %v", fields)
	}
}
