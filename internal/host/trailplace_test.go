package host

import (
	"testing"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// TestTheTrailOfAnArea: what is in it and in those that lie in it, by its tags, its
// equipment and its books.
func TestTheTrailOfAnArea(t *testing.T) {
	p, ctx, owner := newYard(t), t.Context(), Actor{ID: "o", Name: "O", Owner: true}
	put := func(kind, id, doc string) project.Op {
		return project.Op{Kind: kind, ID: id, Value: []byte(doc)}
	}
	if _, err := p.Edit(ctx, owner, "areas", []project.Op{
		{Kind: project.KindSite, ID: project.SiteID, Path: "/areas",
			Value: []byte(`[{"id":"a-kilns","name":"Kilns"},{"id":"a-k1","name":"Kiln 1","parent":"a-kilns"},{"id":"a-car","name":"Car"}]`)},
		put(project.KindFolder, "f-k1", `{"name":"Kiln1","area":"a-k1"}`),
		put(project.KindFolder, "f-car", `{"name":"Car","area":"a-car"}`),
		put(project.KindTag, "t-sp", `{"name":"SP","folder":"f-k1","type":"REAL","source":"internal"}`),
		put(project.KindTag, "t-jog", `{"name":"Jog","folder":"f-car","type":"BOOL","source":"internal"}`),
	}); err != nil {
		t.Fatal(err)
	}
	for _, r := range []audit.Record{
		{What: audit.Intent, Tag: "t-sp", Path: "Kiln1.SP", New: "1", Key: "a"},
		{What: audit.Intent, Tag: "t-jog", Path: "Car.Jog", New: "2", Key: "b"},
		{What: audit.Delivery, Path: "Kiln1", New: "3"},
		{What: audit.Control, Path: "Kilns", New: "4"},
		{What: audit.Control, Path: "Car", New: "5"},
	} {
		if _, err := p.records.Trail.Append(ctx, r); err != nil {
			t.Fatal(err)
		}
	}
	for area, want := range map[string]string{"a-kilns": "431", "a-k1": "31", "a-car": "52"} {
		within, err := p.TrailPlace(area)
		if err != nil {
			t.Fatal(err)
		}
		list, _, err := p.Trail(ctx, store.TrailFilter{Within: within, Whats: []string{audit.Intent, audit.Delivery, audit.Control}}, 10)
		if err != nil {
			t.Fatal(err)
		}
		got := ""
		for _, r := range list {
			got += r.New
		}
		if got != want {
			t.Errorf("%s: %s, not %s", area, got, want)
		}
	}
	if _, err := p.TrailPlace("a-none"); err == nil {
		t.Error("an area that there is not has no trail")
	}
}
