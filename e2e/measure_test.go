package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/heapprofiler"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/performance"
	"github.com/chromedp/chromedp"
)

// thousand is a site with a screen of 1,000 readouts over 1,000 tags of a
// stand-in that change ten times a second.
func thousand(b *testing.B) (*site, *browser) {
	b.Helper()
	s, w := workshop(b)
	device := op{"kind": "device", "id": "d-many", "path": "",
		"value": map[string]any{"name": "Many", "protocol": "standin", "poll": 100, "timeout": 1000}}
	folder := op{"kind": "folder", "id": "f-many", "path": "", "value": map[string]any{"name": "Many"}}
	ops := []op{device, folder}
	elements := map[string]any{}
	for i := range 1000 {
		id := fmt.Sprintf("t-many%04d", i)
		ops = append(ops, op{"kind": "tag", "id": id, "path": "",
			"value": map[string]any{"name": fmt.Sprintf("M%04d", i), "folder": "f-many", "type": "REAL", "source": "device", "device": "d-many",
				"address":   fmt.Sprintf("holding:%d", i*2),
				"behaviour": map[string]any{"kind": "sine", "low": 0, "high": 100, "period": 5 + i%7}}})
		elements[fmt.Sprintf("x%04d", i)] = map[string]any{"kind": "readout", "x": i % 25 * 50, "y": i / 25 * 16, "w": 46, "h": 14, "z": i,
			"props": map[string]any{"tag": id, "size": 11}}
	}
	ops = append(ops, op{"kind": "screen", "id": "s-many", "path": "",
		"value": map[string]any{"name": "Many", "width": 1280, "height": 676, "order": 9, "elements": elements}})
	if out := w.edit(ops...); !strings.HasPrefix(out, "200") {
		b.Fatalf("%.600s", out)
	}
	return s, w
}

func (b *browser) release() {
	b.t.Helper()
	if out := b.api("POST", "/releases", map[string]any{"note": "measured"}); !strings.HasPrefix(out, "2") {
		b.t.Fatalf("%.600s", out)
	}
}

// openMany opens the screen in the editor and tells how long it took.
func (b *browser) openMany() time.Duration {
	b.t.Helper()
	b.open("/p/larchmoor/screens/s-yard")
	b.until("the yard is drawn", func() bool {
		return b.js(`String(document.querySelectorAll('.frame g[data-element]').length > 10)`) == "true"
	})
	b.see("Many")
	took := b.async(`(async () => {
		const from = performance.now();
		[...document.querySelectorAll('button.screen')].find(e => e.innerText.startsWith('Many')).click();
		while (document.querySelectorAll('.frame g[data-element]').length < 1000) await new Promise(requestAnimationFrame);
		await new Promise(requestAnimationFrame);
		return String(performance.now() - from);
	})()`)
	ms := 0.0
	json.Unmarshal([]byte(took), &ms)
	return time.Duration(ms * float64(time.Millisecond))
}

func BenchmarkOpenAThousandElements(b *testing.B) {
	_, w := thousand(b)
	var all []float64
	for range 5 {
		all = append(all, w.openMany().Seconds()*1000)
	}
	report(b, all, "ms")
}

// report gives the middle and the 95th of a hundred.
func report(b *testing.B, all []float64, unit string) {
	slices.Sort(all)
	b.ReportMetric(0, "ns/op")
	b.ReportMetric(all[len(all)/2], "p50-"+unit)
	b.ReportMetric(all[len(all)*95/100], "p95-"+unit)
}

// framesFrom begins to take the time from frame to frame of the page.
const framesFrom = `(() => {
	window.frames_ = [];
	let last = 0;
	const f = (t) => { if (last) window.frames_.push(t - last); last = t; requestAnimationFrame(f); };
	requestAnimationFrame(f);
	return '';
})()`

// frames are those since, in ms.
func (b *browser) frames() []float64 {
	b.t.Helper()
	var all []float64
	if err := json.Unmarshal([]byte(b.js(`JSON.stringify(window.frames_)`)), &all); err != nil || len(all) == 0 {
		b.t.Fatalf("no frames were drawn: %v", err)
	}
	return all
}

func measured(b *testing.B, text string) float64 {
	b.Helper()
	var v float64
	if err := json.Unmarshal([]byte(text), &v); err != nil {
		b.Fatalf("%q is no number", text)
	}
	return v
}

// BenchmarkDrag drags elements of a live screen of 1,000 and takes the time
// from frame to frame of the page.
func BenchmarkDrag(b *testing.B) {
	_, w := thousand(b)
	for _, c := range []struct {
		name  string
		count int
		live  bool
	}{{"1", 1, true}, {"50", 50, true}, {"1000", 1000, true}, {"1-still", 1, false}, {"50-still", 50, false}, {"1000-still", 1000, false}} {
		b.Run(c.name, func(b *testing.B) {
			w.openMany()
			if !c.live {
				w.click("Live")
			}
			time.Sleep(500 * time.Millisecond)
			w.focusCanvas()
			at := w.js(`(() => { const r = [...document.querySelectorAll('.frame g[data-element]')].map(g => g.getBoundingClientRect()); return JSON.stringify([r[0].x, r[0].y, r[49].x + r[49].width / 2, r[49].y + r[49].height / 2, r[30].x + 8, r[30].y + 4]); })()`)
			var r []float64
			if err := json.Unmarshal([]byte(at), &r); err != nil {
				b.Fatal(at)
			}
			switch c.count {
			case 1000:
				w.keys("a", input.ModifierCtrl)
			case 50:
				w.drag(spot{r[0] - 6, r[1] - 6}, spot{r[2], r[3]})
			}
			from := spot{r[4], r[5]}
			w.mouse(input.MousePressed, from.X, from.Y)
			w.mouse(input.MouseMoved, from.X+4, from.Y+4)
			w.js(framesFrom)
			for i, end := 0, time.Now().Add(4*time.Second); time.Now().Before(end); i++ {
				w.mouse(input.MouseMoved, from.X+4+float64(i%160), from.Y+4+float64(i%90))
				time.Sleep(8 * time.Millisecond)
			}
			frames := w.frames()
			selected := w.text()
			w.keys("\x1b")
			w.mouse(input.MouseReleased, from.X, from.Y)
			if want := fmt.Sprintf("%d of 1000", c.count); !strings.Contains(selected, want) {
				b.Fatalf("not %s selected: %.200s", want, selected[max(0, strings.Index(selected, "of 1000")-20):])
			}
			report(b, frames, "ms/frame")
		})
	}
}

// metric reads one of the page's own figures.
func (b *browser) metric(name string) float64 {
	b.t.Helper()
	var v float64
	b.do(chromedp.ActionFunc(func(ctx context.Context) error {
		if err := performance.Enable().Do(ctx); err != nil {
			return err
		}
		all, err := performance.GetMetrics().Do(ctx)
		for _, m := range all {
			if m.Name == name {
				v = m.Value
			}
		}
		return err
	}))
	return v
}

func (b *browser) heap() float64 {
	b.t.Helper()
	b.do(chromedp.ActionFunc(func(ctx context.Context) error { return heapprofiler.CollectGarbage().Do(ctx) }))
	return b.metric("JSHeapUsedSize") / 1e6
}

// BenchmarkDesk takes the script time of 1,000 live elements at 10 Hz, and
// what an hour of them leaves in memory, played as fast as the page takes it.
func BenchmarkDesk(b *testing.B) {
	_, w := thousand(b)
	w.release()
	w.do(chromedp.ActionFunc(func(ctx context.Context) error {
		_, err := page.AddScriptToEvaluateOnNewDocument(`(() => { const W = window.WebSocket; window.WebSocket = class extends W { constructor(...a) { super(...a); window.socket_ = this; } }; })()`).Do(ctx)
		return err
	}))
	w.open("/desk/larchmoor/s-many")
	w.until("every element is drawn", func() bool { return w.js(`String(document.querySelectorAll('g[data-element]').length)`) == "1000" })
	time.Sleep(2 * time.Second)
	from, nodes := w.metric("ScriptDuration"), w.metric("Nodes")
	time.Sleep(10 * time.Second)
	b.ReportMetric((w.metric("ScriptDuration")-from)*100, "ms-script/s")
	before := w.heap()
	// 36,000 frames are an hour; they come in portions, so that the page may draw.
	for range 36 {
		w.async(`(async () => {
			const keep = window.socket_;
			let ch = window.ch_;
			if (ch === undefined) {
				ch = await new Promise(ok => keep.addEventListener('message', function on(e) { const m = JSON.parse(e.data); if (Array.isArray(m) && m[1].v) { keep.removeEventListener('message', on); ok(m[0]); } }));
				window.ch_ = ch;
			}
			for (let i = 0; i < 1000; i++) {
				const v = Array.from({length: 1000}, (_, k) => [k, (Math.random() * 100).toFixed(1)]);
				keep.onmessage(new MessageEvent('message', {data: JSON.stringify([ch, {v}])}));
				if (i % 100 === 0) await new Promise(requestAnimationFrame);
			}
			return '';
		})()`)
	}
	time.Sleep(time.Second)
	b.ReportMetric(0, "ns/op")
	b.ReportMetric(before, "MB-before")
	b.ReportMetric(w.heap(), "MB-after-an-hour")
	b.ReportMetric(w.metric("Nodes")-nodes, "more-nodes")
}

// BenchmarkChangeToPixel takes the time from a value's change at the controller
// until it is drawn at the Desk; the rate at which the device is asked is part
// of it.
func BenchmarkChangeToPixel(b *testing.B) {
	s, w := workshop(b)
	w.open("/desk/larchmoor/s-chamber1")
	w.element("Dry bulb set point")
	w.js(`(() => {
		window.drawn_ = [];
		const g = [...document.querySelectorAll('g[data-element]')].find(g => (g.getAttribute('aria-label') || '').startsWith('Dry bulb set point'));
		new MutationObserver(() => requestAnimationFrame(() => requestAnimationFrame(() => window.drawn_.push(Date.now())))).observe(g, {attributes: true, attributeFilter: ['aria-label']});
		return '';
	})()`)
	c, err := net.Dial("tcp", s.modbus)
	if err != nil {
		b.Fatal(err)
	}
	defer c.Close()
	var all []float64
	for i := range 60 {
		time.Sleep(time.Duration(700+i*37%250) * time.Millisecond)
		seen := w.js(`String(window.drawn_.length)`)
		raw := 600 + i%50
		from := time.Now()
		if _, err := c.Write([]byte{0, byte(i), 0, 0, 0, 6, 1, 6, 0, 0, byte(raw >> 8), byte(raw)}); err != nil {
			b.Fatal(err)
		}
		answer := make([]byte, 12)
		if _, err := io.ReadFull(c, answer); err != nil {
			b.Fatal(err)
		}
		w.until("the change is drawn", func() bool { return w.js(`String(window.drawn_.length)`) != seen })
		at := 0.0
		json.Unmarshal([]byte(w.js(`String(window.drawn_.at(-1))`)), &at)
		all = append(all, at-float64(from.UnixMicro())/1000)
	}
	report(b, all, "ms")
}

// BenchmarkFlood raises and clears 2,500 alarms twice while the Desk shows the
// page of alarms, and takes the time from frame to frame, the longest wait of
// the page, and how long it takes until the list is full.
func BenchmarkFlood(b *testing.B) {
	const alarms = 2500
	s, w := workshop(b)
	fault := w.async(`fetch('/api/projects/larchmoor/tags?text=' + encodeURIComponent('Kiln1.Fan[1].Fault')).then(r => r.json()).then(x => x.rows[0].tag.id)`)
	var ops []op
	for i := range alarms {
		ops = append(ops, op{"kind": "alarm", "id": fmt.Sprintf("flood-%d", i), "path": "",
			"value": map[string]any{"name": fmt.Sprintf("Flood %d", i), "tag": fault, "kind": "state", "priority": "low", "message": "one of many"}})
	}
	if out := w.edit(ops...); !strings.HasPrefix(out, "2") {
		b.Fatalf("%.300s", out)
	}
	w.release()
	w.open("/desk/larchmoor/s-alarms")
	w.see("Standing", "Set aside")
	rows := func() string {
		return w.js(`String(document.querySelectorAll('.embed .list')[0].querySelectorAll('tr').length)`)
	}
	w.js(framesFrom)
	start := time.Now()
	for range 2 {
		s.fault("fan1", true)
		time.Sleep(500 * time.Millisecond)
		s.fault("fan1", false)
		time.Sleep(500 * time.Millisecond)
	}
	w.until("the list has what it shows of them", func() bool { n, _ := strconv.Atoi(rows()); return n >= 200 })
	b.ReportMetric(time.Since(start).Seconds(), "s-shown")
	time.Sleep(2 * time.Second)
	frames := w.frames()
	b.ReportMetric(slices.Max(frames), "longest-ms/frame")
	report(b, frames, "ms/frame")
}
