package e2e

import (
	"encoding/json"
	"fmt"
	"os/exec"
	"path/filepath"
	"reflect"
	"testing"
)

// Modules of the front end that need no page are proved by tables: each is put
// together by the bundler that builds the application, loaded into the browser
// as M, and asked.

// shouldBe is one line of a table: an expression over M, and what it gives.
type shouldBe struct {
	expr string
	want any
}

// module opens a page with a module of the front end as M.
func module(t *testing.T, module string) *browser {
	t.Helper()
	root, err := filepath.Abs(filepath.Join("..", "web"))
	if err != nil {
		t.Fatal(err)
	}
	bundle := exec.Command(filepath.Join(root, "node_modules", ".bin", "rolldown"), filepath.Join("src", filepath.FromSlash(module)),
		"--format", "iife", "--name", "M")
	bundle.Dir = root
	code, err := bundle.Output()
	if err != nil {
		t.Fatalf("%s is not put together: %v", module, err)
	}
	b := openBrowser(t, "about:blank")
	b.open("")
	b.js(`Object.defineProperty(window, 'localStorage', {value: {getItem: () => null, setItem() {}, removeItem() {}}}); ''`) // a blank page has none
	b.js(string(code) + "\n;globalThis.M = M; 'loaded'")
	return b
}

func proved(t *testing.T, name string, table []shouldBe) {
	t.Helper()
	b := module(t, name)
	for _, c := range table {
		var got, want any
		if err := json.Unmarshal([]byte(b.js("JSON.stringify("+c.expr+") ?? 'null'")), &got); err != nil {
			t.Fatalf("%s: %v", c.expr, err)
		}
		text, err := json.Marshal(c.want)
		if err != nil {
			t.Fatal(err)
		}
		if json.Unmarshal(text, &want); !reflect.DeepEqual(got, want) {
			t.Errorf("%s: %s gives %v, not %v", name, c.expr, got, want)
		}
	}
}

type m = map[string]any

// What is asked for anew after an edit.
func TestVersionsModule(t *testing.T) {
	beside(t)
	after := func(told, everything string) string {
		return `((v) => {
			const now = () => ['tag', 'tag/t1', 'tag/t2', 'alarm', 'paths', 'names'].map((w) => v.versionOf(w));
			const before = now();
			v.hear(` + told + `);
			v.settle(` + everything + `);
			return now().map((n, i) => n - before[i]);
		})(M.useVersions())`
	}
	proved(t, "rail/versions.ts", []shouldBe{
		{after(`{things: ['tag/t1']}`, "false"), []int{1, 1, 0, 0, 0, 0}},
		{after(`{things: ['tag/t1', 'tag/t2', 'alarm/a'], moves: true}`, "false"), []int{1, 1, 1, 1, 1, 0}},
		{after(`{things: ['tag/t1'], names: true}`, "false"), []int{1, 1, 0, 0, 0, 1}},
		{after(`{}`, "false"), []int{1, 1, 1, 1, 1, 1}},                                                         // a release, or what is not told
		{after(`{things: Array.from({length: 200}, (_, i) => 'tag/x' + i)}`, "false"), []int{1, 1, 1, 1, 1, 1}}, // more than is told
		{after(`{things: ['tag/t1']}`, "true"), []int{1, 1, 1, 1, 1, 1}},
		{`((v) => { v.hear({things: ['tag/t1']}); return v.versionOf('tag') })(M.useVersions())`, 0}, // before it is there
		{`((v) => { v.hear({things: ['tag/t1']}); v.settle(false); v.settle(false); return v.versionOf('tag', 'alarm') })(M.useVersions())`, 1},
	})
}

// What a page tells of the recipe that is open there.
func TestOpenedRecipeModule(t *testing.T) {
	beside(t)
	const fields, sheet = `[{id: 'a', formula: ''}, {id: 'b', formula: 'a * 2'}, {id: 'c', formula: ''}]`,
		`{name: 'Larch', version: 3, cells: [{text: '1'}, {text: '2'}, {text: ''}]}`
	proved(t, "recipes/opened.ts", []shouldBe{
		{`M.openedIn(` + fields + `, {key: 'r/0', recipe: 'r', version: 0}, ` + sheet + `, undefined)`,
			m{"name": "Larch", "version": 3, "changed": false, "values": m{"a": "1", "b": "2"}}},
		{`M.openedIn(` + fields + `, {key: 'r/0', recipe: 'r', version: 0}, ` + sheet + `, {a: '5', b: '9', c: 'x'})`,
			m{"name": "Larch", "version": 3, "changed": true, "values": m{"a": "5", "b": "2", "c": "x"}}}, // what is computed is the server's
		{`M.openedIn(` + fields + `, {key: 'new X', recipe: '', version: 0, name: 'X'}, ` + sheet + `, {}).version`, 0},
		{`M.openedIn(` + fields + `, {key: 'at k1', recipe: '', version: 0, target: 'k1'}, ` + sheet + `, undefined)`, nil},
		{`M.stepped('61.5', 1.5)`, "63"},
		{`M.stepped('0.1', 0.2)`, "0.3"},
		{`M.stepped('', 1)`, nil},
		{`M.stepped('hot', 1)`, nil},
		{`M.stepped(undefined, 1)`, nil},
		{`M.openedIn(` + fields + `, undefined, ` + sheet + `, undefined)`, nil},
		{`M.openedIn(` + fields + `, {key: 'r/0', recipe: 'r', version: 0}, undefined, undefined)`, nil},
	})
}

// Differences of courses and windows that tags tell.
func TestTrendModules(t *testing.T) {
	beside(t)
	const a, b = `{step: 0, at: [10, 20, 30], low: [], high: [], mean: [], last: [5, 7, null]}`,
		`{step: 0, at: [5, 20, 25], low: [], high: [], mean: [], last: [1, null, 4]}`
	proved(t, "trend/difference.ts", []shouldBe{
		{`M.less(` + a + `, ` + b + `).at`, []int{5, 10, 20, 25, 30}},
		{`M.less(` + a + `, ` + b + `).last`, []any{nil, 4, nil, 3, nil}},
		{`M.less({step: 10, at: [0, 10], low: [], high: [], mean: [2, 3], last: [9, 9]}, {step: 10, at: [0, 10], low: [], high: [],
			mean: [1, 1], last: [0, 0]}).last`, []int{1, 2}},
		{`M.differences([{tag: 'k', unit: '°C', pen: ` + a + `}, {tag: 'r', unit: '', row: {}}], [{tag: 'k -1', of: 'k', pen: ` + b + `},
			{tag: 'r -1', of: 'r', row: {}}, {tag: 'x', of: 'gone', pen: ` + b + `}]).map((d) => [d.tag, d.unit, d.of])`,
			[]any{[]string{"k Δ", "Δ °C", "k"}}},
	})
	const both, length = `{from: true, to: true}`, 60_000
	proved(t, "trend/window.ts", []shouldBe{
		{`M.momentOf('1794281100')`, 1794281100000},
		{`M.momentOf('1794281100000')`, 1794281100000},
		{`M.momentOf('1794281100.5 s')`, 1794281100500},
		{`M.momentOf('2026-11-09T14:05:00Z')`, 1794233100000},
		{`M.momentOf('2026-11-09 14:05:00') === M.fromLocal('2026-11-09T14:05')`, true},
		{`M.momentOf('yesterday')`, nil},
		{`M.momentOf('0')`, nil},
		{`M.momentOf(undefined)`, nil},
		{`M.toLocal(M.fromLocal('2026-03-29T01:59:58'))`, "2026-03-29T01:59:58"},
		{fmt.Sprintf(`M.windowOf(%s, {from: '100', to: '200'}, %d)`, both, length), m{"from": 100000, "to": 200000}},
		{fmt.Sprintf(`M.windowOf(%s, {from: '200', to: '100'}, %d)`, both, length), nil},
		{fmt.Sprintf(`M.windowOf(%s, {from: '100', to: '—'}, %d)`, both, length), nil},
		{fmt.Sprintf(`M.windowOf({from: true, to: false}, {from: '100', to: '—'}, %d)`, length), m{"from": 100000, "to": 160000}},
		{fmt.Sprintf(`M.windowOf({from: false, to: true}, {to: '100'}, %d)`, length), m{"from": 40000, "to": 100000}},
	})
}

func TestEditsOverWhatIsShown(t *testing.T) {
	const doc = `{name: 'Fan', tag: {high: 5}, list: [1, 2, 3]}`
	proved(t, "rail/pending.ts", []shouldBe{
		{`M.put(` + doc + `, '/name', 'Pump')`, m{"name": "Pump", "tag": m{"high": 5}, "list": []int{1, 2, 3}}},
		{`M.put(` + doc + `, '/tag/high', undefined)`, m{"name": "Fan", "tag": m{}, "list": []int{1, 2, 3}}},
		{`M.put(` + doc + `, '/tag/low/a~1b', 1)`, m{"name": "Fan", "tag": m{"high": 5, "low": m{"a/b": 1}}, "list": []int{1, 2, 3}}},
		{`M.put(` + doc + `, '/list/1', 9).list`, []int{1, 9, 3}},
		{`M.put(` + doc + `, '/list/1', undefined).list`, []int{1, 3}},
		{`(() => { const d = ` + doc + `; M.put(d, '/tag/high', 1); return d.tag.high })()`, 5}, // the document stays as it is
		{`M.over({id: 't', name: 'A'}, 'tag', 't', [{kind: 'tag', id: 't', path: '/name', value: 'B'}])`, m{"id": "t", "name": "B"}},
		{`M.over({id: 't', name: 'A'}, 'tag', 't', [{kind: 'tag', id: 'u', path: '/name', value: 'B'}])`, m{"id": "t", "name": "A"}},
		{`M.over({id: 't', name: 'A'}, 'tag', 't', [{kind: 'alarm', id: 't', path: '/name', value: 'B'}])`, m{"id": "t", "name": "A"}},
		{`M.over({id: 't', name: 'A'}, 'tag', 't', [{kind: 'tag', id: 't', path: '', value: {name: 'B'}}])`, m{"id": "t", "name": "B"}},
		// A row knows more than the thing: setting the whole of it is left out.
		{`M.over({id: 't', name: 'A', uses: 3}, 'tag', 't', [{kind: 'tag', id: 't', path: '', value: {name: 'B'}}], true)`,
			m{"id": "t", "name": "A", "uses": 3}},
	})
}

// TestAnEditStaysUntilTheListsHaveIt turns the page's clock by hand: an edit lies
// over what is shown until the lists are of its revision, however long that is.
func TestAnEditStaysUntilTheListsHaveIt(t *testing.T) {
	const clock = `(() => {
		let now = 0, timers = []
		performance.now = () => now
		window.setTimeout = (f, ms = 0) => timers.push({ f, at: now + ms })
		globalThis.pass = (ms) => {
			now += ms
			const due = timers.filter((x) => x.at <= now)
			timers = timers.filter((x) => x.at > now)
			due.forEach((x) => x.f())
			return P.ops().map((o) => o.id)
		}
		globalThis.P = M.usePending()
		globalThis.sent = (id) => P.begin([{ kind: 'tag', id, path: '/name', value: id }])
		return 0
	})()`
	proved(t, "rail/pending.ts", []shouldBe{
		{clock, 0},
		{`(P.saw(7), globalThis.a = sent('a'), pass(200))`, []string{"a"}},
		{`(P.done(a, 8), pass(60000))`, []string{"a"}}, // the lists are of 7 yet
		{`(P.saw(8), pass(650))`, []string{"a"}},       // the thing itself is asked for anew: thrice what the edit took
		{`pass(100)`, []string{}},
		// Lists of a later revision have it too; what is refused goes at once.
		{`(globalThis.b = sent('b'), globalThis.c = sent('c'), P.done(b, 9), P.refuse(c), pass(0))`, []string{"b"}},
		{`(P.saw(12), pass(100))`, []string{}},
		// An edit that altered nothing is of the revision that is known already.
		{`(globalThis.d = sent('d'), P.done(d, 12), pass(100))`, []string{}},
		// A step back takes what is done, and leaves what is on its way.
		{`(globalThis.e = sent('e'), globalThis.f = sent('f'), P.done(e, 13), P.settle(), pass(0))`, []string{"f"}},
		// Another project begins with nothing, its own first revision too.
		{`(P.forget(), globalThis.g = sent('g'), P.done(g, 3), pass(60000))`, []string{"g"}},
		{`(P.saw(3), pass(100))`, []string{}},
	})
}

func TestFactsOfElements(t *testing.T) {
	const button = `{props: [{name: 'action', type: 'choice', default: 'set'}, {name: 'tag', type: 'tag', when: 'action=set|toggle'},
		{name: 'screen', type: 'screen', when: 'action=open'}],
		seeds: [{prop: 'caption', from: 'title'}, {prop: 'action', value: 'toggle'}, {prop: 'low', from: 'low'}]}`
	prop := func(i string) string { return `(` + button + `).props[` + i + `]` }
	proved(t, "stops/screens/facts.ts", []shouldBe{
		{`M.matters(` + button + `, ` + prop("0") + `, {})`, true},
		{`M.matters(` + button + `, ` + prop("1") + `, {})`, true}, // by the default of what it hangs on
		{`M.matters(` + button + `, ` + prop("1") + `, {props: {action: 'open'}})`, false},
		{`M.matters(` + button + `, ` + prop("1") + `, {props: {action: 'toggle'}})`, true},
		{`M.screenOf(` + button + `, {props: {action: 'open', screen: 's1'}})`, "s1"},
		{`M.screenOf(` + button + `, {props: {action: 'set', screen: 's1'}})`, ""}, // it opened one once
		{`M.screenOf(undefined, {})`, ""},
		{`M.seeds(` + button + `, {tag: {id: 't', name: 'Run', description: 'Fan runs'}})`,
			m{"tag": "t", "caption": "Fan runs", "action": "toggle", "low": 0}},
		{`M.seeds(` + button + `, {tag: {id: 't', name: 'Run', low: 0, scale: {engLow: 4}}})`,
			m{"tag": "t", "caption": "Run", "action": "toggle", "low": 0}},
		{`M.seeds(` + button + `, {tag: {id: 't', name: 'Run', scale: {engLow: 4}}}).low`, 4},
		{`M.memberSeeds(` + button + `, {id: '$k.m1', path: 'K.Fan.Run', title: ''})`,
			m{"tag": "$k.m1", "caption": "Run", "action": "toggle"}},
		{`M.memberSeeds({props: []}, {id: '$k.m1', path: 'K.Run', title: 'Runs'})`, m{"tag": "$k.m1"}},
	})
}

func TestGeometryOfTheEditor(t *testing.T) {
	box := func(x, y, w, h float64) m { return m{"x": x, "y": y, "w": w, "h": h} }
	proved(t, "stops/screens/geometry.ts", []shouldBe{
		{`M.around([])`, nil},
		{`M.around([{x: 5, y: 5, w: 10, h: 10}, {x: 0, y: 8, w: 4, h: 20}])`, box(0, 5, 15, 23)},
		{`M.touches({x: 0, y: 0, w: 10, h: 10}, {x: 10, y: 0, w: 5, h: 5})`, false}, // side by side
		{`M.touches({x: 0, y: 0, w: 10, h: 10}, {x: 9, y: 9, w: 5, h: 5})`, true},
		{`M.resized({x: 10, y: 10, w: 20, h: 20}, {sx: 1, sy: 0}, 6, 99)`, box(10, 10, 26, 20)},
		{`M.resized({x: 10, y: 10, w: 20, h: 20}, {sx: -1, sy: -1}, -5, 5)`, box(5, 15, 25, 15)},
		{`M.resized({x: 10, y: 10, w: 20, h: 20}, {sx: -1, sy: 0}, 100, 0)`, box(26, 10, 4, 20)}, // never turned inside out
		{`M.within({x: 0, y: 0, w: 10, h: 0}, {x: 0, y: 0, w: 20, h: 0}, {x: 5, y: 0, w: 2, h: 3})`, box(10, 0, 4, 3)},
		{`M.snap({x: 13, y: 30, w: 10, h: 10}, [], 8, 6)`, m{"dx": 3, "dy": 2, "guides": []any{}}},
		{`M.snap({x: 13, y: 30, w: 10, h: 10}, [{x: 12, y: 100, w: 10, h: 10}], 8, 6).dx`, -1},
		{`M.snap({x: 13, y: 30, w: 10, h: 10}, [{x: 12, y: 100, w: 10, h: 10}], 8, 6).guides[0]`,
			m{"vertical": true, "at": 12, "from": 30, "to": 110}},
		{`[...M.aligned('right', [['a', {x: 0, y: 0, w: 10, h: 5}], ['b', {x: 30, y: 9, w: 20, h: 5}]])]`,
			[]any{[]any{"a", m{"x": 40}}, []any{"b", m{"x": 30}}}},
		{`[...M.aligned('sameWidth', [['a', {x: 0, y: 0, w: 10, h: 5}], ['b', {x: 30, y: 9, w: 20, h: 5}]])]`,
			[]any{[]any{"a", m{"w": 10}}, []any{"b", m{"w": 10}}}},
	})
}

func TestWhereAFlagStands(t *testing.T) {
	const room = `[-1000, -1000, 1000, 1000]`
	proved(t, "canvas/flag.ts", []shouldBe{
		{`M.flagPlace(30, 100, 40, [], ` + room + `)`, []int{-33, 0}},                       // at its left
		{`M.flagPlace(30, 100, 40, [[-40, 0, -5, 12]], ` + room + `)`, []int{-33, 26}},      // a word stands there
		{`M.flagPlace(30, 100, 40, [[-40, 0, -5, 40]], ` + room + `)`, []int{0, -17}},       // all along the left
		{`M.flagPlace(30, 100, 40, [], [-10, 0, 1000, 1000])`, []int{103, 0}},               // at the screen's corner
		{`M.flagPlace(30, 100, 40, [[-500, -500, 500, 500]], ` + room + `)`, []int{-33, 0}}, // words everywhere
		{`M.flagWidth({priority: 'critical', unseen: true, returned: false})`, 30},          // filled
		{`M.flagWidth({priority: 'low', unseen: false, returned: false})`, 26},              // with a tick
		{`M.flagWidth({priority: 'low', unseen: true, returned: true})`, 26},                // with a hook
	})
}

func TestColoursAreMixed(t *testing.T) {
	proved(t, "kit/hsl.ts", []shouldBe{
		{`M.mixedOf('#ff0000')`, m{"h": 0, "s": 100, "l": 50, "share": 100}},
		{`M.mixedOf('#00ff0080')`, m{"h": 120, "s": 100, "l": 50, "share": 50}},
		{`M.mixedOf('#808080')`, m{"h": 0, "s": 0, "l": 50, "share": 100}},
		{`M.mixedOf('spruce')`, nil},
		{`M.hexOf({h: 240, s: 100, l: 50, share: 100})`, "#0000ff"},
		{`M.hexOf({h: 0, s: 0, l: 100, share: 20})`, "#ffffff33"},
		{`['#ff0000', '#00ffff', '#ffffff', '#000000'].map((c) => M.hexOf(M.mixedOf(c)))`,
			[]string{"#ff0000", "#00ffff", "#ffffff", "#000000"}},
	})
}

func TestSpansAsPeopleReadThem(t *testing.T) {
	var table []shouldBe
	for seconds, want := range map[string]string{"0": "0 s", "1.25": "1.3 s", "59": "59 s", "59.6": "1 min",
		"60": "1 min", "200": "3 min 20 s",
		"3600": "1 h", "3630": "1 h", "7500": "2 h 05 min", "86400": "1 d", "273600": "3 d 4 h"} {
		table = append(table, shouldBe{"M.span(" + seconds + ")", want})
	}
	proved(t, "kit/span.ts", table)
}

func TestRangesOfTime(t *testing.T) {
	const hour = 3_600_000
	proved(t, "trend/range.ts", []shouldBe{
		{`M.zoomed({from: 0, to: 100}, 25, 0.5)`, m{"from": 12.5, "to": 62.5}},
		{`M.zoomed({from: 0, to: 100}, 0, 2)`, m{"from": 0, "to": 200}},
		// Not after now by more than a twentieth, not shorter than a second, not longer than is answered.
		{`M.bounded({from: 900, to: 3900}, 1000)`, m{"from": -1850, "to": 1150}},
		{`M.bounded({from: 0, to: 3000}, 10000)`, m{"from": 0, "to": 3000}},
		{`(r => r.to - r.from)(M.bounded({from: 5000, to: 5010}, 10000))`, 1000},
		{`(r => (r.to - r.from) / 86400000)(M.bounded({from: -1e12, to: 5010}, 10000))`, 400},
		{`(() => { const r = M.useRange(1000); r.look({from: 0, to: 5000}); r.look({from: 1000, to: 2000})
			r.back(); return r.range.value })()`, m{"from": 0, "to": 5000}},
		{`(() => { const r = M.useRange(` + fmt.Sprint(hour) + `); r.look({from: 0, to: 5000}); const stood = r.following.value
			r.follow(7000); return [stood, r.following.value, r.length.value] })()`, []any{false, true, 7000}},
	})
}

func TestEdgesOfRows(t *testing.T) {
	const row = `{stretches: [{from: 0, to: 10}, {from: 10, to: 30}, {from: 30, to: 40}]}`
	proved(t, "trend/rows.ts", []shouldBe{
		{`M.edges(` + row + `)`, []int{10, 30}},
		{`M.edgeFrom(` + row + `, 10, true)`, 30},
		{`M.edgeFrom(` + row + `, 30, false)`, 10},
		{`M.edgeFrom(` + row + `, 30, true) === undefined`, true},
		{`M.near([` + row + `], 27, 5)`, 30},
		{`M.near([` + row + `], 20, 5)`, 20},
		{`M.near([{stretches: [{from: 0}, {from: 28}]}, ` + row + `], 27, 5)`, 28},
	})
}

// TestTheLastStretchOfATag begins with what was recorded, goes on with what comes,
// and is read anew where a replay jumps.
func TestTheLastStretchOfATag(t *testing.T) {
	const run = `(async () => {
		let now = 100000
		const asked = [], drawn = []
		const around = {now: () => new Date(now), course: async (tag, from, to) => {
			asked.push([tag, from, to])
			return [from - 5000, from + 1000, from + 2000].map((at, i) => ({at, v: [7, 8, null][i]}))
		}}
		const r = new M.Recent(around, 't', () => drawn.push(now))
		const shown = (list) => list.map((m) => [m.at, m.v])
		const first = shown(r.put(1, 60000))
		await null; await null
		const begun = shown(r.within(now - 60000))
		now += 1000; r.put(2, 60000)
		now += 100; const thin = shown(r.put(5, 60000)).at(-1)
		const peak = r.within(0).at(-1).high
		now += 1000; r.put(null, 60000)
		now += 1000; const gap = shown(r.put(null, 60000)).slice(-2)
		now = 20000; const back = shown(r.put(3, 60000))
		return {first, begun, thin, peak, gap, back, asked, drawn}
	})()`
	b := module(t, "canvas/recent.ts")
	b.js(run + `.then((x) => { window.result = x })`)
	b.until("it has run", func() bool { return b.js(`String(!!window.result)`) == "true" })
	for name, want := range map[string]string{
		"first": "[[100000,1]]", "begun": "[[35000,7],[41000,8],[42000,null],[100000,1]]", "thin": "[101000,5]", "peak": "5",
		"gap": "[[101000,5],[102100,null]]", "back": "[[20000,3]]", "asked": `[["t",40000,100000],["t",-40000,20000]]`, "drawn": "[100000,20000]",
	} {
		if got := b.js(`JSON.stringify(window.result.` + name + `)`); got != want {
			t.Errorf("%s: %s, not %s", name, got, want)
		}
	}
}

// TestFlagsOfThen has one alarm of the tag a that came at 10 and was seen at 30, one
// that stood before and went unseen at 20, and one that needs nobody.
func TestFlagsOfThen(t *testing.T) {
	const marks = `{stood: [{tag: 'b', priority: 2, went: 20, acked: 0, noAck: false}], unseen: [], entries: [], notes: [], alarms: [
		{tag: 'a', priority: 3, came: 10, went: 40, acked: 30, noAck: false}, {tag: 'a', priority: 1, came: 50, went: 60, acked: 0, noAck: true},
		{tag: '', priority: 0, came: 1, went: 0, acked: 0, noAck: false}]}`
	at := func(ms int) string { return fmt.Sprintf(`[...M.flagsAt(%s, %d)]`, marks, ms) }
	flag := func(tag, priority string, unseen, returned bool) any {
		return []any{tag, m{"priority": priority, "unseen": unseen, "returned": returned}}
	}
	proved(t, "replay/flags.ts", []shouldBe{
		{at(5), []any{flag("b", "medium", true, false)}},
		{at(15), []any{flag("b", "medium", true, false), flag("a", "low", true, false)}},
		{at(25), []any{flag("b", "medium", true, true), flag("a", "low", true, false)}},
		{at(35), []any{flag("b", "medium", true, true), flag("a", "low", false, false)}},
		{at(45), []any{flag("b", "medium", true, true)}},
		{at(55), []any{flag("b", "medium", true, true), flag("a", "high", false, false)}},
		{at(65), []any{flag("b", "medium", true, true)}},
	})
}

func TestRoundNumbersAndMoments(t *testing.T) {
	proved(t, "trend/ticks.ts", []shouldBe{
		{`M.numbers(57.2, 75.9, 6)`, []int{60, 65, 70, 75}}, {`M.numbers(0, 1, 5)`, []float64{0, 0.2, 0.4, 0.6, 0.8, 1}},
		{`M.numbers(-3, 3, 3)`, []int{-2, 0, 2}}, {`M.numbers(5, 5, 6)`, []int{}},
		{`M.moments(new Date(2026, 10, 24, 21, 53).getTime(), new Date(2026, 10, 25, 3, 53).getTime(), 8).map(t => new Date(t).getHours())`,
			[]int{22, 23, 0, 1, 2, 3}},
		{`M.moments(new Date(2026, 9, 23, 1).getTime(), new Date(2026, 9, 29, 1).getTime(), 8).map(t => new Date(t).getHours())`,
			[]int{0, 0, 0, 0, 0, 0}}, // one of these days may have 25 hours
	})
}

// TestAPictureOfCourses is whole: nothing unescaped, no number that is none, a gap
// in a line where nothing is known.
func TestAPictureOfCourses(t *testing.T) {
	const sheet = `M.picture({title: 'A < B', when: 'today', width: 1200, range: {from: 0, to: 60000}, ends: new Map(), inverted: new Set(['d']),
		names: new Map([['d', 'Door']]), time: (at) => String(at), lines: [
		{tag: 'a', path: 'Kiln1.DryBulb', unit: '°C', decimals: 1, limits: [], pen: {step: 0, at: [0, 20000, 30000, 40000], low: [], high: [],
			mean: [60, 70, null, 65], last: [60, 70, null, 65]}},
		{tag: 'd', path: 'Kiln1.Door', unit: '', decimals: 0, limits: [], row: {bool: true, stretches: [{from: 0, to: 30000, value: 0, text: 'off'},
			{from: 30000, to: 60000, value: 1, text: 'on'}]}}]})`
	proved(t, "trend/picture.ts", []shouldBe{
		{`new DOMParser().parseFromString(` + sheet + `, 'image/svg+xml').querySelectorAll('parsererror').length`, 0},
		{`/NaN|undefined|Infinity/.test(` + sheet + `)`, false},
		{sheet + `.includes('A &lt; B')`, true},
		{`/d="(M[^"]*)"/.exec(` + sheet + `)[1].split('M').length - 1`, 2}, // two pieces
		{sheet + `.includes('text-decoration="overline"')`, true},
		{`(` + sheet + `.match(/height="18"/g) ?? []).length`, 1}, // inverted: off is what is filled
	})
}

// TestCellsOfRecipes lays what is pasted over the cells that can be entered, and
// goes from cell to cell over those that cannot.
func TestCellsOfRecipes(t *testing.T) {
	const columns = `[{key: 'a', recipe: 'r1', version: 0}, {key: 'b', recipe: 'r2', version: 0}, {key: 'c', recipe: 'r3', version: 2}]`
	const fields = `[{id: 'f1', formula: ''}, {id: 'f2', formula: 'f1 * 2'}, {id: 'f3', formula: ''}]`
	laid := func(key, field, block string) string {
		return `[...M.laid(` + columns + `, ` + fields + `, '` + key + `', '` + field + `', ` + block + `)].map(([c, v]) => [c.key, v])`
	}
	next := func(key, field string, down, right int) string {
		return fmt.Sprintf(`M.neighbour([...%s, {key: 'd', recipe: '', version: 0, target: 'k'}], %s, {key: '%s', field: '%s'}, %d, %d) ?? null`,
			columns, fields, key, field, down, right)
	}
	at := func(key, field string) any { return map[string]any{"key": key, "field": field} }
	proved(t, "recipes/columns.ts", []shouldBe{
		{`M.cells("1\t2\r\n3\t\r\n")`, [][]string{{"1", "2"}, {"3", ""}}}, {`M.cells("x")`, [][]string{{"x"}}},
		{laid("a", "f1", `[['5']]`), []any{[]any{"a", map[string]any{"f1": "5"}}}},
		// A computed field is passed over, what goes past the last is left out.
		{laid("a", "f1", `[['1'], ['2'], ['3']]`), []any{[]any{"a", map[string]any{"f1": "1", "f3": "2"}}}},
		{laid("a", "f3", `[['1', ' 2 ']]`), []any{[]any{"a", map[string]any{"f3": "1"}}, []any{"b", map[string]any{"f3": "2"}}}},
		// An older version is not written over.
		{laid("b", "f1", `[['1', '2']]`), []any{[]any{"b", map[string]any{"f1": "1"}}}},
		{laid("a", "f2", `[['1']]`), []any{}}, {laid("x", "f1", `[['1']]`), []any{}},
		{next("a", "f1", 1, 0), at("a", "f3")}, {next("a", "f3", 1, 0), nil}, {next("a", "f1", 0, 1), at("b", "f1")},
		{next("c", "f1", 0, 1), nil}, {next("a", "f1", -1, 0), nil},
	})
}

func TestPensAreToldApart(t *testing.T) {
	proved(t, "trend/pens.ts", []shouldBe{
		{`new Set([...Array(12).keys()].map(i => JSON.stringify(M.style(i)))).size`, 12},
		{`M.unitsOf([{unit: 'K', pen: {}}, {unit: '', row: {}}, {unit: '%', pen: {}}, {unit: 'K', pen: {}}])`, []string{"K", "%"}},
		{`M.table({step: 2000, at: [0, 2000], low: [1, 2], high: [5, null], mean: [3, 4], last: [9, 9]})`,
			[]any{[]int{1, 3}, []int{1, 2}, []any{5, nil}, []int{3, 4}}},
		{`M.table({step: 0, at: [0, 2000], low: [], high: [], mean: [], last: [9, null]})`,
			[]any{[]int{0, 2}, []any{9, nil}, []any{9, nil}, []any{9, nil}}},
		{`M.extent([{unit: 'K', pen: {step: 0, at: [0], low: [], high: [], mean: [], last: [10]}}], 'K').map(x => +x.toFixed(2))`,
			[]any{9.4, 10.6}},
		{`M.extent([], 'K')`, []int{0, 1}},
		{`[M.insets(0), M.insets(2)]`, []any{m{"left": 116, "right": 16}, m{"left": 116, "right": 52}}},
	})
}

func TestLengthsOfTimeAsTheyAreTyped(t *testing.T) {
	proved(t, "stops/history/times.ts", []shouldBe{
		{`[100, 1500, 60000, 5400000, 86400000, 604800000].map(M.asTime)`, []string{"100 ms", "1500 ms", "1 min", "90 min", "1 d", "7 d"}},
		{`[M.asTime(0), M.asTime(undefined)].map(String)`, []string{"undefined", "undefined"}},
		{`['500 ms', '1,5 h', '2min', ' 3 ', '0.5 s', '1 d'].map(M.inMs)`, []int{500, 5_400_000, 120_000, 3000, 500, 86_400_000}},
		{`['', '-1 s', '5 weeks', '1:30', 'ms'].map((x) => String(M.inMs(x)))`,
			[]string{"undefined", "undefined", "undefined", "undefined", "undefined"}},
		// What is shown is what was typed.
		{`[100, 250, 1500, 7200000].every((ms) => M.inMs(M.asTime(ms)) === ms)`, true},
	})
}

func TestAmountsOfData(t *testing.T) {
	proved(t, "kit/bytes.ts", []shouldBe{
		{`[0, 999, 1000, 12345, 123456, 5.8e6, 2e12].map(M.bytes)`,
			[]string{"0 B", "999 B", "1.00 kB", "12.3 kB", "123 kB", "5.80 MB", "2.00 TB"}},
	})
}
