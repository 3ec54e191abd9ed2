package host_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/demo"
	"readyrail/internal/host"
	"readyrail/internal/plant"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

const drying = "b-drying"

// cooled has the third chamber cool down until it is idle.
func (s *site) cooled() {
	s.t.Helper()
	for range 30_000 {
		s.plant.Advance()
	}
	s.until("Kiln3 is idle", func() bool { return s.show("Kiln3.Mode") == "idle" })
}

// recipe finds a recipe by name.
func (s *site) recipe(name string) host.RecipeShown {
	s.t.Helper()
	page, err := s.p.Plant().Recipes(ctx, s.actors["ada"], host.RecipeAsk{Book: drying, Text: name})
	if err != nil || len(page.List) != 1 {
		s.t.Fatalf("%s: %v %v", name, page, err)
	}
	return page.List[0]
}

// book is the drying book as the plant runs it.
func (s *site) book() host.BookShown {
	s.t.Helper()
	list, err := s.p.Plant().Books(ctx, s.actors["ada"], false, "")
	if err != nil {
		s.t.Fatal(err)
	}
	return list[slices.IndexFunc(list, func(b host.BookShown) bool { return b.ID == drying })]
}

func (s *site) target(path string) string {
	for _, t := range s.book().Targets {
		if t.Path == path {
			return t.ID
		}
	}
	s.t.Fatalf("no target %s", path)
	return ""
}

// values are those of a recipe's newest version.
func (s *site) values(id string) map[string]string {
	s.t.Helper()
	sheets, err := s.p.Plant().Sheets(ctx, s.actors["ada"], drying, false, []host.SheetAsk{{Recipe: id}})
	if err != nil {
		s.t.Fatal(err)
	}
	out := map[string]string{}
	for i, f := range s.book().Fields {
		if f.Formula == "" {
			out[f.ID] = sheets[0].Cells[i].Text
		}
	}
	return out
}

// sent sends a recipe and waits for the delivery's end.
func (s *site) sent(who, recipe string, version int64, target, key string) (*host.DeliveryShown, error) {
	s.t.Helper()
	seq, err := s.p.Plant().Deliver(ctx, s.actors[who], drying, host.DeliveryOrder{
		DeliveryAsk: host.DeliveryAsk{Recipe: recipe, Version: version, Target: target}, Key: key})
	if err != nil {
		return nil, err
	}
	var d *host.DeliveryShown
	s.until("the delivery is over", func() bool {
		d, err = s.p.Plant().Delivery(ctx, s.actors[who], seq)
		return err == nil && d.Ended > 0 && d.Progress == nil
	})
	return d, err
}

// TestARecipeGoesItsRound makes, approves, sends, compares and deletes a recipe,
// as the people of the yard may.
func TestARecipeGoesItsRound(t *testing.T) {
	s := newSite(t)
	tom, iris, sam := s.actors["tom"], s.actors["iris"], s.actors["sam"]
	larch := s.recipe("Larch 50")
	if larch.State != "approved" || larch.Problems != 0 || larch.Latest != 1 {
		t.Fatalf("%+v", larch)
	}
	values := s.values(larch.ID)
	values["f12"] = "63.5"
	altered := []host.RecipeDraft{{Recipe: larch.ID, Base: 1, Values: values}}
	if _, err := s.p.Plant().SaveRecipes(ctx, sam, drying, false, altered, ""); err == nil {
		t.Error("a viewer changed a recipe")
	}
	if _, err := s.p.Plant().SaveRecipes(ctx, tom, drying, false, altered, "too slow"); err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.Plant().SaveRecipes(ctx, iris, drying, false, altered, ""); err == nil ||
		!strings.Contains(err.Error(), "Tom Alder wrote version 2") {
		t.Errorf("a stale edit is taken: %v", err)
	}
	if err := s.p.Plant().JudgeRecipe(ctx, tom, larch.ID, host.Judgement{Version: 2, Approve: true}); err == nil {
		t.Error("an operator approved")
	}
	third := s.target("Kiln3")
	if _, err := s.sent("tom", larch.ID, 2, third, "k-draft"); err == nil || !strings.Contains(err.Error(), "not approved") {
		t.Errorf("a draft is sent: %v", err)
	}
	if err := s.p.Plant().JudgeRecipe(ctx, iris, larch.ID, host.Judgement{Version: 2, Approve: true}); err != nil {
		t.Fatal(err)
	}
	s.until("the condition's tags are read", func() bool { return s.show("Kiln3.Mode") != "bad" })
	if _, err := s.sent("tom", larch.ID, 2, third, "k-hot"); err == nil || !strings.Contains(err.Error(), "not idle") {
		t.Errorf("a chamber that cools got a recipe: %v", err)
	}
	s.cooled()
	plan, err := s.p.Plant().PlanDelivery(ctx, tom, drying, host.DeliveryAsk{Recipe: larch.ID, Version: 2, Target: third})
	if err != nil || len(plan.Against) > 0 || plan.Requests != 1 || len(plan.Fields) != 29 || plan.Holds != "Mode == 0 and DoorClosed" {
		t.Fatalf("%+v %v", plan, err)
	}
	d, err := s.sent("tom", larch.ID, 2, third, "k-1")
	if err != nil || d.State != "delivered" || d.Fields[6].State != "confirmed" {
		t.Fatalf("%+v %v", d, err)
	}
	s.until("the chamber shows it", func() bool {
		return s.show("Kiln3.Schedule.Step[2].Dry") == "63.5" && s.show("Kiln3.Species") == "Larch" &&
			s.show("Kiln3.DryBulbSP") == "52.0" &&
			s.show("Kiln3.Schedule.Ready") == "off"
	})
	s.altered(larch.ID, third)
	s.deleted(larch.ID)
}

// altered alters a value at the device, as somebody does at its own panel.
func (s *site) altered(recipe, target string) {
	t, ada := s.t, s.actors["ada"]
	state := func() host.TargetState {
		list, err := s.p.Plant().TargetStates(ctx, ada, drying)
		if err != nil {
			t.Fatal(err)
		}
		return list[slices.IndexFunc(list, func(x host.TargetState) bool { return x.Target == target })]
	}
	if x := state(); x.Runs == nil || x.Runs.Title != "Larch 50" || x.Runs.Version != 2 || x.Changed != 0 {
		t.Errorf("%+v", x)
	}
	s.told("Larch 50", "2", "0", "0")
	s.until("the load's span tells what it runs with", func() bool {
		spans, err := s.p.LogSpans(ctx, ada, "l-drying", target, "", 0)
		return err == nil && len(spans) > 0 && spans[0].Recipe == "Larch 50" && spans[0].RecipeVersion == 2
	})
	if err := s.plant.WriteRegisters(plant.KilnUnit, 2*plant.ChamberStep+31, []uint16{95}); err != nil {
		t.Fatal(err)
	}
	s.until("the comparison shows it", func() bool { return state().Changed == 1 })
	s.told("Larch 50", "2", "1", "0")
	sheets, err := s.p.Plant().Sheets(ctx, ada, drying, false, []host.SheetAsk{{Recipe: recipe}, {Target: &target}})
	if err != nil || sheets[1].Differs != 1 || !sheets[1].Cells[2].Differs || sheets[1].Cells[2].Shown != "9.5" {
		t.Errorf("%+v %v", sheets[1], err)
	}
}

// told waits until the tags of the third chamber's schedule tell a recipe, its
// version, how many of its fields differ, and what was left half-way.
func (s *site) told(want ...string) {
	s.t.Helper()
	names := []string{"Runs", "Version", "Changed", "Left"}
	s.until(fmt.Sprintf("the schedule's tags tell %q", want), func() bool {
		for i, name := range names {
			if s.show("Kiln3.Schedule."+name) != want[i] {
				return false
			}
		}
		return true
	})
}

// half is how the alarm of the third chamber stands that is on while half a schedule
// is in it.
func (s *site) half() alarm.Standing {
	s.t.Helper()
	board, err := s.p.Alarms(ctx, s.actors["ada"], run.Release, true, "")
	if err != nil {
		s.t.Fatal(err)
	}
	for _, a := range board.Alarms {
		if a.Name == "Half a schedule" && strings.HasPrefix(a.Path, "Kiln3.") {
			return a.State
		}
	}
	return "gone"
}

func (s *site) deleted(id string) {
	t, tom := s.t, s.actors["tom"]
	if n, err := s.p.Plant().DeleteRecipes(ctx, tom, drying, []string{id}, false, "no larch this year"); err != nil || n != 1 {
		t.Fatal(n, err)
	}
	if page, err := s.p.Plant().Recipes(ctx, tom, host.RecipeAsk{Book: drying, Text: "larch 50"}); err != nil || page.Count != 0 {
		t.Error(page, err)
	}
	anew := []host.RecipeDraft{{Name: "Larch 50", Values: s.values(id)}}
	if _, err := s.p.Plant().SaveRecipes(ctx, tom, drying, false, anew, ""); err != nil {
		t.Error(err)
	}
	if _, err := s.p.Plant().DeleteRecipes(ctx, tom, drying, []string{id}, true, ""); err == nil {
		t.Error("two recipes of one name")
	}
	if err := s.p.Plant().RenameRecipe(ctx, tom, s.recipe("Larch 50").ID, "Larch 50 new"); err != nil {
		t.Error(err)
	}
	if n, err := s.p.Plant().DeleteRecipes(ctx, tom, drying, []string{id}, true, ""); err != nil || n != 1 {
		t.Error(n, err)
	}
	var told []string
	list, _, err := s.p.Trail(ctx, store.TrailFilter{}, 300)
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range list {
		if r.What == audit.RecipeSet || r.What == audit.Delivery {
			told = append(told, r.Name+" "+r.New)
		}
	}
	for _, want := range []string{"Tom Alder written: Larch 50, version 2", "Iris Rowan approved: Larch 50, version 2",
		"Tom Alder Larch 50, version 2: delivered", "Tom Alder deleted: 1: Larch 50", "Tom Alder brought back: 1: Larch 50"} {
		if !slices.Contains(told, want) {
			t.Errorf("the trail has no %q: %q", want, told)
		}
	}
}

// TestADeliveryBreaksOff has the server end in the middle of a delivery: the next
// start finds it, says so, and what was there is put back or left by a person.
func TestADeliveryBreaksOff(t *testing.T) {
	s := newSite(t)
	s.cooled()
	larch, third := s.recipe("Larch 50"), s.target("Kiln3")
	ada := s.actors["ada"]
	s.edit(project.Op{Kind: project.KindBook, ID: drying, Path: "/sending/putBack", Value: []byte("false")})
	// The controller is deaf: the request stands until the time-out.
	if err := s.plant.WriteBits(plant.KilnUnit, plant.Faults["deaf"], []bool{true}); err != nil {
		t.Fatal(err)
	}
	seq, err := s.p.Plant().Deliver(
		ctx,
		ada,
		drying,
		host.DeliveryOrder{DeliveryAsk: host.DeliveryAsk{Recipe: larch.ID, Version: 1, Target: third}, Key: "k-broken"},
	)
	if err != nil {
		t.Fatal(err)
	}
	var d *host.DeliveryShown
	s.until("the controller is asked", func() bool {
		d, err = s.p.Plant().Delivery(ctx, ada, seq)
		return err == nil && d.Progress != nil && d.Progress.Phase == "asking"
	})
	s.told("", "0", "0", "0")
	if d.Progress.Written != 29 || d.Progress.Read != 29 || d.Progress.Requests != 1 {
		t.Errorf("%+v", d.Progress)
	}
	if _, err := s.sent("tom", larch.ID, 1, third, "k-beside"); err == nil || !strings.Contains(err.Error(), "under way") {
		t.Errorf("two deliveries to one chamber: %v", err)
	}
	dir := s.crash()
	s.h.Close()
	s.dir = dir
	s.open()
	s.p, _ = s.h.Project(demo.ID)
	s.until("values after the start", func() bool { return s.show("Kiln3.Mode") == "idle" && s.show("Kiln3.DoorClosed") == "closed" })
	if d, err = s.p.Plant().Delivery(ctx, ada, seq); err != nil || !d.Open || d.State != "half" {
		t.Fatalf("%+v %v", d, err)
	}
	if s.until("what it left is seen", func() bool { return s.show("Kiln3.Schedule.Thickness") == "50" }); !strings.Contains(
		d.Reason,
		"server ended",
	) {
		t.Error(d.Reason)
	}
	s.told("", "0", "0", "1")
	s.until("it is an alarm", func() bool { return s.half() == "unacknowledged" })
	if err := s.p.Plant().SettleDelivery(ctx, ada, seq, ""); err == nil {
		t.Error("left as it is without a reason")
	}
	if err := s.p.Plant().PutBackDelivery(ctx, ada, seq, "k-back"); err != nil {
		t.Fatal(err)
	}
	s.until("what was there is back", func() bool {
		return s.show("Kiln3.Schedule.Species") == "Oak" && s.show("Kiln3.Schedule.Thickness") == "27"
	})
	s.told("", "0", "0", "0")
	s.until("what the alarm was about is over", func() bool { return s.half() == "returned" })
	if d, _ = s.p.Plant().Delivery(ctx, ada, seq); d.Open || d.Settled != "put back by Ada Birch" {
		t.Errorf("%+v", d)
	}
	if err := s.p.Plant().PutBackDelivery(ctx, ada, seq, "k-back2"); err == nil {
		t.Error("put back twice")
	}
}

// TestABooksChangeCarriesRecipesOver adds a field, drops one and alters the type
// of a third: the recipes are there under the new book, and what does not fit is
// kept aside.
func TestABooksChangeCarriesRecipesOver(t *testing.T) {
	s := newSite(t)
	larch := s.recipe("Larch 50")
	ada := s.actors["ada"]
	draft, err := s.p.Plant().Books(ctx, ada, true, "")
	if err != nil {
		t.Fatal(err)
	}
	b := *draft[slices.IndexFunc(draft, func(b host.BookShown) bool { return b.ID == drying })].Def
	fresh := b.Fields[5]
	fresh.ID, fresh.Name, fresh.Title, fresh.Default = "f99", "Customer", "Customer", "unknown"
	b.Fields = append(slices.Clone(b.Fields[:4]), append(slices.Clone(b.Fields[5:]), fresh)...)
	b.Fields[0].Type = value.Type{Kind: value.STRING, Len: 3}
	b.Begin = nil
	doc, err := json.Marshal(b)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.Edit(ctx, ada, "x", []project.Op{{Kind: project.KindBook, ID: drying, Value: doc}}); err != nil {
		t.Fatal(err)
	}
	sheets, err := s.p.Plant().Sheets(ctx, ada, drying, true, []host.SheetAsk{{Recipe: larch.ID}})
	if err != nil {
		t.Fatal(err)
	}
	var said []string
	for _, c := range sheets[0].Carried {
		said = append(said, string(c.What)+" "+c.Field)
	}
	slices.Sort(said)
	if got := strings.Join(said, ", "); got != "added f99, aside f05, unfit f01" {
		t.Error(got)
	}
	if n := len(sheets[0].Problems); n == 0 {
		t.Error("a value that does not fit is no problem")
	}
	// What a release of it would do to the recipes is told before.
	preview, err := s.p.Plant().CarryPreview(ctx, ada)
	if err != nil || preview.Looked != 10 || preview.Count != 10 {
		t.Fatalf("%+v %v", preview, err)
	}
	at := slices.IndexFunc(preview.List, func(c host.CarriedRecipe) bool { return c.Recipe == larch.ID })
	if c := preview.List[at]; !c.Alters || !strings.Contains(c.Problem, "Species") {
		t.Errorf("%+v", c)
	}
	if _, err := s.p.Plant().CarryPreview(ctx, s.actors["tom"]); err == nil {
		t.Error("an operator looks at what a release would do")
	}
	// The plant runs the release: there nothing has changed.
	if now, _ := s.p.Plant().Sheets(ctx, ada, drying, false, []host.SheetAsk{{Recipe: larch.ID}}); len(now[0].Carried) != 0 ||
		now[0].Cells[0].Text != "Larch" {
		t.Errorf("%+v", now[0].Cells[0])
	}
}

// TestRecipesComeFromAFile reads what was written out, altered by hand as people
// do: each row says what it would do, and what is taken comes in whole.
func TestRecipesComeFromAFile(t *testing.T) {
	s := newSite(t)
	tom := s.actors["tom"]
	var lines [][]string
	err := s.p.Plant().RecipeLines(ctx, tom, drying, false, func(line []string) error {
		lines = append(lines, slices.Clone(line))
		return nil
	})
	if err != nil || len(lines) != 11 || lines[0][0] != "Name" || lines[0][1] != "Species" {
		t.Fatal(err, lines)
	}
	file := func(list [][]string) []byte {
		var b strings.Builder
		for _, line := range list {
			b.WriteString(strings.Join(line, ";") + "\r\n")
		}
		return []byte(b.String())
	}
	read := func(data []byte) *host.RecipeFile {
		t.Helper()
		out, err := s.p.Plant().ReadRecipes(ctx, tom, drying, false, data)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	for _, row := range read(file(lines)).Rows {
		if row.Status != "same" || len(row.Problems) > 0 {
			t.Errorf("what was written out is %+v", row)
		}
	}
	lines[0] = append(lines[0], "Dry bulb", "Supplier")
	lines[1][2] = "29"       // thickness of the first
	lines[2][2] = "2,9"      // no number
	lines[3][0] = "Alder 20" // a new one
	lines[4][2] = "500"      // above its limit
	lines = append(lines, lines[5])
	out := read(file(lines))
	var got []string
	for _, row := range out.Rows {
		got = append(got, row.Status)
	}
	if said := strings.Join(got, " "); said != "changed refused new changed same same same same same same refused" {
		t.Error(said)
	}
	// Several fields are called Dry bulb: none is meant.
	if strings.Join(out.Ignored, ",") != "Dry bulb,Supplier" || out.Rows[0].Line != 2 || len(out.Rows[0].Differs) != 1 ||
		len(out.Rows[3].Problems) != 1 || !strings.Contains(out.Rows[10].Reason.String(), "twice") {
		t.Errorf("%v %+v", out.Ignored, out.Rows[0])
	}
	var list []host.RecipeDraft
	for _, row := range out.Rows {
		if row.Status == "new" || row.Status == "changed" {
			d := host.RecipeDraft{Recipe: row.Recipe, Base: row.Base, Values: row.Values}
			if row.Recipe == "" {
				d.Name = row.Name
			}
			list = append(list, d)
		}
	}
	if _, err := s.p.Plant().SaveRecipes(ctx, tom, drying, false, list, "a file"); err != nil {
		t.Fatal(err)
	}
	if x := s.recipe("Alder 20"); x.Latest != 1 || x.State != "draft" {
		t.Errorf("%+v", x)
	}
	for _, bad := range []string{"", "Species;Thickness\nOak;27", "\x00\x01", "PK\x03\x04 no workbook"} {
		if _, err := s.p.Plant().ReadRecipes(ctx, tom, drying, false, []byte(bad)); err == nil {
			t.Errorf("%q is taken", bad)
		}
	}
	if _, err := s.p.Plant().ReadRecipes(ctx, s.actors["sam"], drying, false, file(lines)); err == nil {
		t.Error("a viewer brings recipes in")
	}
}
