package e2e

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// TestWhatWasRecordedIsThereAlready: an engineer with a question looks at the
// course of tags that nobody set anything up for, measures between two moments,
// and sends a colleague the address.
func TestWhatWasRecordedIsThereAlready(t *testing.T) {
	s, b := workshop(t)
	b.click("History")
	b.see("tags, each kept with nothing to set up", "Choose tags on the left")
	for _, path := range []string{"Kiln1.DryBulb", "Kiln1.DryBulbSP", "Kiln1.DoorClosed", "Kiln1.Mode"} {
		b.fill("words, * for anything", path)
		b.until(path+" is listed and taken", func() bool {
			return b.js(`(x => { if (x && x.ariaSelected == 'false') x.click(); return String(x?.ariaSelected) })(
				[...document.querySelectorAll('.side [role=option]')].find(x => x.querySelector('.name').textContent.trim() == '`+path+`'))`) == "true"
		})
		b.until(path+" is shown", func() bool {
			return b.js(`String([...document.querySelectorAll('.measured td')].some(x => x.textContent.trim().endsWith('`+path+`')))`) == "true"
		})
	}
	b.click("7 d")
	b.until("the week's line is drawn", func() bool {
		return b.js(`(c => String(!!c && c.getContext('2d').getImageData(0, 0, c.width, c.height).data.some((x, i) => i % 4 == 3 && x > 0)))(
			document.querySelector('.pens canvas'))`) == "true"
	})
	b.js(`[...document.querySelectorAll('.rows .label')].find(x => x.textContent.trim() == 'DoorClosed').click()`)
	b.until("the door opened and closed in the week", func() bool {
		n, _ := strconv.Atoi(b.js(`(document.querySelector('.rows .figures')?.textContent.match(/on (\d+) times/) ?? [])[1] ?? ''`))
		return n >= 2
	})
	b.until("the row of states is drawn", func() bool {
		return b.js(`(c => String(!!c && c.getContext('2d').getImageData(0, 0, c.width, c.height).data.some((x, i) => i % 4 == 3 && x > 0)))(
			document.querySelector('.rows canvas[aria-label^="Kiln1.Mode"]'))`) == "true"
	})
	// Two clicks measure between them.
	press := func(x, y float64) {
		b.mouse(input.MousePressed, x, y)
		b.mouse(input.MouseReleased, x, y)
	}
	press(700, 250)
	press(1000, 250)
	cell := func(path string, column int) string {
		return b.js(`(r => r?.cells[` + strconv.Itoa(column) + `]?.textContent.trim() ?? '')([...document.querySelectorAll('.measured tr')].find(
			r => r.cells[0].textContent.trim() == '` + path + `'))`)
	}
	b.until("the set point is measured", func() bool { return cell("Kiln1.DryBulbSP", 6) == "72.0" && cell("Kiln1.DryBulbSP", 9) == "100 %" })
	least, _ := strconv.ParseFloat(cell("Kiln1.DryBulb", 5), 64)
	mean, _ := strconv.ParseFloat(cell("Kiln1.DryBulb", 6), 64)
	most, _ := strconv.ParseFloat(cell("Kiln1.DryBulb", 7), 64)
	if !(40 < least && least < mean && mean < most && most < 95) {
		t.Errorf("between %v and %v a mean of %v", least, most, mean)
	}
	// By keys: to the edge of the chosen row, and back to what was seen before.
	b.js(`document.querySelector('.stage').focus()`)
	was := b.js(`document.querySelectorAll('.cursor .stamp')[1]?.textContent ?? ''`)
	b.keys(",")
	b.until("the cursor is at an edge", func() bool { return b.js(`document.querySelectorAll('.cursor .stamp')[1]?.textContent ?? ''`) != was })
	span := b.js(`document.querySelector('.when').textContent`)
	b.keys("+")
	b.until("it is zoomed", func() bool { return b.js(`document.querySelector('.when').textContent`) != span })
	if b.js(`String([...document.querySelectorAll('.chip')].find(x => x.textContent.includes('Follow now')).ariaPressed)`) != "false" {
		t.Error("it follows now while another time is looked at")
	}
	b.js(`document.activeElement.dispatchEvent(new KeyboardEvent('keydown', {key: 'Backspace', bubbles: true}))`)
	// A colleague opens the address.
	address := b.js(`location.pathname + location.search`)
	if !strings.Contains(address, "tags=") {
		t.Errorf("the address says nothing of what is shown: %s", address)
	}
	other := openBrowser(t, s.base)
	other.signIn("ada", "larch-and-spruce")
	other.see("Larchmoor drying yard")
	other.open(address)
	other.see("Kiln1.DryBulbSP", "Kiln1.DoorClosed")
}

// TestAViewServesEveryChamber: an engineer changes a view of one chamber, keeps
// it for all, and the operator finds it at the Desk.
func TestAViewServesEveryChamber(t *testing.T) {
	_, b := workshop(t)
	b.click("History")
	b.click("Chamber climate")
	b.see("Kiln1.MoistureAvg", "Kiln1.DoorClosed")
	b.fill("words, * for anything", "Kiln1.VentPosition")
	b.until("the vents are taken", func() bool {
		return b.js(`(x => { if (x && x.ariaSelected == 'false') x.click(); return String(x?.ariaSelected) })(
			[...document.querySelectorAll('.side [role=option]')].find(x => x.textContent.includes('VentPosition')))`) == "true"
	})
	b.see("As it was kept")
	b.click("Keep as a view …")
	b.see("For all equipment of the type Chamber")
	b.click("Keep as another")
	b.until("two views have the name", func() bool {
		return b.js(`String([...document.querySelectorAll('.views .name')].filter(x => x.textContent.trim() == 'Chamber climate').length)`) == "2"
	})
	b.until("the new one is open", func() bool { return b.js(`String(location.pathname.endsWith('/v-climate'))`) == "false" })
	// The list grows as the view comes: a click by place might meet another one.
	b.js(`[...document.querySelectorAll('.views .chip')].find(x => x.textContent.trim() == 'Kiln3').click()`)
	b.see("Kiln3.VentPosition", "Kiln3.Mode")
	if strings.Contains(b.js(`document.querySelector('.measured').textContent`), "Kiln1.") {
		t.Error("pens of another chamber are shown")
	}
	b.click("Delete the view")
	b.until("one is left", func() bool {
		return b.js(`String(document.querySelectorAll('.views .name').length)`) == "3"
	})
	b.open("/desk/larchmoor/s-climate")
	b.see("Climate of Kiln1", "Kiln1.DryBulb")
	at := b.element("Chamber")
	b.do(chromedp.MouseClickXY(at.X, at.Y))
	b.click("Kiln2")
	b.see("Climate of Kiln2", "Kiln2.DryBulb", "Kiln2.MoistureAvg")
}

// TestAViewIsOnesOwn: what somebody keeps for themselves is in their list alone, and
// is no change to the draft.
func TestAViewIsOnesOwn(t *testing.T) {
	beside(t)
	s, b := workshop(t)
	b.click("History")
	b.click("Chamber climate")
	b.see("Kiln1.MoistureAvg")
	draft := b.js(`document.querySelector('header').innerText.match(/Draft \d+/)[0]`)
	b.click("Keep as a view …")
	b.fill("Name", "What I watch")
	b.click("For me alone")
	b.click("Keep as another")
	b.until("it is in the list", func() bool {
		return strings.Contains(b.js(`document.querySelector('.views').innerText`), "What I watch mine")
	})
	b.see("Kiln1.MoistureAvg", draft)
	other := openBrowser(t, s.base)
	other.signIn("tom", "oak-and-ash")
	other.see("Larchmoor")
	list := other.api("GET", "/trend/views?program=release", nil)
	if !strings.Contains(list, "Chamber climate") || strings.Contains(list, "What I watch") {
		t.Errorf("somebody else has %s", list)
	}
	b.click("Delete the view")
	b.until("it is gone", func() bool {
		return !strings.Contains(b.js(`document.querySelector('.views').innerText`), "What I watch")
	})
}

// TestABurnerIsProved: an engineer measures from call to flame over a week, goes
// to the one that was late, looks for a condition, and leaves a note that the
// colleague sees on the axis.
func TestABurnerIsProved(t *testing.T) {
	s, b := workshop(t)
	b.open("/p/larchmoor/history/v-burner")
	b.see("Kiln1.Burner.Call")
	b.click("7 d")
	b.click("From edge to edge")
	b.choose("To the edge of", "Flame ↑")
	b.fill("Expected most", "7.5")
	b.click("Measure")
	b.see("± 0.25", "1 too late", "too late")
	b.click("Keep as proof")
	b.see("Failed, with Kiln1.Burner.Call, Kiln1.Burner.Flame:", "expected at most 7.5 s: 1 late")
	was := b.js(`document.querySelector('.when').textContent`)
	b.js(`String(document.querySelector('.edges tr.odd button').click())`)
	b.until("the late one is shown", func() bool {
		return b.js(`document.querySelector('.when').textContent`) != was && b.js(`String(document.querySelectorAll('.cursor').length)`) == "2"
	})
	b.see("B − A = 7.9 s")
	b.click("Note …")
	b.fill("Note", "The flame took its time")
	b.click("Keep the note")
	b.until("the note stands on the axis", func() bool { return b.js(`String(document.querySelectorAll('.mark.note').length)`) == "1" })
	b.click("Find")
	b.js(`document.querySelector('.find .cm-content').focus()`)
	b.do(chromedp.KeyEvent("Kiln1.Burner.Spark and not Kiln1.Burner.PurgeFan\t"))
	b.see("0 times")
	b.js(`(() => { const e = document.querySelector('.find .cm-content'); e.focus(); document.execCommand('selectAll') })()`)
	b.do(chromedp.KeyEvent("Kiln1.Burner.Spark\t"))
	// The stand-in may have lit it again by now.
	b.until("it lit", func() bool {
		return b.js(`String(/[1-9]\d* times/.test(document.querySelector('.find').innerText))`) == "true"
	})
	b.click("Make an alarm of it …")
	b.see("An alarm for Kiln1.Burner.Spark", "What if")
	b.until("what it would have done in the days that were looked at is told", func() bool {
		n, _ := strconv.Atoi(b.js(`document.querySelector('.what td')?.textContent ?? ''`))
		return n > 1 && b.js(`document.querySelector('.what .chip.on').textContent.trim()`) == "7 d"
	})

	iris := openBrowser(t, s.base)
	iris.signIn("iris", "elm-and-yew")
	iris.see("Yard")
	iris.open("/desk/larchmoor/s-chamber1")
	iris.click("Burner")
	iris.click("Signals over time")
	iris.see("Kiln1.Burner.Flame")
	iris.click("7 d")
	iris.until("the colleague sees the note", func() bool {
		return iris.js(`String([...document.querySelectorAll('.mark')].some(x => x.getAttribute('aria-label').includes('took its time')))`) == "true"
	})
}

// TestARunIsComparedAndTakenAway: the course of a day before lies under today's,
// and what is shown goes out as a file.
func TestARunIsComparedAndTakenAway(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/history/v-climate")
	b.see("Kiln1.DoorClosed")
	b.choose("Compare", "1 d earlier")
	b.until("the row of a day before stands below", func() bool {
		return b.js(`String([...document.querySelectorAll('.rows .label')].some(x => x.textContent.includes('Mode −1 d')))`) == "true"
	})
	b.click("Difference")
	b.until("what differs has an axis of its own", func() bool {
		return b.js(`String(document.querySelectorAll('.uplot .u-axis').length)`) == "5"
	})
	b.click("Table")
	b.choose("A row every", "10 min")
	b.until("there is a row every ten minutes", func() bool {
		n, _ := strconv.Atoi(b.js(`String(document.querySelectorAll('.records tbody tr').length)`))
		return n >= 40 && strings.HasSuffix(b.js(`document.querySelector('.records tbody td').textContent.trim()`), "0")
	})
	file := b.js(`document.querySelector('a[download]').getAttribute('href').replace('/api/projects/larchmoor', '')`)
	csv := b.api("GET", file, nil)
	lines := strings.Split(csv, "\n")
	if !strings.Contains(lines[0], "time,Kiln1.DryBulb [°C],Kiln1.DryBulbSP [°C],") || len(lines) < 20 {
		t.Errorf("the file begins %.200q", csv)
	}
	b.choose("A row every", "at each change")
	b.click("Later")
	b.until("the second page begins later", func() bool {
		return b.js(`String(!!document.querySelector('.records tbody td'))`) == "true" &&
			b.js(`String([...document.querySelectorAll('button')].find(x => x.textContent.includes('Earlier')).disabled)`) == "false"
	})
	b.choose("A row every", "10 min")
	// The columns as they are wanted, in the file too; another time is typed.
	b.click("Columns …")
	b.fill("Title: Kiln1.DryBulb", "Air")
	b.fill("Decimals: Kiln1.DryBulb", "3")
	b.js(`document.querySelector('[aria-label="Shown: Kiln1.DryBulbSP"]').click()`)
	b.keys(kb.Escape)
	b.see("Air, °C")
	b.until("a column is gone", func() bool {
		return b.js(`String([...document.querySelectorAll('.records th')].some(x => x.title == 'Kiln1.DryBulbSP'))`) == "false" &&
			regexp.MustCompile(`^\d+\.\d{3}$`).MatchString(b.js(`document.querySelector('.records td:nth-child(2)').textContent.trim()`))
	})
	file = b.js(`document.querySelector('a[download]').getAttribute('href').replace('/api/projects/larchmoor', '')`)
	if csv := b.api("GET", file, nil); !strings.Contains(csv, "time,Air [°C],Kiln1.WetBulb [°C],") {
		t.Errorf("the file begins %.200q", csv)
	}
	day := time.Now().Add(-24 * time.Hour)
	b.js(`document.querySelector('button.when').click()`)
	b.see("Show")
	for name, at := range map[string]string{"From": "08:00:00", "To": "09:30:00"} {
		b.js(fmt.Sprintf(`(i => { i.value = %q; i.dispatchEvent(new Event('input')) })(document.querySelector('[type="datetime-local"][aria-label=%q]'))`,
			day.Format("2006-01-02T")+at, name))
	}
	b.click("Show")
	b.until("an hour and a half of yesterday", func() bool {
		return b.js(`String(document.querySelectorAll('.records tbody tr').length)`) == "9" &&
			strings.Contains(b.js(`document.querySelector('button.when').textContent`), "08:00")
	})
}
