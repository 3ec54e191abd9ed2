package e2e

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
)

// api calls the server from the page, as its own scripts do, and returns the
// answer's text.
func (b *browser) api(method, path string, body any) string {
	b.t.Helper()
	return b.ask(method, "/projects/larchmoor"+path, body)
}

// ask calls an operation of the server, and returns its status and answer.
func (b *browser) ask(method, path string, body any) string {
	b.t.Helper()
	doc, _ := json.Marshal(body)
	init := fmt.Sprintf(`{method: %q, headers: {'Content-Type': 'application/json'}, body: %q}`, method, doc)
	if method == "GET" {
		init = "{}"
	}
	return b.async(fmt.Sprintf(`(async () => { const r = await fetch('/api%s', %s); return r.status + ' ' + await r.text(); })()`, path, init))
}

// async evaluates a promise of a text.
func (b *browser) async(expr string) string {
	b.t.Helper()
	var out string
	b.do(chromedp.Evaluate(expr, &out, func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) }))
	return out
}

type op map[string]any

func (b *browser) edit(ops ...op) string {
	b.t.Helper()
	return b.api("POST", "/edits", map[string]any{"label": "test", "ops": ops})
}

// From an imported list of three ovens of four fans each to live screens, by
// type and repeat. Every click and key of the engineer is counted.
func TestFromAListToLiveScreens(t *testing.T) {
	_, b := workshop(t)
	clicks := 0
	click := func(name string) { t.Helper(); clicks++; b.click(name) }
	fill := func(label, text string) { t.Helper(); clicks++; b.fill(label, text) }
	choose := func(label, option string) { t.Helper(); clicks += 2; b.choose(label, option) }

	var list strings.Builder
	list.WriteString("path;type;source;device;address;unit;description;initial\n")
	for o := 1; o <= 3; o++ {
		for i, name := range []string{"Heat", "HeatSP", "Mode", "Load", "Hours"} {
			fmt.Fprintf(&list, "Oven%d.%s;INT;device;CarPLC;holding:%d;°C;%s of the oven\n", o, name, 400+o*100+i, name)
		}
		for f := 1; f <= 4; f++ {
			for i, name := range []string{"Running", "Fault", "HandMode"} {
				fmt.Fprintf(&list, "Oven%d.Fan[%d].%s;BOOL;device;CarPLC;coil:%d;;Fan %d\n", o, f, name, 400+o*100+f*4+i, f)
			}
			fmt.Fprintf(&list, "Oven%d.Fan[%d].Speed;INT;device;CarPLC;holding:%d;%%;Speed of fan %d\n", o, f, 400+o*100+20+f, f)
		}
	}
	click("Bring in")
	b.upload("ovens.csv", list.String())
	click("Bring in 63")
	b.see("63 tags brought in")

	click("Equipment")
	click("Make a type of tags")
	choose("Folder", "Oven1 (")
	b.see("Oven2", "Oven3", "21 tags", "coil 504")
	click("Make 3")
	b.see("3 made of it")
	// The fan came along as a type of its own; both get drawings to begin with.
	click("Fan2")
	b.see("12 within other equipment")
	click("Draw symbol and faceplate")
	b.see("Symbol", "Faceplate")

	click("Screens")
	click("+ Screen")
	b.see("Screen 18")
	fill("Name", "Oven")
	click("+ Parameter")
	b.see("Of type")
	choose("Of type", "Oven")
	choose("Default", "Oven1")
	fill("Name", "Oven")
	clicks++
	b.js(`[...document.querySelectorAll('.left [role=tab]')][2].click()`)
	b.see("P1.Heat", "P1.Fan[4].Speed")
	for i, name := range []string{"P1.Heat", "P1.HeatSP", "P1.Hours"} {
		clicks++
		b.drop(".left .gear", name, spot{460, 260 + float64(i)*80})
		clicks++
		b.until("something is offered for it", func() bool {
			return b.js(`(() => { const o = document.querySelector('.offer button'); if (o) o.click(); return String(!!o); })()`) == "true"
		})
	}
	clicks++
	b.drop(".left .gear", "P1.Fan[1]", spot{540, 300})
	b.see("Repeat over all 4")
	click("Repeat over all 4")
	b.until("four fans of the parameter are drawn", func() bool {
		return b.js(`String(document.querySelectorAll('.frame g[data-kind="fan"]').length)`) == "4"
	})
	// The overview: one repeat of a part that opens the screen.
	t.Logf("from the list to a live screen of three ovens: %d clicks and fields", clicks)
	if clicks > 40 {
		t.Errorf("%d clicks are too many", clicks)
	}
	var screens []struct{ ID, Name string }
	json.Unmarshal([]byte(strings.SplitN(b.api("GET", "/screens", nil), " ", 2)[1]), &screens)
	oven := ""
	for _, s := range screens {
		if s.Name == "Oven" {
			oven = s.ID
		}
	}
	doc := b.api("GET", "/screens/"+oven, nil)
	if !strings.Contains(doc, `"tag":"$`) || !strings.Contains(doc, `"array":"$`) {
		t.Errorf("the screen does not go by its parameter: %s", doc)
	}
}

func TestATypeIsChangedUnderItsEquipment(t *testing.T) {
	_, b := workshop(t)
	// Kiln2 has something for itself.
	if out := b.edit(op{"kind": "tag", "id": "t-k2-008", "path": "/description", "value": "Ours alone"}); !strings.HasPrefix(out, "200") {
		t.Fatal(out)
	}
	b.open("/p/larchmoor/equipment/t-gear-003")
	b.see("12 within other equipment", "Running", "Speed")
	b.js(`(() => { const e = [...document.querySelectorAll('td input')].find(x => x.value === 'A'); e.value = 'mA'; e.dispatchEvent(new Event('change')); })()`)
	b.see("3 pieces of equipment: 12 tags and alarms change, 0 come, 0 go", "Kiln3.Fan[4].Current: unit A → mA")
	b.click("Apply")
	b.gone("12 tags and alarms change")
	b.until("every fan follows", func() bool { return strings.Contains(b.api("GET", "/tags/t-k3-032", nil), `"unit":"mA"`) })
	b.until("what one has for itself stays", func() bool { return strings.Contains(b.api("GET", "/tags/t-k2-008", nil), "Ours alone") })
	b.do(chromedp.MouseClickXY(1100, 20))
	b.keys("z", input.ModifierCtrl)
	b.see("Taken back: change the type Fan")
	// New equipment from pasted rows; one of them cannot be.
	b.open("/p/larchmoor/equipment/t-gear-001")
	b.see("3 made of it")
	b.fill("New ones, one a line", "Kiln4, KilnPLC, 600, 600, 600, 600\nKiln1, KilnPLC, 1, 1, 1, 1")
	b.see("there is already something of this path")
	b.fill("New ones, one a line", "Kiln4, KilnPLC, 600, 600, 600, 600")
	b.click("Make 1")
	b.see("4 made of it")
	b.until("its tags are there", func() bool {
		return strings.Contains(b.api("GET", "/tags?text=Kiln4.Fan%5B2%5D.Speed", nil), "input:625")
	})
}

func TestFaceplatesParametersAndLanguages(t *testing.T) {
	s, _ := workshop(t)
	b := openBrowser(t, s.base)
	b.signIn("tom", "oak-and-ash")
	b.see("Kiln1", "Kiln3", "Kiln2")
	// A fan opens its faceplate; Escape closes it.
	at := b.spotOf(`g[data-element*="/e005"]`)
	b.do(chromedp.MouseClickXY(at.X, at.Y))
	b.see("Fan[", "Turns back", "Tripped")
	b.keys("\x1b")
	b.gone("Turns back")
	// One screen serves each chamber.
	b.click("Open Kiln2")
	b.see("Drying chamber Kiln2", "Spruce")
	b.click("Kiln3")
	b.see("Drying chamber Kiln3", "Oak")
	b.click("Burner")
	b.see("Burner of Kiln3", "Flame proven")
	b.keys("\x1b")
	b.gone("Flame proven")
	// About a point, by the menu key.
	spot := b.element("Wet bulb set point")
	b.do(chromedp.MouseClickXY(spot.X, spot.Y, chromedp.ButtonRight))
	b.see("Kiln3.WetBulbSP", "holding:401", "KilnPLC", "untested")
	b.keys("\x1b")
	// A write through the parameter reaches the right register.
	b.clickElement("Wet bulb set point")
	b.see("Limits")
	for _, k := range "44" {
		b.click(string(k))
	}
	b.click("Enter")
	b.see("Wet bulb set point: 44")
	if got := s.register(1, "holding:401", "INT"); got != "440" {
		t.Errorf("the third chamber has %s, want 440", got)
	}
	b.click("Tom Alder")
	b.click("Deutsch")
	b.see("Sollwert Feuchtkugel")
	// The chamber cools until it is idle.
	b.until("its state is named in German", func() bool {
		return strings.Contains(b.text(), "Kühlen") || strings.Contains(b.text(), "Ruhe")
	})
	b.click("Tom Alder")
	b.click("English")
	b.see("Wet bulb set point")
}

func TestTwoPeopleOnOneScreen(t *testing.T) {
	alone(t)
	s, ada := workshop(t)
	// A second engineer.
	ada.open("/p/larchmoor/screens/s-energy")
	ada.see("Energy and weather")
	// A second engineer: the shift lead is given the role.
	var people []struct{ ID, Name string }
	json.Unmarshal([]byte(strings.SplitN(ada.api("GET", "/people", nil), " ", 2)[1]), &people)
	for _, p := range people {
		if p.Name == "iris" {
			if out := ada.api("PUT", "/people/"+p.ID+"/grants",
				[]map[string]any{{"person": p.ID, "role": "r-engineer", "area": ""}}); !strings.HasPrefix(out, "2") {
				t.Fatal(out)
			}
		}
	}
	other := openBrowser(t, s.base)
	other.signIn("iris", "elm-and-yew")
	other.see("Larchmoor drying yard")
	other.open("/p/larchmoor/screens/s-energy")
	other.see("Energy and weather")
	// Different properties of one element live side by side; the same one is
	// refused with both versions.
	if out := ada.edit(op{"kind": "screen", "id": "s-energy", "path": "/elements/e002/x", "value": 30, "was": 24}); !strings.HasPrefix(out,
		"200") {
		t.Fatal(out)
	}
	if out := other.edit(op{"kind": "screen", "id": "s-energy", "path": "/elements/e002/y", "value": 80, "was": 76}); !strings.HasPrefix(out,
		"200") {
		t.Fatal(out)
	}
	out := other.edit(op{"kind": "screen", "id": "s-energy", "path": "/elements/e002/x", "value": 40, "was": 24})
	if !strings.HasPrefix(out, "409") || !strings.Contains(out, `"theirs":30`) || !strings.Contains(out, `"yours":40`) {
		t.Errorf("a stale edit: %s", out)
	}
	ada.see("Iris Rowan edits this screen too")
	other.see("Ada Birch edits this screen too")
	other.until("the other's place is drawn", func() bool {
		return other.js(`(document.querySelector('.frame g[data-element="e002"]') || {getAttribute(){}}).getAttribute('transform')`) == "translate(30 80)"
	})
}

func TestTheEditorByKeyboard(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/screens/s-energy")
	b.see("Energy and weather")
	count := func() string { return b.js(`String(document.querySelectorAll('.frame g[data-element]').length)`) }
	begin := count()
	b.js(`document.querySelector('.frame').focus()`)
	b.keys("\t")
	b.see("1 of 13 selected")
	b.keys("d", input.ModifierCtrl)
	b.see("1 of 14 selected")
	b.keys("a", input.ModifierCtrl)
	b.keys("g", input.ModifierCtrl)
	b.see("1 of 15 selected", "Group")
	b.until("all lie in the group", func() bool {
		return b.js(`String(document.querySelectorAll('.frame g[data-kind="group"] g[data-element]').length)`) == "14"
	})
	b.keys("\r")
	b.keys("\x1b")
	b.keys("\x1b")
	b.keys("a", input.ModifierCtrl)
	b.keys("g", input.ModifierCtrl, input.ModifierShift)
	b.see("14 of 14 selected")
	b.keys("l", input.ModifierCtrl)
	b.keys("\x1b")
	b.keys("a", input.ModifierCtrl)
	b.gone("14 of 14 selected")
	for range 5 {
		b.keys("z", input.ModifierCtrl)
	}
	b.until("all is as it was", func() bool { return count() == begin })
}

func TestADrawingWithAScriptIsMadeSafe(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/screens/s-energy")
	b.see("Energy and weather")
	b.js(`(async () => {
		const svg = '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40" onload="window.pwned=1"><script>window.pwned=2</' + 'script><g id="lid"><rect width="40" height="40" fill="#123456" onclick="window.pwned=3"/></g><foreignObject><img src="x" onerror="window.pwned=4"/></foreignObject></svg>';
		const r = await fetch('/api/projects/larchmoor/pictures?name=lid.svg', {method: 'POST', headers: {'Content-Type': 'application/octet-stream'}, body: svg});
		const p = await r.json();
		document.body.dataset.picture = p.id;
		document.body.dataset.left = String(p.left) + ' of ' + p.parts;
	})(); 1`)
	b.until("the drawing is in", func() bool {
		left := b.js(`document.body.dataset.left || ''`)
		return strings.Contains(left, "<script>") && strings.Contains(left, "event onclick") && strings.Contains(left, "of lid")
	})
	if out := b.edit(op{"kind": "screen", "id": "s-energy", "path": "/elements/pic",
		"value": map[string]any{"kind": "picture", "x": 700, "y": 20, "w": 60, "h": 60, "z": 99,
			"props": map[string]any{"picture": b.js(`document.body.dataset.picture`)},
			"bind":  map[string]any{"part:lid/opacity": "Kiln1.Mode == 2 ? 40 : 100"}}}); !strings.HasPrefix(out, "200") {
		t.Fatal(out)
	}
	b.until("the drawing stands, its part follows its formula", func() bool {
		return b.js(`(document.querySelector('.frame [data-part="lid"]') || {style: {}}).style.opacity`) == "0.4"
	})
	if got := b.js(`String(window.pwned)`); got != "undefined" {
		t.Errorf("a script of the drawing ran: %s", got)
	}
}

// A screen with as many elements as there may be opens, and one more is
// refused.
func TestAScreenWithFiveThousandElements(t *testing.T) {
	alone(t)
	_, b := workshop(t)
	elements := map[string]any{}
	for i := range 5000 {
		elements[fmt.Sprintf("x%04d", i)] = map[string]any{"kind": "rect", "x": i % 100 * 12, "y": i / 100 * 12, "w": 10, "h": 10, "z": i}
	}
	if out := b.edit(op{"kind": "screen", "id": "s-many", "path": "",
		"value": map[string]any{"name": "Many", "width": 1280, "height": 676, "order": 9, "elements": elements}}); !strings.HasPrefix(out,
		"200") {
		t.Fatalf("%.300s", out)
	}
	b.open("/p/larchmoor/screens/s-many")
	b.until("every element is drawn", func() bool {
		return b.js(`String(document.querySelectorAll('.frame g[data-element]').length)`) == "5000"
	})
	if out := b.edit(op{"kind": "screen", "id": "s-many", "path": "/elements/more",
		"value": map[string]any{"kind": "rect", "x": 0, "y": 0, "w": 1, "h": 1, "z": 1}}); !strings.Contains(out, "at most 5000 elements") {
		t.Errorf("%.300s", out)
	}
}

// A screen is walked over for its acceptance, by clicks and by keys.
func TestAScreenIsWalkedOver(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/screens/s-car")
	b.element("Jog speed")
	b.click("Screen check")
	b.see("Who may use Rail car", "may look and operate")
	open := b.js(`String(document.querySelectorAll('.marks .open').length)`)
	b.keys("p")
	b.see("1 of ")
	b.until("the walk is at the jog speed", func() bool {
		b.clickElement("Jog speed")
		time.Sleep(200 * time.Millisecond)
		return strings.Contains(b.text(), "Car.VelocitySP")
	})
	b.see("Limits")
	b.click("Failed")
	b.see("what failed")
	b.fill("Note", "the upper limit is wrong")
	b.click("Failed")
	b.until("its corner is a cross", func() bool {
		return b.js(`String(document.querySelectorAll('.marks .failed').length)`) == "1" &&
			b.js(`String(document.querySelectorAll('.marks .open').length)`) != open
	})
	b.clickElement("Jog speed")
	b.see("the upper limit is wrong", "Ada")
	// Another limit opens it again; the other proofs stay.
	b.edit(op{"kind": "screen", "id": "s-car", "path": "/elements/" + b.js(`document.querySelector('.frame g[aria-label^="Jog speed"]').dataset.element`) + "/props/high", "value": 1.5})
	b.see("changed since")
	b.click("End")
	b.gone("Who may use")
}

// What is copied finds tags and symbols of the same names in another project.
func TestPasteIntoAnotherProject(t *testing.T) {
	_, b := workshop(t)
	made := b.async(`(async () => { const r = await fetch('/api/projects', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: '{"name":"Other yard"}'}); return r.status + ' ' + await r.text(); })()`)
	var other struct{ ID string }
	if json.Unmarshal([]byte(strings.SplitN(made, " ", 2)[1]), &other); !strings.HasPrefix(made, "200") || other.ID == "" {
		t.Fatal(made)
	}
	doc, _ := json.Marshal(map[string]any{"label": "x", "ops": []op{
		{"kind": "folder", "id": "f", "path": "", "value": map[string]any{"name": "Car"}},
		{"kind": "tag", "id": "there", "path": "", "value": map[string]any{"name": "Position", "folder": "f", "type": "LREAL",
			"source": "internal"}},
		{"kind": "screen", "id": "s-there", "path": "",
			"value": map[string]any{"name": "There", "width": 800, "height": 600, "order": 1, "home": true, "elements": map[string]any{}}}}})
	if out := b.async(fmt.Sprintf(`(async () => { const r = await fetch('/api/projects/%s/edits', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: %q}); return r.status + ' ' + await r.text(); })()`, other.ID, doc)); !strings.HasPrefix(out, "200") {
		t.Fatal(out)
	}
	b.open("/p/larchmoor/screens/s-car")
	b.clickElement("Position")
	b.see("Car.Position")
	b.keys("c", input.ModifierCtrl)
	b.until("it is copied", func() bool { return strings.Contains(b.js(`localStorage.getItem('rr-copied') || ''`), "Car.Position") })
	b.open("/p/" + other.ID + "/screens/s-there")
	b.until("the empty screen is open", func() bool { return b.js(`String(!!document.querySelector('.frame [data-root]'))`) == "true" })
	b.focusCanvas()
	b.keys("v", input.ModifierCtrl)
	b.element("Position")
	b.clickElement("Position")
	b.see("Car.Position")
	shown := b.async(fmt.Sprintf(`(async () => (await fetch('/api/projects/%s/screens/s-there')).text())()`, other.ID))
	if !strings.Contains(shown, `"tag":"there"`) {
		t.Error(shown)
	}
}
