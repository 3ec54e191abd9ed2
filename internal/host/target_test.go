package host_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/host"
	"readyrail/internal/run"
)

// release puts elements onto the rail car's screen and makes a release.
func (s *site) release(elements map[string]screen.Element) {
	s.t.Helper()
	var ops []project.Op
	for id, e := range elements {
		doc, _ := json.Marshal(e)
		ops = append(ops, project.Op{Kind: project.KindScreen, ID: "s-car", Path: "/elements/" + id, Value: doc})
	}
	if _, err := s.p.Edit(ctx, s.actors["ada"], "elements", ops); err != nil {
		s.t.Fatal(err)
	}
	if _, err := s.p.Publish(ctx, s.actors["ada"], host.ReleaseOrder{Note: "elements"}); err != nil {
		s.t.Fatal(err)
	}
}

var keys int

func press(element, value string) host.Command {
	keys++
	return host.Command{Screen: "s-car", Element: element, Value: value, Key: fmt.Sprintf("press-%d-%d", keys, time.Now().UnixNano()),
		At: time.Now()}
}

func (s *site) id(path string) string {
	id, ok := s.p.Draft().FindPath(path)
	if !ok {
		id, _ = s.p.Draft().FindFolder(path)
	}
	return id
}

// Who may operate a screen or an element is said by role; who has another is refused
// with the roles that may, however the element is opened.
func TestWhoMayOperateByScreenAndElement(t *testing.T) {
	s := newSite(t)
	tom, iris := s.actors["tom"], s.actors["iris"]
	write := func(who host.Actor) error {
		_, err := s.p.Write(ctx, who, s.cmd("s-chamber1", "Dry bulb set point", "66"))
		return err
	}
	op := func(path, roles string) project.Op {
		return project.Op{Kind: project.KindScreen, ID: "s-chamber1", Path: path, Value: json.RawMessage(roles)}
	}
	s.edit(op("/operators", `["r-lead"]`))
	if err := write(tom); err == nil || !strings.Contains(err.Error(), "is missing in Dry bulb set point; it comes with the role Shift lead") {
		t.Error(err)
	}
	if err := write(iris); err != nil {
		t.Error(err)
	}
	element := s.cmd("s-chamber1", "Dry bulb set point", "66").Element
	s.edit(project.Op{Kind: project.KindScreen, ID: "s-chamber1", Path: "/operators"},
		op("/elements/"+element+"/operators", `["r-maint","r-operator"]`))
	if err := write(tom); err != nil {
		t.Error(err)
	}
	if err := write(iris); err == nil || !strings.Contains(err.Error(), "it comes with the role Maintenance, Operator") {
		t.Error(err)
	}
	if err := write(s.actors["ada"]); err != nil {
		t.Errorf("the owner is refused: %v", err)
	}
}

func TestTheDoorKnowsParameters(t *testing.T) {
	s := newSite(t)
	tom := s.actors["tom"]
	c := s.cmd("s-chamber1", "Dry bulb set point", "66")
	c.Args = screen.Args{"k": s.id("Kiln3")}
	if out, err := s.p.Write(ctx, tom, c); err != nil || out.Outcome != audit.Confirmed {
		t.Fatalf("%+v %v", out, err)
	}
	if r := s.trail()[0]; r.Path != "Kiln3.DryBulbSP" || r.Screen != "Chamber · Kiln3" {
		t.Errorf("%+v", r)
	}
	// Within a symbol within a repeat.
	version := s.p.Released()
	found := ""
	for id, control := range screen.Bind(version.Screens["s-yard"], version, screen.View{}).Controls {
		if control.Element.Text("action") == screen.ActionOpen && strings.Contains(id, "/1/") {
			found = control.Name
		}
	}
	if found != "Kiln2 › Open" {
		t.Errorf("%q", found)
	}
	for what, args := range map[string]screen.Args{"no such parameter": {"x": "1"}, "no equipment of its type": {"k": s.id("Kiln1.Fan[1]")},
		"no equipment of its type ": {"k": "nonsense"}} {
		c := s.cmd("s-chamber1", "Dry bulb set point", "66")
		c.Args = args
		if _, err := s.p.Write(ctx, tom, c); err == nil || !strings.Contains(err.Error(), strings.TrimSpace(what)) {
			t.Errorf("%v: %v", args, err)
		}
		if _, err := s.p.OpenFeed(run.Release, "s-chamber1", screen.View{Args: args}, tom, 0); err == nil {
			t.Errorf("a feed opened with %v", args)
		}
	}
}

func TestWhatAnElementAsksIsAskedAtTheDoor(t *testing.T) {
	s := newSite(t)
	tom := s.actors["tom"]
	sp := s.id("Car.VelocitySP")
	s.release(map[string]screen.Element{
		"why":    {Kind: "entry", Name: "Why", W: 100, H: 60, Props: map[string]any{"tag": sp, "reason": "required", "high": 500.0}},
		"own":    {Kind: "entry", Name: "Own", W: 100, H: 60, Props: map[string]any{"tag": sp, "sign": "own"}},
		"second": {Kind: "entry", Name: "Second", W: 100, H: 60, Props: map[string]any{"tag": sp, "sign": "second"}},
		"step":   {Kind: "button", Name: "Faster", W: 100, H: 60, Props: map[string]any{"action": "step", "tag": sp, "by": 50.0}},
		"note": {Kind: "button", Name: "Note", W: 100, H: 60,
			Props: map[string]any{"action": "record", "event": "Car stood at {Car.VelocitySP:0} mm/s"}},
		"signed": {Kind: "button", Name: "Signed", W: 100, H: 60, Props: map[string]any{"action": "set", "tag": sp, "value": "310",
			"sign": "own"}, Then: []screen.Action{
			{Do: "set", Tag: s.id("Car.AccelSP"), Value: "450"}}},
		"pulse": {Kind: "button", Name: "Pulse", W: 100, H: 60,
			Props: map[string]any{"action": "pulse", "tag": sp, "value": "330", "release": "150", "pulse": 60.0}},
		"many": {Kind: "button", Name: "Many", W: 100, H: 60, Props: map[string]any{"action": "set", "tag": sp, "value": "300"},
			Then: []screen.Action{
				{Do: "set", Tag: s.id("Car.AccelSP"), Value: "400"}, {Do: "set", Tag: sp, Value: "100", When: "Car.VelocitySP > 9000"},
				{Do: "open", Screen: "s-yard"}}},
	})
	do := func(c host.Command) (host.Outcome, error) { return s.p.Write(ctx, tom, c) }
	refusedWith := func(what string, c host.Command) {
		t.Helper()
		if _, err := do(c); err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%s: %v", what, err)
		}
	}
	c := press("why", "250")
	c.Answered = true
	refusedWith("asks for a reason", c)
	c = press("why", "250")
	c.Reason = "the rail is wet"
	if _, err := do(c); err != nil {
		t.Fatal(err)
	}
	if r := s.trail()[0]; r.Reason != "the rail is wet" && s.trail()[1].Reason != "the rail is wet" {
		t.Errorf("the reason is not in the trail: %+v", s.trail()[:2])
	}
	c = press("why", "600")
	c.Reason = "hurry"
	refusedWith("outside", c)

	c = press("own", "200")
	c.Answered = true
	refusedWith("your signature", c)
	c = press("own", "200")
	c.Signatures = []host.Signature{{Secret: "oak-and-ash"}}
	refusedWith("takes your name too", c)
	c = press("own", "200")
	c.Signatures = []host.Signature{{Name: "tom", Secret: "wrong"}}
	refusedWith("do not match", c)
	c = press("own", "200")
	c.Signatures = []host.Signature{{Name: "iris", Secret: "elm-and-yew"}}
	refusedWith("signature of Tom Alder", c)
	c = press("own", "200")
	c.Signatures = []host.Signature{{Name: "Tom", Secret: "oak-and-ash"}}
	if _, err := do(c); err != nil {
		t.Error(err)
	}
	c = press("second", "220")
	c.Signatures = []host.Signature{{Name: "tom", Secret: "oak-and-ash"}}
	refusedWith("not you", c)
	c = press("second", "220")
	c.Signatures = []host.Signature{{Name: "sam", Secret: "pine-and-fir"}}
	refusedWith("right to enter values", c)
	c = press("second", "220")
	c.Signatures = []host.Signature{{Name: "iris", Secret: "elm-and-yew"}}
	if _, err := do(c); err != nil {
		t.Error(err)
	}
	if out, err := do(press("step", "")); err != nil || !strings.HasPrefix(out.New, "270") {
		t.Errorf("%+v %v", out, err)
	}
	if out, err := do(press("note", "")); err != nil || out.New != "Car stood at 270 mm/s" {
		t.Errorf("%+v %v", out, err)
	}
	if r := s.trail()[0]; r.What != audit.Event || r.New != "Car stood at 270 mm/s" || r.Name != "Tom Alder" {
		t.Errorf("%+v", r)
	}
	if out, err := do(press("pulse", "")); err != nil || out.Outcome != audit.Confirmed {
		t.Errorf("%+v %v", out, err)
	}
	s.until("the pulse has ended", func() bool { return s.show("Car.VelocitySP") == "150" })
	// All its steps go with the one press; the one whose condition is not true is
	// passed over.
	out, err := do(press("many", ""))
	if err != nil || out.Outcome != audit.Confirmed || out.Steps != 3 {
		t.Errorf("%+v %v", out, err)
	}
	s.until("two of three", func() bool { return s.show("Car.VelocitySP") == "300" && s.show("Car.AccelSP") == "400" })
	// What the button asks stands before every step: none goes without it.
	c = press("signed", "")
	c.Answered = true
	refusedWith("your signature", c)
	time.Sleep(50 * time.Millisecond)
	if s.show("Car.AccelSP") != "400" {
		t.Error("a further step went through unsigned")
	}
	c = press("signed", "")
	c.Signatures = []host.Signature{{Name: "tom", Secret: "oak-and-ash"}}
	if out, err := do(c); err != nil || out.Steps != 2 {
		t.Errorf("%+v %v", out, err)
	}
}

// A faceplate without an area is opened, and written from, by whoever may do so
// where its equipment stands.
func TestAFaceplateHasTheAreaOfItsEquipment(t *testing.T) {
	s := newSite(t)
	release := s.p.Released()
	var plate *screen.Screen
	for _, x := range release.Screens {
		if x.Role == screen.Faceplate && x.Area == "" && len(x.Params) > 0 && x.Params[0].Kind == screen.ParamEquipment {
			plate = x
		}
	}
	if plate == nil {
		t.Fatal("the demo has no faceplate without an area")
	}
	fan := func(kiln string) screen.Args { return screen.Args{plate.Params[0].ID: s.id(kiln)} }
	own := map[string]string{}
	for _, kiln := range []string{"Kiln1", "Kiln2"} {
		path := kiln
		if release.TypeOf(release.Real(s.id(kiln))) != plate.Params[0].Type {
			path = kiln + ".Fan[1]"
		}
		own[kiln] = path
	}
	id, _ := release.FindPath("Kiln1.DryBulb")
	dry, _ := release.Tag(id)
	sam := s.actors["sam"]
	if err := s.p.SetGrants(ctx, s.actors["ada"], sam.ID, []access.Grant{{Role: "r-viewer", Area: release.AreaOf(dry)}}); err != nil {
		t.Fatal(err)
	}
	if err := s.p.MayOpen(ctx, sam, plate, fan(own["Kiln1"])); err != nil {
		t.Errorf("in the person's area: %v", err)
	}
	if err := s.p.MayOpen(ctx, sam, plate, fan(own["Kiln2"])); err == nil {
		t.Error("in another area it opens too")
	}
}

func TestAScreenOpensForItsRoles(t *testing.T) {
	s := newSite(t)
	if _, err := s.p.Edit(ctx, s.actors["ada"], "roles",
		[]project.Op{{Kind: project.KindScreen, ID: "s-energy", Path: "/roles", Value: json.RawMessage(`["r-lead"]`)}}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.Publish(ctx, s.actors["ada"], host.ReleaseOrder{}); err != nil {
		t.Fatal(err)
	}
	energy := s.p.Released().Screens["s-energy"]
	var denied *access.Denied
	if err := s.p.MayOpen(ctx, s.actors["tom"], energy, nil); !errors.As(err, &denied) || len(denied.Roles) != 1 ||
		denied.Roles[0] != "Shift lead" {
		t.Errorf("%v", err)
	}
	if err := s.p.MayOpen(ctx, s.actors["iris"], energy, nil); err != nil {
		t.Error(err)
	}
	if err := s.p.MayOpen(ctx, s.actors["tom"], s.p.Released().Screens["s-yard"], nil); err != nil {
		t.Error(err)
	}
}
