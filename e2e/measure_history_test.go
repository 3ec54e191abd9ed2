package e2e

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
)

// BenchmarkTrend takes the script time of 16 pens that follow values changing ten
// times a second, and the time from frame to frame while their drawing is dragged
// through what was recorded.
func BenchmarkTrend(b *testing.B) {
	_, w := thousand(b)
	var pens []map[string]any
	for i := range 16 {
		pens = append(pens, map[string]any{"tag": fmt.Sprintf("t-many%04d", i)})
	}
	view := map[string]any{"name": "Sixteen", "span": 900, "pens": pens}
	if out := w.edit(op{"kind": "view", "id": "v-sixteen", "path": "", "value": view}); !strings.HasPrefix(out, "2") {
		b.Fatalf("%.300s", out)
	}
	w.release()
	w.open("/p/larchmoor/history/v-sixteen")
	w.see("Many.M0015")
	time.Sleep(20 * time.Second) // until there is something to draw
	from := w.metric("ScriptDuration")
	time.Sleep(10 * time.Second)
	b.ReportMetric((w.metric("ScriptDuration")-from)*100, "ms-script/s")

	var at []float64
	place := w.js(`(() => { const r = document.querySelector('.stage').getBoundingClientRect(); return JSON.stringify([r.x + r.width / 2, r.y + 60]); })()`)
	if err := json.Unmarshal([]byte(place), &at); err != nil {
		b.Fatal(place)
	}
	w.mouse(input.MousePressed, at[0], at[1])
	w.mouse(input.MouseMoved, at[0]+6, at[1])
	w.js(framesFrom)
	for i, end := 0, time.Now().Add(4*time.Second); time.Now().Before(end); i++ {
		w.mouse(input.MouseMoved, at[0]+6+float64(i%200), at[1])
		time.Sleep(8 * time.Millisecond)
	}
	frames := w.frames()
	w.mouse(input.MouseReleased, at[0], at[1])
	report(b, frames, "ms/frame")
}

// BenchmarkReplay counts how many moments a second a screen shows that is played
// at sixty times the speed.
func BenchmarkReplay(b *testing.B) {
	_, w := workshop(b)
	to := time.Now().Add(-24 * time.Hour)
	w.open(fmt.Sprintf("/replay/larchmoor/s-chamber1?at=%d", to.UnixMilli()))
	w.see("This is not now")
	w.click("60×")
	w.click("Play")
	w.js(`(() => {
		window.shown_ = 0;
		const to = document.querySelector('.field svg');
		let was = '';
		const look = () => { const now = document.querySelector('.scrub').value; if (now !== was) window.shown_++; was = now; requestAnimationFrame(look); };
		look();
		window.drawn_ = 0;
		new MutationObserver(() => window.drawn_++).observe(to, {subtree: true, attributes: true, characterData: true, childList: true});
		return '';
	})()`)
	time.Sleep(10 * time.Second)
	b.ReportMetric(0, "ns/op")
	b.ReportMetric(measured(b, w.js(`String(window.shown_ / 10)`)), "moments/s")
	b.ReportMetric(measured(b, w.js(`String(window.drawn_ / 10)`)), "drawings/s")
}
