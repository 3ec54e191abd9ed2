package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	cdp "github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/input"
)

// The four devices are looked into before any tag is there: registers, the
// address space, topics; what is seen becomes a tag.
func TestLookingIntoDevices(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/devices/d-kiln")
	b.see("4 devices", "Requests a second", "Round trip p50", "in time", "holding:0 to")
	b.click("Register probe")
	b.see("400001", "02D0", "720")
	// Readings are picked, with Shift all of the kind between, and made tags of
	// in one edit without leaving.
	b.js(`(() => { const cells = [...document.querySelectorAll('.probe tbody tr')].map(r => r.querySelectorAll('button')[1]); cells[0].click(); cells[3].dispatchEvent(new MouseEvent('click', {bubbles: true, shiftKey: true})); })()`)
	b.fill("In the folder", "Probed")
	b.click("Make 4 tags")
	b.see("4 tags made.")
	if got := b.api("GET", "/tags?text=Probed.", nil); !strings.Contains(got, `"total":4`) ||
		!strings.Contains(got, "Probed.Holding_3_KilnPLC") {
		t.Error(got)
	}
	b.js(`document.activeElement.blur()`)
	b.keys("z", input.ModifierCtrl)
	b.until("one step back", func() bool { return strings.Contains(b.api("GET", "/tags?text=Probed.", nil), `"total":0`) })
	b.click("Address map")
	b.see("holding", "used", "free")
	b.open("/p/larchmoor/devices/d-meter")
	b.click("Browse")
	b.click("Open Meter")
	b.see("ns=1;s=Meter.Power", "LREAL")
	b.click("Open Phases")
	b.see("ns=1;s=Meter.Phases|[1]")
	b.open("/p/larchmoor/devices/d-weather")
	b.click("Listen")
	b.see("larchmoor/weather", "outside.temperature")
	b.click("Make a tag")
	b.see("383")
	b.open("/p/larchmoor/devices/d-meter")
	b.click("Ask for its endpoints")
	b.see("None · none")
}

// A credential goes into the vault, is used by a device, leaves under a
// passphrase and comes back; nothing of it is seen on the way.
func TestVault(t *testing.T) {
	s, b := workshop(t)
	b.open("/p/larchmoor/devices/d-weather")
	b.click("Vault")
	b.see("The vault is empty.")
	b.click("Entry")
	b.fill("Name", "broker")
	b.fill("User", "station")
	b.fill("Password", "pine-cone-and-bark")
	b.fill("May go to", "127.0.0.1")
	b.click("Keep")
	b.see("broker is in the vault", "station")
	b.click("Close")
	b.choose("Credential", "broker")
	b.click("Vault")
	b.see("Weather")
	dir := t.TempDir()
	b.do(cdp.SetDownloadBehavior(cdp.SetDownloadBehaviorBehaviorAllow).WithBrowserContextID(b.own).WithDownloadPath(dir))
	b.fill("Passphrase, 10 characters or more", "two old larches")
	b.click("Export")
	var file []byte
	b.until("the export is there", func() bool {
		file, _ = os.ReadFile(filepath.Join(dir, "vault.age"))
		return len(file) > 100
	})
	if !strings.HasPrefix(string(file), "age-encryption.org/v1") || strings.Contains(string(file), "pine-cone") {
		t.Errorf("the export begins %q", file[:40])
	}
	// Away from the device, deleted, and back from the export.
	b.click("Close")
	b.choose("Credential", "anonymous")
	b.click("Vault")
	b.see("broker")
	b.click("Delete")
	b.see("The vault is empty.")
	b.fill("Passphrase, 10 characters or more", "two old larches")
	b.uploadFile("Exported vault", filepath.Join(dir, "vault.age"))
	b.click("Import")
	b.see("The entries are in the vault", "station")
	if page := b.js(`fetch('/api/vault').then(r => r.text()).then(x => window.__v = x)`); page == "" {
		t.Error("no answer")
	}
	b.until("the list came", func() bool { return b.js(`window.__v || ''`) != "" })
	if strings.Contains(b.js(`window.__v`), "pine-cone") {
		t.Error("the password came back to the browser")
	}
	for _, name := range []string{"server.db", "server.db-wal", "projects/larchmoor/project.db", "projects/larchmoor/audit.db"} {
		if data, _ := os.ReadFile(filepath.Join(s.data, name)); strings.Contains(string(data), "pine-cone") {
			t.Errorf("%s holds the password in the clear", name)
		}
	}
}

// The draft is tried without any device: stand-ins move, an entry reaches them
// and nothing else.
func TestTryWithoutAnyDevice(t *testing.T) {
	s := newSite(t)
	s.plant.kill()
	b := openBrowser(t, s.base)
	b.signIn("ada", "larch-and-spruce")
	b.see("383 tags", "is down")
	b.click("Try the draft")
	b.click("Try")
	b.see("Trying the draft", "Every device is on its stand-in")
	b.click("Kiln1")
	b.see("Dry bulb set point", "20.0")
	b.clickElement("Dry bulb set point")
	b.see("Limits")
	b.keys("6")
	b.keys("5")
	b.keys("\r")
	b.see("65.0")
	s.startPlant()
	b.until("the plant never heard of it", func() bool { return s.register(1, "holding:0", "INT") == "720" })
	b.click("Back to the Workshop")
	b.see("Screens")
}

// An operator opens a device's diagnostics from a button, to look at.
func TestDiagnosticsAtTheDesk(t *testing.T) {
	s := newSite(t)
	b := openBrowser(t, s.base)
	b.signIn("tom", "oak-and-ash")
	b.see("Larchmoor")
	b.open("/desk/larchmoor/s-yard")
	b.clickElement("Link")
	b.see("KilnPLC", "Round trip p50", "Requests a second", "heard")
	b.click("Close")
}

// An engineer says what the controller tells, with a list out of a
// spreadsheet; a button opens the group that it names, and what is wrong is
// said with its code and its meaning.
func TestWhatTheControllerTells(t *testing.T) {
	s, b := workshop(t)
	b.open("/p/larchmoor/devices/d-kiln")
	b.see("What the controller tells", "2 codes")
	b.click("Add a controller group")
	b.until("the next name that is offered", func() bool {
		return strings.Contains(b.api("GET", "/devices", nil),
			`"name":"Motion","tag":""`)
	})
	b.until("pasted", func() bool {
		return b.js(`(() => { const area = document.querySelector('.codes textarea'); if (!area) return false;
			const data = new DataTransfer(); data.setData('text', '0\tgood\tAt rest\n7\tfault\tDrive 2 is hot\n8;attention;Oil is low; refill');
			area.dispatchEvent(new ClipboardEvent('paste', {bubbles: true, cancelable: true, clipboardData: data})); return true; })()`) == "true"
	})
	b.see("3 codes")
	b.until("the list is kept", func() bool {
		return strings.Contains(b.api("GET", "/devices", nil), `{"code":"8","level":"attention","text":"Oil is low; refill"}`)
	})
	o := openBrowser(t, s.base)
	o.signIn("tom", "oak-and-ash")
	o.see("Larchmoor")
	o.open("/desk/larchmoor/s-car")
	o.clickElement("Controller")
	o.see("Motion", "Ready", "Field bus", "Round trip p50")
	s.fault("estop", true)
	o.see("Emergency stop: release it at the car, then reset")
	if got := o.js(`document.querySelector('.controller [aria-selected=true]').innerText`); !strings.Contains(got, "Motion") ||
		!strings.Contains(got, "fault") {
		t.Error(got)
	}
	s.fault("bus", true)
	o.click("Field bus")
	o.see("Station 4 (bays 25 to 48) does not answer")
	o.click("Close")
}
