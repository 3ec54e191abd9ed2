package e2e

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/network"
)

// firstLoad is what a page brings before it shows something, with nothing of it
// kept and the processor slowed four times.
type firstLoad struct {
	Paint   float64 // ms until the first text or drawing
	Scripts []struct {
		Name string
		Size int // bytes as they came over the wire
	}
}

func (b *browser) firstLoad(path, until string) (l firstLoad) {
	b.t.Helper()
	b.do(emulation.SetCPUThrottlingRate(4), network.ClearBrowserCache())
	b.open(path)
	b.see(until)
	b.do(emulation.SetCPUThrottlingRate(1))
	told := b.js(`JSON.stringify({
		Paint: performance.getEntriesByName('first-contentful-paint')[0].startTime,
		Scripts: performance.getEntriesByType('resource').filter(e => e.name.endsWith('.js'))
			.map(e => ({Name: e.name.split('/').pop(), Size: e.encodedBodySize})),
	})`)
	if err := json.Unmarshal([]byte(told), &l); err != nil {
		b.t.Fatal(err)
	}
	return l
}

// size is that of all scripts, in bytes.
func (l firstLoad) size() (sum int) {
	for _, s := range l.Scripts {
		sum += s.Size
	}
	return sum
}

// BenchmarkFirstLoad takes how long the Desk and the Workshop need until they show
// something, and what scripts they bring for it.
func BenchmarkFirstLoad(b *testing.B) {
	_, w := workshop(b)
	for _, c := range []struct{ name, path, until string }{
		{"Desk", "/desk/larchmoor/s-yard", "Yard"}, {"Workshop", "/p/larchmoor/tags", "Kiln1"},
	} {
		b.Run(c.name, func(b *testing.B) {
			var paints []float64
			for range 5 {
				l := w.firstLoad(c.path, c.until)
				paints = append(paints, l.Paint)
				b.ReportMetric(float64(l.size())/1000, "kB-script")
			}
			report(b, paints, "ms-paint")
		})
	}
}

// TestTheDeskIsLight: what the Desk brings before it shows something is little, and
// nothing of the Workshop. How soon it shows is measured and not judged: that is the
// machine's matter too.
func TestTheDeskIsLight(t *testing.T) {
	beside(t)
	_, b := workshop(t)
	l := b.firstLoad("/desk/larchmoor/s-yard", "Yard")
	for _, s := range l.Scripts {
		for _, heavy := range []string{"ScreensStop", "TrendView", "FormulaInput", "TagsStop", "de-"} {
			if strings.HasPrefix(s.Name, heavy) {
				t.Errorf("the Desk brings %s, %d bytes, before it shows something", s.Name, s.Size)
			}
		}
	}
	if sum := l.size(); sum > 350_000 || sum < 50_000 {
		t.Errorf("%d scripts of %d bytes; at most 350 kB are brought", len(l.Scripts), sum)
	}
}
