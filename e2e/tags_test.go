package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/xuri/excelize/v2"
)

// fiveHundred are tags as each format writes them; rename gives a name of a
// tag, so that a list can come again with changes.
func fiveHundred(format string, name func(i int) string, unit string) string {
	var b bytes.Buffer
	switch format {
	case "csv", "xlsx":
		cells := [][]string{{"path", "type", "device", "address", "unit"}}
		for i := range 500 {
			cells = append(cells, []string{"Bulk." + name(i), "INT", "CarPLC", fmt.Sprintf("holding:%d", 300+i), unit})
		}
		if format == "csv" {
			for _, c := range cells {
				b.WriteString(strings.Join(c, ";") + "\n")
			}
			break
		}
		f := excelize.NewFile()
		for i, c := range cells {
			f.SetSheetRow("Sheet1", fmt.Sprintf("A%d", i+1), &c)
		}
		f.Write(&b)
	case "plcopen":
		b.WriteString(`<project xmlns="http://www.plcopen.org/xml/tc6_0201"><instances><configurations><configuration name="c"><resource name="r"><globalVars name="Bulk">`)
		for i := range 500 {
			fmt.Fprintf(&b, `<variable name="%s" address="%%MW%d"><type><INT/></type><documentation>%s</documentation></variable>`, name(i), 300+i,
				unit)
		}
		b.WriteString(`</globalVars></resource></configuration></configurations></instances></project>`)
	case "nodeset":
		b.WriteString(`<UANodeSet xmlns="http://opcfoundation.org/UA/2011/03/UANodeSet.xsd"><UAObject NodeId="ns=1;s=Bulk" BrowseName="1:Bulk"/>`)
		for i := range 500 {
			fmt.Fprintf(&b, `<UAVariable NodeId="ns=1;i=%d" BrowseName="1:%s" DataType="i=4" ParentNodeId="ns=1;s=Bulk"><Description>%s</Description></UAVariable>`, 1000+i, name(i), unit)
		}
		b.WriteString(`</UANodeSet>`)
	case "other":
		b.WriteString("Symbol\tKind\tReg\tRemark\n")
		for i := range 500 {
			fmt.Fprintf(&b, "Bulk/%s\tWORD\t%d\t%s\n", name(i), 400301+i, unit)
		}
	}
	return b.String()
}

func plainName(i int) string { return fmt.Sprintf("Point%03d", i) }

// A list of each format comes in, comes again with one name and one field
// changed, and brings only that; undo takes it back.
func TestListsOfEveryFormatComeAndComeAgain(t *testing.T) {
	_, b := workshop(t)
	changed := func(i int) string {
		if i == 7 {
			return "Renamed007"
		}
		return plainName(i)
	}
	for _, format := range []string{"csv", "xlsx", "plcopen", "nodeset", "other"} {
		bring := func(content string, match bool) {
			b.click("Bring in")
			b.upload("bulk."+map[string]string{"csv": "csv", "xlsx": "xlsx", "plcopen": "xml", "nodeset": "xml", "other": "txt"}[format], content)
			switch {
			case match:
				b.see("Say once what each of them means")
				b.choose("What Symbol means", "path")
				b.choose("What Kind means", "type")
				b.choose("What Reg means", "address")
				b.choose("What Remark means", "description")
				b.fill("Separators in names", "/")
				b.choose("Device", "CarPLC")
				b.click("Preview with this matching")
			case format == "plcopen" || format == "nodeset":
				// Several devices: the list does not say which.
				b.see("a device tag needs its device")
				b.choose("Rows that name no device", map[string]string{"plcopen": "CarPLC", "nodeset": "Meter"}[format])
			}
		}
		bring(fiveHundred(format, plainName, "one"), format == "other")
		b.see("New 500")
		b.click("Bring in 500")
		b.see("500 tags brought in", "883 tags")
		bring(fiveHundred(format, changed, "one"), false)
		b.see("Same 499")
		// The CarPLC has other tags too; what is new at a known address is offered
		// as the old tag under its new name, as most of the device is listed.
		b.see("Changed 1", "Point007")
		b.click("Bring in 1")
		b.see("1 tag brought in", "883 tags")
		b.fill("words, * for anything", "Renamed007")
		b.see("Bulk.Renamed007")
		b.fill("words, * for anything", "")
		b.js(`document.activeElement.blur()`)
		b.keys("z", input.ModifierCtrl)
		b.see("Taken back: bring in 1 tags")
		b.keys("z", input.ModifierCtrl)
		b.see("Taken back: bring in 500 tags", "383 tags")
	}
}

// A folder that a screen and a formula use is renamed: both follow, the count
// is said before, and undo takes it back.
func TestRenamingAFolderFollowsEverywhere(t *testing.T) {
	_, b := workshop(t)
	b.click("Kiln1")
	b.see("96 in Kiln1")
	b.click("Menu of Kiln1")
	b.click("Move or rename")
	b.fill("New name", "Chamber1")
	b.see("Chamber1", "places refer to them and follow")
	b.click("Move")
	b.see("Moved", "96 in Chamber1")
	b.fill("words, * for anything", "Depression")
	b.see("1 in Chamber1")
	b.click("Depression")
	b.see("Chamber1.DryBulb - Chamber1.WetBulb")
	b.open("/p/larchmoor/screens/s-chamber1")
	b.see("Chamber1")
	b.until("the screen shows the equipment by its new name", func() bool {
		return strings.Contains(b.js(`(document.querySelector('.frame svg') || {}).textContent || ''`), "Chamber1")
	})
	b.do(chromedp.MouseClickXY(1100, 20))
	b.js(`document.activeElement.blur()`)
	b.keys("z", input.ModifierCtrl)
	b.see("Taken back: move 1 things")
	b.until("and by its old one again", func() bool {
		return strings.Contains(b.js(`(document.querySelector('.frame svg') || {}).textContent || ''`), "Kiln1")
	})
}

// cell clicks the cell of the list that says a text.
func (b *browser) cell(text string) {
	b.t.Helper()
	s := b.find(text, "[role=gridcell]")
	b.do(chromedp.MouseClickXY(s.X, s.Y))
}

// The list is worked by keyboard: a cell is edited, several tags are changed at
// once, cells come from a spreadsheet, and many tags are made by a pattern.
func TestTheListIsWorkedByKeyboard(t *testing.T) {
	_, b := workshop(t)
	b.click("More")
	b.click("Make many tags")
	b.fill("Pattern of paths", "Hall{1..2}.Zone[1..3].Temperature")
	b.choose("Device", "CarPLC")
	b.fill("Address of the first", "holding:500")
	b.see("Hall2.Zone[3].Temperature", "holding:505", "6 tags")
	b.click("Make 6")
	b.see("6 tags made", "389 tags")
	b.fill("words, * for anything", "Hall")
	b.see("6 tags")
	b.cell("Hall1.Zone[1].Temperature")
	b.see("Where used")
	// The cell of the name is edited; Enter goes on to the one below.
	b.keys("Temp\r")
	b.gone("Hall1.Zone[1].Temperature")
	// Everything at once.
	b.js(`document.querySelector('.list').focus()`)
	b.keys("a", input.ModifierCtrl)
	b.see("An edit goes to all of them")
	b.fill("Unit", "°C")
	b.until("all have the unit", func() bool {
		return b.js(`String([...document.querySelectorAll('.c.unit')].filter(x => x.innerText === '°C').length)`) == "6"
	})
	// Cells from a spreadsheet, from the present one to the right and down.
	b.cell("Hall1.Zone[1].Temp")
	b.until("one row is picked", func() bool { return b.js(`String(document.querySelectorAll('.tr[aria-selected=true]').length)`) == "1" })
	b.js(`(() => { const d = new DataTransfer(); d.setData('text/plain', 'Dry\nWet\n'); document.querySelector('.list').dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true})) })()`)
	b.see("Hall1.Zone[1].Dry", "Hall1.Zone[2].Wet")
	b.js(`document.activeElement.blur()`)
	b.keys("z", input.ModifierCtrl)
	b.see("Taken back: paste 2 cells", "Hall1.Zone[1].Temp")
}

// The walk goes from point to point, writes a test value within the turn, and
// takes passed or failed by one key; a changed address opens a point again.
func TestLoopCheckWalk(t *testing.T) {
	_, b := workshop(t)
	b.fill("words, * for anything", "Kiln1 set point")
	b.see("3 tags")
	b.click("More")
	b.click("Loop check")
	b.see("0 of 3 done", "Kiln1.DryBulbSP", "720")
	b.see("Nobody may write from the draft now")
	b.click("Take the turn")
	b.fill("What for", "loop check of chamber 1")
	b.click("Take the turn")
	b.see("The turn is yours")
	b.fill("Test value", "55.5")
	b.click("Write")
	b.see("confirmed", "555")
	b.js(`document.activeElement.blur()`)
	b.keys("p")
	b.see("1 of 3 done", "Kiln1.FanSpeedSP")
	b.keys("f")
	b.see("Say in the note what failed.")
	b.fill("Note", "runs backwards")
	b.js(`document.activeElement.blur()`)
	b.keys("f")
	b.see("2 of 3 done")
	b.click("End")
	b.click("Kiln1.DryBulbSP")
	b.see("Where used")
	b.fill("Address", "holding:90")
	b.see("holding:90")
	b.choose("Loop check", "changed since")
	b.see("1 tag")
	b.open("/p/larchmoor/loop-checks")
	b.see("runs backwards", "changed since 1", "failed 1")
}

// A person holds a tag at a value, visibly, and gives it back.
func TestAHeldTag(t *testing.T) {
	_, b := workshop(t)
	b.fill("words, * for anything", "Kiln1.DryBulb")
	b.see("2 tags")
	b.click("Kiln1.DryBulb")
	b.see("Hold at a value …")
	b.click("Hold at a value …")
	b.fill("Value", "88.8")
	b.js(`document.querySelector('form.form').requestSubmit()`)
	b.see("Kiln1.DryBulb = 88.8")
	b.fill("Reason", "probe is broken")
	b.answer()
	b.see("Held at 88.8", "probe is broken")
	b.until("the list shows it between brackets", func() bool {
		return b.js(`String(!!document.querySelector('.c.value .value.held'))`) == "true"
	})
	b.click("Give back")
	b.gone("probe is broken")
	b.open("/p/larchmoor/release")
	b.click("Audit trail")
	b.see("Held", "Given back", "88.8")
}

// Lists come and go without a server too.
func TestTagsFromTheCommandLine(t *testing.T) {
	s := newSite(t)
	s.server.end()
	file := filepath.Join(t.TempDir(), "more.csv")
	os.WriteFile(file, []byte("path,type,device,address,unit\nKiln1.DryBulb,INT,KilnPLC,input:0,K\nMore.A,INT,KilnPLC,input:150,\nMore.B,INT,KilnPLC,coil:1,\n"), 0o600)
	run := func(args ...string) (out struct {
		Counts   map[string]int
		Imported int
		Rows     []struct{ Path, Status, Reason string }
	}) {
		t.Helper()
		b, err := exec.Command(binary, args...).Output()
		if err != nil {
			t.Fatalf("%v: %v %s", args, err, b)
		}
		if err := json.Unmarshal(b, &out); err != nil {
			t.Fatalf("%v: %v\n%s", args, err, b)
		}
		return out
	}
	place := []string{"--data", s.data, "--project", "larchmoor", "--json"}
	p := run(append([]string{"tags", "preview", file}, place...)...)
	if p.Counts["new"] != 1 || p.Counts["changed"] != 1 || p.Counts["refused"] != 1 || p.Counts["clashing"] != 0 || p.Imported != 0 ||
		!strings.Contains(p.Rows[2].Reason, "only a BOOL fits") {
		t.Errorf("%+v", p.Counts)
	}
	if i := run(append([]string{"tags", "import", file}, place...)...); i.Imported != 2 {
		t.Errorf("%d tags brought in", i.Imported)
	}
	out, err := exec.Command(binary, "tags", "export", "--data", s.data, "--project", "larchmoor").Output()
	if err != nil || !strings.Contains(string(out), "More.A") || strings.Count(string(out), "\n") != 385 {
		t.Errorf("%v: %d lines", err, strings.Count(string(out), "\n"))
	}
	again := filepath.Join(t.TempDir(), "all.csv")
	os.WriteFile(again, out, 0o600)
	if p := run(append([]string{"tags", "preview", again}, place...)...); p.Counts["same"] != 384 || p.Counts["changed"] != 0 {
		t.Errorf("what was exported is not the same: %v", p.Counts)
	}
	if says := refusal(t, "tags", "import", file, "--data", s.data, "--project", "nowhere"); !strings.Contains(says, "no project nowhere") {
		t.Error(says)
	}
	s.startServer()
	if says := refusal(t, "tags", "import", file, "--data", s.data, "--project", "larchmoor"); !strings.Contains(says, "in use") {
		t.Errorf("an import beside a running server: %s", says)
	}
}
