package project

import (
	"testing"

	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// TestWhoSaysHowATagIsRecorded: itself, else the nearest folder, else nobody.
func TestWhoSaysHowATagIsRecorded(t *testing.T) {
	half, zero := 0.5, 0.0
	real := func(name, folder string, r *tag.Recording) tag.Tag {
		return tag.Tag{Name: name, Folder: folder, Type: value.Type{Kind: value.LREAL}, Source: tag.Internal, Record: r}
	}
	p := edited(t, New("Yard"),
		put(KindFolder, "north", "", tag.Folder{Name: "North", Record: &tag.Recording{Band: &half, Days: 90}}),
		put(KindFolder, "kiln", "", tag.Folder{Name: "Kiln", Parent: "north"}),
		put(KindTag, "usual", "", real("Usual", "", nil)), put(KindTag, "below", "", real("Below", "kiln", nil)),
		put(KindTag, "own", "", real("Own", "kiln", &tag.Recording{Band: &zero})),
		put(KindTag, "off", "", real("Off", "kiln", &tag.Recording{Off: true})))
	got := p.Recorded()
	if _, kept := got["off"]; kept || got["below"] != 0.5 || got["own"] != 0 || len(got) != 3 {
		t.Error(got)
	}
	if days := p.RecordedDays(); len(days) != 1 || days["below"] != 90 {
		t.Error(days)
	}
	for id, want := range map[string]string{"usual": "", "below": "north", "own": "own"} {
		if _, from := p.Recording(p.Tags[id]); from != want {
			t.Errorf("of %s says %q", id, from)
		}
	}
	minus := -1.0
	for place, r := range map[string]tag.Recording{"/record/band": {Band: &minus}, "/record/days": {Days: 4000}, "/record/off": {Off: true,
		Days: 90}} {
		_, _, err := p.Edit([]Op{put(KindTag, "usual", "/record", r)})
		if refusal, ok := err.(*Refusal); !ok || refusal.Path != place {
			t.Errorf("%s: %v", place, err)
		}
	}
}
