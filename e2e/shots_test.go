package e2e

import (
	"github.com/chromedp/chromedp"

	"flag"
	"os"
	"path/filepath"
	"testing"
	"time"
)

var shotsDir = flag.String("shots", "", "folder to put the screenshots of the docs into")

// TestShots renews the screenshots of the docs; it runs on demand only.
func TestShots(t *testing.T) {
	if *shotsDir == "" {
		t.Skip("run with -shots to make the screenshots")
	}
	if err := os.MkdirAll(*shotsDir, 0o755); err != nil {
		t.Fatal(err)
	}
	s := newSite(t)
	b := openBrowser(t, s.base)
	shot := func(name string) {
		time.Sleep(700 * time.Millisecond)
		b.shot(filepath.Join(*shotsDir, name+".png"))
	}
	b.open("/")
	b.see("Accounts of this demo")
	shot("start")
	b.signIn("ada", "larch-and-spruce")
	b.see("272 tags")
	time.Sleep(8 * time.Second)
	b.open("/p/larchmoor/tags/t-001")
	b.see("Where used")
	b.click("Kiln1")
	b.see("61 in Kiln1")
	b.click("Watch this tag")
	b.click("Watch")
	time.Sleep(2 * time.Second)
	shot("tags")
	b.click("Bring in")
	b.upload("chamber-1.csv", "path,type,device,address,unit,description\nKiln1.DryBulb,INT,KilnPLC,input:0,°C,Dry bulb at the inlet side\nKiln1.WetBulb,INT,KilnPLC,input:1,°C,Wet bulb\n"+
		"Kiln1.DoorOpenTime,UINT,KilnPLC,input:150,s,Time that the door stood open\nKiln1.Steam,BOOL,KilnPLC,coil:70000,,Steam valve\nKiln1.SprayTime,UINT,KilnPLC,input:151,s,Spray time\n")
	b.see("New 2", "Refused 1")
	shot("tags-import")
	b.open("/p/larchmoor/tags")
	b.see("272 tags")
	b.fill("words, * for anything", "Kiln1 set point")
	b.see("3 tags")
	b.click("More")
	b.click("Loop check")
	b.see("0 of 3 done")
	b.click("Take the turn")
	b.fill("What for", "loop check of chamber 1")
	b.click("Take the turn")
	b.see("The turn is yours")
	shot("loop-check")
	b.open("/p/larchmoor/devices/d-kiln")
	b.see("KilnPLC")
	b.click("Test")
	b.see("It answers in")
	shot("devices")
	b.open("/p/larchmoor/screens/s-chamber1")
	b.see("Chamber")
	time.Sleep(time.Second)
	b.clickElement("Dry bulb set point")
	shot("screens")
	b.open("/p/larchmoor/equipment/t-gear-003")
	b.see("12 within other equipment")
	shot("equipment")
	b.open("/p/larchmoor/people")
	b.see("What each role may do")
	shot("people")
	b.open("/p/larchmoor/site")
	b.see("Areas")
	shot("site")
	b.open("/p/larchmoor/release")
	b.see("Findings")
	shot("release")
	b.open("/desk/larchmoor/s-chamber1")
	b.see("Dry bulb set point")
	time.Sleep(3 * time.Second)
	shot("desk-chamber")
	b.clickElement("Dry bulb set point")
	b.see("Limits")
	b.keys("9")
	b.keys("9")
	b.keys("\r")
	b.see("the limits are set at the tag")
	shot("desk-entry")
	b.open("/desk/larchmoor/s-yard")
	b.see("Rail car")
	shot("desk-yard")
	fan := b.spotOf(`g[data-element$="/e006"]`)
	b.do(chromedp.MouseClickXY(fan.X, fan.Y))
	b.see("Turns back")
	time.Sleep(4 * time.Second)
	shot("desk-faceplate")
	b.open("/desk/larchmoor/s-car")
	b.see("Set zero here")
	shot("desk-car")
	for _, fault := range []string{"fan2", "burner"} {
		s.fault(fault, true)
	}
	b.see("Burner locked out")
	time.Sleep(6 * time.Second)
	b.open("/p/larchmoor/alarms/a-001")
	b.see("Dry bulb high-high")
	shot("alarms")
	b.open("/desk/larchmoor/s-yard")
	b.see("Rail car")
	b.js(`document.querySelector('.counts').click()`)
	b.see("Acknowledge all shown")
	b.js(`document.querySelector('.panel [role=row]').click()`)
	shot("desk-alarms")
	for _, fault := range []string{"fan2", "burner"} {
		s.fault(fault, false)
	}
	b.open("/p/larchmoor/release")
	b.click("Audit trail")
	b.see("refused")
	shot("audit")
	b.js(`localStorage.setItem('rr-theme', 'dark')`)
	b.open("/desk/larchmoor/s-chamber1")
	b.see("Dry bulb set point")
	s.plant.kill()
	b.see("No answer from")
	time.Sleep(time.Second)
	shot("desk-bad-dark")
}
