package e2e

import (
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
	b.see("59 in Kiln1")
	b.click("Watch this tag")
	b.click("Watch")
	time.Sleep(2 * time.Second)
	shot("tags")
	b.open("/p/larchmoor/devices/d-kiln")
	b.see("KilnPLC")
	b.click("Test")
	b.see("It answers in")
	shot("devices")
	b.open("/p/larchmoor/screens/s-chamber1")
	b.see("Chamber 1")
	time.Sleep(time.Second)
	b.clickElement("Dry bulb set point")
	shot("screens")
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
	b.open("/desk/larchmoor/s-car")
	b.see("Set zero here")
	shot("desk-car")
	b.open("/p/larchmoor/release")
	b.click("Audit trail")
	b.see("refused")
	shot("audit")
	b.js(`localStorage.setItem('rr-theme', 'dark')`)
	b.open("/p/larchmoor/tags/t-001")
	b.see("Where used")
	shot("tags-dark")
	b.open("/desk/larchmoor/s-chamber1")
	b.see("Dry bulb set point")
	s.plant.kill()
	b.see("No answer from")
	time.Sleep(time.Second)
	shot("desk-bad-dark")
}
