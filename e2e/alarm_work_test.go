package e2e

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// A type of equipment gets an alarm: what it would do is said first, and every
// piece of equipment has it; one of them then has a limit of its own.
func TestATypeGetsAnAlarm(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/equipment")
	b.see("Every piece of equipment of the type has them")
	b.js(`[...document.querySelectorAll('button')].find(x => x.innerText.startsWith('Fan')).click()`)
	b.see("Fan {i} tripped")
	b.click("+ Alarm")
	b.see("3 pieces of equipment: 0 tags and alarms change, 12 come, 0 go", "New alarm: new")
	b.click("Apply")
	b.see("Draft 1")
	b.until("it stands at the type", func() bool {
		return b.js(`String([...document.querySelectorAll('.alarms tbody input')].some(x => x.value === 'New alarm'))`) == "true"
	})
	b.open("/p/larchmoor/alarms")
	b.see("66 of 66 alarms")
	b.fill("Filter alarms", "Kiln2.DryBulb high")
	b.until("two alarms are left", func() bool { return strings.Contains(b.text(), "2 of 66 alarms") })
	b.js(`[...document.querySelectorAll('.grid tbody tr')].find(x => !x.innerText.includes('high-high')).click()`)
	b.see("It comes of the type Chamber", "here may differ")
	b.formula("Limit", "79")
	b.keys("\r")
	b.see("For itself: limit")
	b.choose("Priority", "low")
	b.see("comes of the type Chamber: change it there")
}

// Performance says which alarm is a nuisance, one click plays its recorded
// signal, and what would have helped is taken over.
func TestANuisanceIsCured(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/alarms")
	b.click("Performance")
	b.click("7 d")
	b.see("Chattering and fleeting", "Kiln2.DryBulb · Dry bulb high", "at most 10", "Standing for over a day", "Kiln2.Moisture[4]")
	b.js(`[...document.querySelectorAll('.performance tr')].find(x => x.innerText.includes('Dry bulb high') && x.querySelector('button')).querySelector('button').click()`)
	b.see("as it is", "as proposed")
	b.js(`[...document.querySelectorAll('.what .head button')].find(x => x.innerText.trim() === '7 d').click()`)
	b.see("Would have helped:", "Deadband")
	count := func(row int) string {
		return b.js(`(document.querySelectorAll('.sum tbody tr')[` + string(rune('0'+row)) + `] || {children: []}).children[1]?.innerText ?? ''`)
	}
	b.until("it came many times", func() bool { return len(count(0)) == 2 && count(0) == count(1) })
	b.js(`[...document.querySelectorAll('.cures button')].find(x => x.innerText.startsWith('Deadband')).click()`)
	b.until("it would have come less often", func() bool { return count(1) != "" && count(1) < count(0) || len(count(1)) < len(count(0)) })
	b.click("Take over")
	b.until("the deadband is the alarm's own", func() bool { return strings.Contains(b.text(), "For itself: deadband") })
}

// A list of alarms is pasted: what it would do stands below, a line that cannot
// be holds all of it back.
func TestAListOfAlarmsIsPasted(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/alarms")
	b.see("54 of 54 alarms")
	b.click("List")
	paste := func(text string) {
		quoted, _ := json.Marshal(text)
		b.js(`(() => { const a = document.querySelector('.sheet textarea'); a.value = ` + string(quoted) + `; a.dispatchEvent(new Event('input')); return '' })()`)
	}
	paste("signal,name,kind,limit,priority,message\nMeter.Power,Power high,high,95,low,At {value:0} kW\nMeter.Nowhere,Lost,high,1,low,x\n")
	b.see("2 lines: 1 change or come, 1 cannot be", `there is no tag "Meter.Nowhere"`)
	paste("signal,name,kind,limit,priority,message\nMeter.Power,Power high,high,95,low,At {value:0} kW\nKiln1.DryBulb,Dry bulb high,high,81,high,\n")
	b.see("comes of the type Chamber")
	paste("signal,name,kind,limit,priority,message\nMeter.Power,Power high,high,95,low,At {value:0} kW\n")
	b.see("1 lines: 1 change or come, 0 cannot be")
	b.click("Apply 1")
	b.see("55 of 55 alarms", "Power high")
}

// An alarm page is a screen like any other: who may acknowledges in it, and
// shelving is offered to who may shelve.
func TestAlarmsOnAScreen(t *testing.T) {
	s := newSite(t)
	b := s.yard("tom", "oak-and-ash")
	b.open("/desk/larchmoor/s-alarms")
	b.see("Standing", "Set aside", "suppressed by design")
	s.fault("fan3", true)
	row := `[...document.querySelectorAll('.embed .list tr')].find(x => x.innerText.includes('Fan 3 tripped'))`
	b.until("it stands in the list", func() bool { return b.js(`String(!!`+row+`)`) == "true" })
	if strings.Contains(b.text(), "Shelve") {
		t.Error("an operator is offered to shelve")
	}
	b.js(row + `.click()`)
	b.click("Acknowledge 1")
	b.until("it is acknowledged", func() bool { return b.js(`String(`+row+`.className.includes('unseen'))`) == "false" })
	// The list speaks the Desk's language.
	b.click("Tom Alder")
	b.click("Deutsch")
	b.until("the message is German", func() bool {
		return strings.Contains(b.js(`document.querySelector('.embed .list')?.innerText ?? ''`), "Lüfter 3 bei")
	})
	v := openBrowser(t, s.base)
	v.signIn("sam", "pine-and-fir")
	v.see("Larchmoor")
	v.open("/desk/larchmoor/s-alarms")
	v.see("Fan 3 tripped")
	if text := v.text(); strings.Contains(text, "in view") || strings.Contains(text, "Close and archive") {
		t.Error("a viewer is offered what a viewer may not")
	}
}

// A shift lead changes a limit at the point's card, with a reason; the next
// release asks what becomes of it. The journal is closed by right, and the
// element of an alarm is ringed on its screen.
func TestLimitsAtTheDeskAndTheJournalsEnd(t *testing.T) {
	s := newSite(t)
	b := s.yard("iris", "elm-and-yew")
	b.open("/desk/larchmoor/s-chamber1")
	b.until("the dry bulb's card is open", func() bool {
		b.js(`[...document.querySelectorAll('g[data-kind=bar]')].find(x => x.textContent.includes('Dry bulb'))?.dispatchEvent(new MouseEvent('contextmenu', {bubbles: true, cancelable: true}))`)
		return strings.Contains(b.text(), "Limit 82: change …")
	})
	b.click("Limit 82: change …")
	b.fill("New limit", "40")
	b.click("Set the limit")
	b.see("82 → 40", "allowed by the schedule", "Your signature")
	b.fill("Reason", "trial with ash")
	b.fill("Name to sign in", "iris")
	b.fill("Password", "elm-and-yew")
	b.answer()
	b.see("Kiln1.DryBulb · Dry bulb high")
	e := openBrowser(t, s.base)
	e.signIn("ada", "larch-and-spruce")
	e.see("Larchmoor")
	e.open("/p/larchmoor/release")
	e.see("Limits that were changed at the Desk", "Kiln1.DryBulb · Dry bulb high", "trial with ash")
	e.js(`[...document.querySelectorAll('.limits input')].find(x => x.value === 'adopt').click()`)
	e.click("Make release 2")
	e.until("it is adopted", func() bool { return !strings.Contains(e.text(), "Limits that were changed at the Desk") })
	e.open("/p/larchmoor/alarms")
	e.until("the draft has it", func() bool {
		return strings.Contains(e.js(`([...document.querySelectorAll('.grid tbody tr')].find(x => x.innerText.includes('Kiln1.DryBulb\tDry bulb high\t')) || {innerText: ''}).innerText`), "40")
	})

	b.open("/desk/larchmoor/s-yard")
	b.element("Link")
	b.js(`document.querySelector('.counts').click()`)
	b.fill("Find in alarms", "Dry bulb high")
	b.js(`document.querySelector('.panel [role=row]').click()`)
	b.see("Timber dries too fast")
	b.click("Open its screen")
	b.until("what shows it is ringed", func() bool { return b.js(`String(document.querySelectorAll('.found').length > 0)`) == "true" })

	b.js(`document.querySelector('.counts').click()`)
	b.click("Journal")
	b.see("limit changed", "82 → 40")
	b.click("Close and archive")
	b.see("sealed with its hash")
	b.fill("Why", "end of the trial")
	b.click("Close the journal")
	b.see("journal-20", "end of the trial", "journal closed")
	o := s.yard("tom", "oak-and-ash")
	o.js(`document.querySelector('.counts').click()`)
	o.click("Journal")
	o.see("journal closed")
	if strings.Contains(o.text(), "Close and archive") {
		t.Error("an operator is offered to close the journal")
	}
}

// A list of alarms is shaped in the editor: its columns in their order, and how
// urgent an alarm has to be.
func TestAnAlarmListIsShaped(t *testing.T) {
	s, b := workshop(t)
	b.open("/p/larchmoor/screens/s-alarms")
	b.until("the list is drawn", func() bool {
		return b.js(`String(document.querySelectorAll('.frame g[data-kind=alarmlist]').length)`) == "3"
	})
	at := b.spotOf(`.frame g[data-kind=alarmlist]`)
	b.do(chromedp.MouseClickXY(at.X, at.Y))
	b.see("Columns", "1 · Code")
	b.click("3 · Signal")
	b.click("Value")
	b.see("3 · Message", "4 · Value")
	b.choose("From", "critical")
	b.release()
	s.fault("fan1", true)
	s.fault("estop", true)
	b.open("/desk/larchmoor/s-alarms")
	list := `document.querySelector('.embed .list')?.innerText ?? ''`
	b.until("the critical one stands", func() bool { return strings.Contains(b.js(list), "Emergency stop of the car pressed") })
	b.see("Fan 1 tripped at") // in the journal below
	if text := b.js(list); strings.Contains(text, "Fan 1") || strings.Contains(text, "Car.EStop") {
		t.Errorf("the list shows %s", text)
	}
}

// TestFlagsCoverNoWord: the flag of an alarm stands beside its element where no
// word is, on every screen and at every size.
func TestFlagsCoverNoWord(t *testing.T) {
	s, e := workshop(t)
	for _, fault := range []string{"fan1", "fan2", "fan3", "burner"} {
		s.fault(fault, true)
	}
	// Words at the left of a lamp, at the screen's edge, and all about one.
	_, tagID, _ := strings.Cut(e.api("GET", "/tags?text=Kiln1.Fan[1].Fault", nil), `"id":"`)
	tagID, _, _ = strings.Cut(tagID, `"`)
	text := func(x, y int) map[string]any {
		return map[string]any{"kind": "text", "x": x, "y": y, "w": 120, "h": 24, "z": x + y, "props": map[string]any{"text": "Words beside it"}}
	}
	lamp := func(x, y int) map[string]any {
		return map[string]any{"kind": "lamp", "x": x, "y": y, "w": 120, "h": 30, "z": x + y, "props": map[string]any{"tag": tagID}}
	}
	elements := map[string]any{
		"a": text(170, 100), "b": lamp(300, 100),
		"c": lamp(4, 200),
		"d": text(170, 300), "e": lamp(300, 300), "f": text(300, 275), "g": text(435, 300),
	}
	flags := map[string]any{"name": "Flags", "width": 1280, "height": 676, "order": 9, "elements": elements}
	if out := e.edit(op{"kind": "screen", "id": "s-flags", "path": "", "value": flags}); !strings.HasPrefix(out, "200") {
		t.Fatal(out)
	}
	if out := e.api("POST", "/releases", map[string]any{"note": ""}); !strings.HasPrefix(out, "200") {
		t.Fatal(out)
	}
	b := s.panel("Kiln house", "Tom Alder", "1470")
	for _, z := range []struct{ w, h int64 }{{1280, 800}, {800, 480}} {
		b.size(z.w, z.h, 1)
		for _, screen := range []string{"", "/s-chamber1", "/s-flags"} {
			b.open("/desk/larchmoor" + screen)
			b.until("flags on "+screen, func() bool {
				return b.js(`String(document.querySelectorAll('.field [data-alarm]').length >= 2)`) == "true"
			})
			out := b.js(`(() => {
				const out = [];
				const words = [...document.querySelectorAll('.field svg text')].filter(t => t.textContent.trim() && t.checkVisibility());
				for (const flag of document.querySelectorAll('.field [data-alarm]')) {
					const f = flag.getBoundingClientRect();
					for (const w of words) {
						const r = w.getBoundingClientRect();
						if (r.width && f.left < r.right - 1 && r.left < f.right - 1 && f.top < r.bottom - 1 && r.top < f.bottom - 1) out.push('a flag covers ' + w.textContent);
					}
				}
				return out.join('\n');
			})()`)
			if out != "" {
				t.Errorf("%dx%d, %s: %s", z.w, z.h, screen, out)
			}
		}
	}
}
