package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
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
