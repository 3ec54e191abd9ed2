package e2e

import (
	"fmt"
	"io"
	"net"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"readyrail/internal/plant"
)

// fault injects a fault into the plant, or takes it away and resets what it
// left, past the server.
func (s *site) fault(name string, on bool) {
	s.t.Helper()
	s.coil(plant.Faults[name], on)
	if !on {
		s.coil(2, true)
	}
}

func (s *site) coil(coil uint16, on bool) {
	s.t.Helper()
	c, err := net.Dial("tcp", s.modbus)
	if err != nil {
		s.t.Fatal(err)
	}
	defer c.Close()
	value := byte(0)
	if on {
		value = 0xff
	}
	if _, err := c.Write([]byte{0, 1, 0, 0, 0, 6, plant.KilnUnit, 5, byte(coil >> 8), byte(coil), value, 0}); err != nil {
		s.t.Fatal(err)
	}
	if _, err := io.ReadFull(c, make([]byte, 12)); err != nil {
		s.t.Fatal(err)
	}
}

// yard opens the Desk's first screen for a person.
func (s *site) yard(name, password string) *browser {
	s.t.Helper()
	b := openBrowser(s.t, s.base)
	b.signIn(name, password)
	b.see("Larchmoor")
	b.open("/desk/larchmoor/s-yard")
	b.element("Link")
	return b
}

// An operator sees an alarm come, acknowledges it, finds it in the list and in
// the journal; what needs another right is not offered.
func TestAnOperatorHandlesAlarms(t *testing.T) {
	s := newSite(t)
	b := s.yard("tom", "oak-and-ash")
	s.fault("fan2", true)
	b.see("Fan 2 tripped at")
	b.until("its place in the navigation carries it", func() bool {
		return b.js(`String([...document.querySelectorAll('.nav button')].some(x => x.innerText.includes('Kiln1') && x.querySelector('.worst')))`) == "true"
	})
	// In the list, by keyboard alone: down, enter.
	b.js(`document.querySelector('.counts').click()`)
	b.see("Kiln1.Fan[2].Fault · Fan 2 tripped", "in view")
	b.fill("Find in alarms", "tripped")
	b.gone("Dry bulb changes too fast")
	b.js(`document.querySelector('.panel [role=grid]').focus()`)
	b.keys(kb.ArrowDown)
	b.see("What to do", "Look at the breaker; reset once")
	if strings.Contains(b.text(), "Shelve") {
		t.Error("an operator is offered to shelve")
	}
	b.keys("\r")
	b.until("it is acknowledged", func() bool {
		return strings.Contains(b.js(`document.querySelector('.panel [role=row]').innerText`), "acknowledged") &&
			!strings.Contains(b.js(`document.querySelector('.panel [role=row]').innerText`), "unack")
	})
	for _, want := range []string{"grid", "row", "gridcell"} {
		if b.js(`String(document.querySelectorAll('.panel [role=`+want+`]').length > 0)`) != "true" {
			t.Errorf("the list has no role %s", want)
		}
	}
	// It goes: an acknowledged one leaves the list.
	s.fault("fan2", false)
	b.until("it has gone", func() bool { return !strings.Contains(b.text(), "Fan 2 tripped at") })
	b.click("Journal")
	b.fill("Find in alarms", "Fan 2 tripped")
	b.until("the list is of that alarm alone", func() bool {
		return b.js(`String([...document.querySelectorAll('.entry')].every(x => x.innerText.includes('Kiln1.Fan[2]') || x.innerText.includes('Fan 2 tripped')))`) == "true" && strings.Contains(b.text(), "Tom Alder")
	})
	b.see("came", "acknowledged", "went")
	// A comment on the newest entry.
	b.js(`document.querySelector('.entry').click()`)
	b.fill("Comment", "breaker was loose")
	b.click("Add")
	b.see("1 comment", "breaker was loose")
	// The same by occurrence: one line from its coming to its going.
	b.click("By occurrence")
	b.see("Came", "Went", "How long")
	b.until("one line tells of all of it", func() bool {
		return b.js(`String([...document.querySelectorAll('.occurrences tbody tr')].some(x => x.innerText.includes('Fan 2 tripped') && x.innerText.includes('Tom Alder') && / s|min/.test(x.lastElementChild.innerText)))`) == "true"
	})
}

// A shift lead shelves with a reason and a time; another desk sees it; it comes
// back. A latched alarm stays until it is reset.
func TestAShiftLeadShelvesAndResets(t *testing.T) {
	s := newSite(t)
	b := s.yard("iris", "elm-and-yew")
	s.fault("burner", true)
	b.see("Burner locked out")
	b.js(`document.querySelector('.counts').click()`)
	b.fill("Find in alarms", "lockout")
	b.js(`document.querySelector('.panel [role=row]').click()`)
	b.click("Shelve")
	b.fill("Reason", "burner is being repaired")
	b.click("30 min")
	b.answer()
	b.see("No alarm stands.")
	b.click("Set aside")
	b.see("Kiln1.Burner.Lockout", "until", "burner is being repaired")
	b.js(`document.querySelector('.panel [role=row]').click()`)
	b.see("burner is being repaired")
	b.click("Unshelve")
	b.click("Standing")
	b.see("Kiln1.Burner.Lockout")
	b.js(`document.querySelector('.panel [role=row]').click()`)
	s.fault("burner", false)
	b.click("Acknowledge")
	b.see("latched")
	b.click("Reset")
	b.see("No alarm stands.")
	// The screen where an alarm stands opens at its own chamber.
	s.fault("fan1", true)
	b.fill("Find in alarms", "Fan 1")
	b.until("it came", func() bool { return strings.Contains(b.text(), "Fan 1 tripped at") })
	b.js(`document.querySelector('.panel [role=row]').click()`)
	b.click("Open its screen")
	b.until("chamber 1 is open", func() bool {
		return b.js(`(document.querySelector('.nav .on') || {innerText: ''}).innerText`) != "" &&
			strings.HasPrefix(b.js(`document.querySelector('.nav .on').innerText`), "Kiln1")
	})
}

// An engineer makes alarms of many tags, changes them together, and releases.
func TestAlarmsAreMadeInBulk(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/alarms")
	b.see("54 of 54 alarms")
	b.click("From tags")
	b.fill("Tags like", "HandMode")
	b.choose("Kind", "state")
	b.fill("Name", "{name} on")
	b.see("Make 12 alarms")
	b.click("Make 12 alarms")
	b.see("66 of 66 alarms")
	b.gone("Tags like")
	b.fill("Filter alarms", "HandMode on")
	b.see("12 of 66 alarms")
	b.js(`document.querySelector('.stop .scroll').focus()`)
	b.until("all are chosen", func() bool {
		b.js(`document.querySelector('.stop .scroll').dispatchEvent(new KeyboardEvent('keydown', {key: 'a', ctrlKey: true, bubbles: true}))`)
		return strings.Contains(b.text(), "12 alarms")
	})
	b.choose("Priority", "low")
	b.until("all have it", func() bool { return strings.Count(b.text(), "low") >= 12 })
	count := func() int {
		n := 0
		fmt.Sscan(b.js(`String([...document.querySelectorAll('.grid tbody .tab.low')].length)`), &n)
		return n
	}
	b.until("twelve rows say low", func() bool { return count() == 12 })
	b.release()
	b.open("/desk/larchmoor/s-yard")
	b.element("Link")
}

// A controller that is gone is one alarm, not one of each of its points; what
// stood before stands still.
func TestALostLinkIsOneAlarm(t *testing.T) {
	s := newSite(t)
	b := s.yard("tom", "oak-and-ash")
	s.fault("fan3", true)
	b.see("Fan 3 tripped at")
	s.plant.kill()
	b.see("The kilns' controller does not answer")
	b.js(`document.querySelector('.counts').click()`)
	b.see("Fan 3 tripped at")
	if strings.Contains(b.text(), "gives no value") {
		t.Error("a lost link raises its points' alarms")
	}
	b.see("not known", "points")
	b.click("Journal")
	b.choose("Kind of entry", "Links of devices")
	b.see("link lost", "KilnPLC")
}

// A shift lead takes an alarm out of service and back; who may only look is
// offered nothing, and the server refuses what is asked past the page.
func TestWhoMayDoWhatWithAlarms(t *testing.T) {
	s := newSite(t)
	s.fault("fan1", true)
	s.fault("fan4", true)
	v := s.yard("sam", "pine-and-fir")
	v.js(`document.querySelector('.counts').click()`)
	v.see("Fan 1 tripped at", "Fan 4 tripped at")
	v.js(`document.querySelector('.panel [role=row]').click()`)
	v.see("Look at the breaker; reset once")
	for _, act := range []string{"Acknowledge", "Shelve", "Out of service", "Reset", "change …"} {
		if strings.Contains(v.js(`[...document.querySelectorAll('.panel button')].map(x => x.innerText).join()`), act) {
			t.Errorf("a viewer is offered %s", act)
		}
	}
	ids := func(b *browser) string {
		return b.async(`fetch('/api/projects/larchmoor/alarms').then(r => r.json()).then(x => x.alarms.filter(a => a.name.includes('tripped')).map(a => a.id).join())`)
	}
	refusedTo := func(b *browser, acts ...string) {
		id := strings.Split(ids(b), ",")[0]
		for _, act := range acts {
			if got := b.api("POST", "/alarms/acts", map[string]any{"alarms": []string{id}, "act": act, "minutes": 5,
				"reason": "x"}); !strings.HasPrefix(got, "403") {
				t.Errorf("%s: %.80s", act, got)
			}
		}
	}
	refusedTo(v, "acknowledged", "reset", "shelved", "removed")
	refusedTo(s.yard("tom", "oak-and-ash"), "shelved", "unshelved", "removed", "in-service")
	b := s.yard("iris", "elm-and-yew")
	b.js(`document.querySelector('.counts').click()`)
	b.fill("Find in alarms", "Fan 1")
	b.see("Fan 1 tripped at")
	b.js(`document.querySelector('.panel [role=row]').click()`)
	b.click("Acknowledge with a comment …")
	b.fill("Reason", "breaker is hot")
	b.answer()
	b.click("Out of service")
	b.fill("Reason", "motor is away")
	b.answer()
	b.see("No alarm stands.")
	b.click("Set aside")
	b.choose("Now", "out of service")
	b.see("Kiln1.Fan[1].Fault")
	b.js(`document.querySelector('.panel [role=row]').click()`)
	b.click("Back in service")
	b.click("Standing")
	b.see("Fan 1 tripped at")
	// Several at once, and all that are shown.
	b.fill("Find in alarms", "tripped")
	b.click("Select all")
	b.click("Acknowledge 2")
	b.until("both are acknowledged", func() bool {
		return b.js(`String([...document.querySelectorAll('.panel [role=row] .state')].filter(x => x.innerText.startsWith('acknowledged')).length)`) == "2"
	})
	b.click("Journal")
	b.fill("Find in alarms", "Fan 1 tripped")
	b.see("breaker is hot", "motor is away", "out of service", "in service")
}
