package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// TestALogIsMadeAndWrittenOut: an engineer makes a log with nothing but a pattern
// and an interval, sees it at work once it is released, and writes it out to a
// folder that is not there at first; what was written out is cleared.
func TestALogIsMadeAndWrittenOut(t *testing.T) {
	s, b := workshop(t)
	b.click("History")
	b.see("Drying record", "At a lockout")
	b.click("New")
	b.see("It is kept from the next release on.", "It names no tags.")
	b.fill("Name", "Air of the chambers")
	b.fill("Add a pattern", "Kiln*.NoSuch")
	b.see("A line names no tag.")
	b.click("Take out Kiln*.NoSuch")
	b.fill("Add a pattern", "Kiln*.DryBulb")
	b.see("3 tags")
	b.choose("It takes values", "at moments")
	b.fill("As this alarm comes", "no such alarm")
	b.see("There is no alarm no such alarm.")
	b.fill("As this alarm comes", "Kiln1.DryBulb · Dry bulb changes too fast")
	b.gone("There is no alarm")
	b.choose("It takes values", "at an interval")
	b.fill("Every", "20 ms")
	b.see("an interval is 100 ms to 31 days")
	b.fill("Every", "500 ms")
	b.choose("Folder", "files")
	b.see(" free", "CSV, a column each")
	b.fill("Their names", "{lot}")
	b.see("there is no {lot}: use {log}, {from}")
	b.fill("Their names", "{log} of {day}")
	b.gone("there is no {lot}")
	b.gone("an interval is 100 ms")
	b.release()
	b.see("at work")
	b.click("What it keeps")
	b.see("Kiln1.DryBulb", "Kiln3.DryBulb")
	b.until("values are kept", func() bool {
		return strings.Contains(b.text(), " values, ") && b.js(`String(!!document.querySelector('.u-over'))`) == "true"
	})
	b.click("Mark …")
	b.do(chromedp.KeyEvent("sampled\r"))
	b.see("◆ sampled")

	folder := filepath.Join(s.data, "files")
	if err := os.RemoveAll(folder); err != nil {
		t.Fatal(err)
	}
	b.click("Write out")
	b.see("the folder files is not there")
	if err := os.Mkdir(folder, 0o700); err != nil {
		t.Fatal(err)
	}
	b.click("Write out")
	b.see("written out: Air of the chambers of 20")
	files, err := os.ReadDir(folder)
	if err != nil || len(files) != 1 {
		t.Fatal(files, err)
	}
	data, err := os.ReadFile(filepath.Join(folder, files[0].Name()))
	if err != nil || !strings.HasPrefix(string(data), "time,Kiln1.DryBulb [°C],Kiln2.DryBulb [°C],Kiln3.DryBulb [°C]\n") {
		t.Errorf("%.200s %v", data, err)
	}
	b.click("Finish with the medium")
	b.see("The medium of files may be taken out.")
	b.click("Stop")
	b.see("stopped", "Ada Birch")
	b.click("Clear …")
	b.do(chromedp.KeyEvent("it is in the folder\r"))
	b.until("little is left", func() bool {
		return strings.Contains(b.text(), "values, ") || strings.Contains(b.text(), "nothing kept yet")
	})
	if trail := b.api("GET", "/audit?limit=5", nil); !strings.Contains(trail, "it is in the folder") || !strings.Contains(trail, "cleared: ") {
		t.Errorf("%.600s", trail)
	}

	// What is over comes in out of a file, once it can be read.
	b.click("From a file …")
	day := time.Now().Add(-48 * time.Hour).Format("2006-01-02")
	lines := "time;Kiln1.DryBulb [°C];Elsewhere\n" + day + " 08:00:00;61.5;1\n" + day + " 08:00:10;%s;1\n" + day + " 08:00:20;62.5;1\n"
	b.fill("or paste its lines here", fmt.Sprintf(lines, "hot"))
	b.see("line 3", "Kiln1.DryBulb [°C]", "No tag of the log: Elsewhere")
	b.fill("or paste its lines here", fmt.Sprintf(lines, "62"))
	b.see("3 rows", "come in", "Take 3 values")
	b.click("Take 3 values")
	b.see("3 values taken")
	b.click("From a file …")
	b.fill("or paste its lines here", fmt.Sprintf(lines, "62"))
	b.see("there already", "Nothing to take")
	b.keys(kb.Escape)
	b.gone("there already")
}

// TestTwoLoadsAreCompared: a load is found by its name and shown whole, and one of
// another chamber is laid under it.
func TestTwoLoadsAreCompared(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/history/l-drying")
	b.see("L-2611-04", "L-2610-30")
	b.fill("find a span", "2611-0")
	b.gone("L-2610-30")
	b.click("L-2611-01")
	b.see("Kiln1.MoistureAvg")
	b.fill("Note", "dried well")
	b.click("Lay L-2611-03 under what is shown")
	b.see("with L-2611-03 · Kiln3")
	b.until("its course is laid under", func() bool {
		return b.js(`String(document.querySelector('.compare').selectedOptions[0].textContent.trim())`) == "with L-2611-03 · Kiln3"
	})
	b.fill("find a span", "dried")
	b.see("L-2611-01")
	b.gone("L-2611-03\n")
}

// TestAButtonKeepsAMoment: at the Desk, beside the burner's signals.
func TestAButtonKeepsAMoment(t *testing.T) {
	_, b := workshop(t)
	b.open("/desk/larchmoor/s-chamber1")
	b.clickElement("Burner")
	b.see("Signals over time")
	b.clickElement("Signals over time")
	b.see("Keep this moment")
	b.clickElement("Keep this moment")
	b.see("At a lockout: values taken")
	b.open("/p/larchmoor/history/l-lockout")
	b.see("24 values")
}

// TestWhatTheRecorderDoesIsSaid: at a tag, which then is not kept, and at its
// folder, which the tag follows again.
func TestWhatTheRecorderDoesIsSaid(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/tags/t-098")
	b.see("Meter.Energy", "as usual", "recorded since")
	b.choose("Recorder", "keeps nothing")
	b.click("History")
	b.see("379 tags, each kept")
	b.open("/p/larchmoor/tags/t-098")
	b.see("Meter.Energy")
	b.choose("Recorder", "by its own")
	b.fill("Days kept", "5000")
	b.see("1 to 3660 days")
	b.fill("Days kept", "90")
	b.click("History")
	b.see("380 tags, each kept")
}

// TestTheWindowIsToldByTags: a table shows the time that two tags tell, another one
// as they tell another, and nothing as they tell none.
func TestTheWindowIsToldByTags(t *testing.T) {
	beside(t)
	_, b := workshop(t)
	type m = map[string]any
	day := time.Now().Add(-24 * time.Hour).Format("2006-01-02 ")
	tag := func(id, name, text string) op {
		return op{"kind": "tag", "id": id, "path": "", "value": m{"name": name, "type": "STRING(40)", "source": "internal", "initial": text}}
	}
	button := func(name, text string, y int) m {
		return m{"kind": "button", "name": name, "x": 1000, "y": y, "w": 160, "h": 60,
			"props": m{"action": "set", "tag": "w-to", "value": text, "caption": name}}
	}
	from, to := tag("w-from", "WindowFrom", day+"08:00:00"), tag("w-to", "WindowTo", "")
	out := b.edit(from, to, op{"kind": "screen", "id": "s-window", "path": "", "value": m{
		"name": "Window", "width": 1280, "height": 800, "elements": m{
			"table": m{"kind": "records", "name": "Values", "x": 20, "y": 20, "w": 900, "h": 600, "tags": []string{"t-001"},
				"props": m{"every": "10 min", "fromTag": "w-from", "toTag": "w-to"}},
			"hour": button("An hour", day+"09:00:00", 100), "half": button("Half an hour", day+"08:30:00", 200),
			"none": button("No time", "soon", 300)}}})
	if !strings.HasPrefix(out, "200") {
		t.Fatal(out)
	}
	b.open("/p/larchmoor")
	b.release()
	b.open("/desk/larchmoor/s-window")
	b.see("The tags that tell the time to show are not known.")
	shown := func(n string) {
		t.Helper()
		b.until(n+" rows", func() bool { return b.js(`String(document.querySelectorAll('.records tbody tr').length)`) == n })
	}
	b.click("An hour")
	shown("6")
	b.click("Half an hour")
	shown("3")
	b.click("No time")
	b.see("The tags that tell the time to show are not known.")
}

// TestTheLoadsAreLookedAtAtTheDesk by a viewer, who may look at everything and
// stop nothing; a shift lead stops the record, and starts it again.
func TestTheLoadsAreLookedAtAtTheDesk(t *testing.T) {
	s := newSite(t)
	sam := openBrowser(t, s.base)
	sam.signIn("sam", "pine-and-fir")
	sam.see("Yard")
	sam.open("/desk/larchmoor/s-loads")
	sam.see("L-2611-03", "at work", "Kiln3.\u200bMoistureAvg")
	sam.js(`[...document.querySelectorAll('.span')].find(x => x.textContent.includes('L-2611-03')).click()`)
	sam.until("the load is shown whole", func() bool {
		return strings.Contains(sam.js(`document.querySelector('.when').textContent`), "–") &&
			sam.js(`document.querySelector('li.on .name')?.textContent ?? ''`) == "L-2611-03" &&
			sam.js(`String([...document.querySelectorAll('.chip')].find(x => x.textContent.includes('Follow now')).ariaPressed)`) == "false"
	})
	if sam.js(`String([...document.querySelectorAll('button')].some(x => x.textContent.trim() == 'Take values now'))`) == "true" {
		t.Error("a viewer is offered what only others may do")
	}
	first := sam.js(`document.querySelector('.records tbody td').textContent.trim()`)
	sam.click("‹ Earlier")
	sam.until("earlier rows are shown", func() bool {
		now := sam.js(`document.querySelector('.records tbody td')?.textContent.trim() ?? ''`)
		return now != "" && now != first
	})
	sam.click("Later ›")
	sam.until("the newest are shown again", func() bool {
		return sam.js(`document.querySelector('.records tbody td')?.textContent.trim() ?? ''`) >= first
	})

	iris := openBrowser(t, s.base)
	iris.signIn("iris", "elm-and-yew")
	iris.see("Yard")
	iris.open("/desk/larchmoor/s-loads")
	iris.click("Stop")
	iris.see("stopped")
	iris.click("Start")
	iris.see("at work")
}
