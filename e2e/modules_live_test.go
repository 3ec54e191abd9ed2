package e2e

import "testing"

// standInSocket puts a socket into the page that a table turns by hand: S is the
// newest one, sent what went out on it, and pass turns the clock.
const standInSocket = `(() => {
	let now = 0, timers = [];
	performance.now = () => now;
	window.setTimeout = (f, ms = 0) => timers.push({ f, at: now + ms });
	window.setInterval = (f, ms) => { const t = { f, at: now + ms, every: ms }; timers.push(t); return t; };
	window.clearInterval = (t) => (timers = timers.filter((x) => x !== t));
	globalThis.pass = (ms) => {
		for (const end = now + ms; ; ) {
			const t = timers.filter((x) => x.at <= end).sort((a, b) => a.at - b.at)[0];
			if (!t) return (now = end, 'passed');
			now = t.at;
			if (t.every) t.at += t.every;
			else timers = timers.filter((x) => x !== t);
			t.f();
		}
	};
	globalThis.sent = [];
	window.WebSocket = class {
		static OPEN = 1;
		readyState = 0;
		constructor() { globalThis.S = this; globalThis.sockets = (globalThis.sockets ?? 0) + 1; }
		send(text) { sent.push(JSON.parse(text)); }
		close() { this.readyState = 3; this.onclose?.(); }
		up() { this.readyState = 1; this.onopen(); }
		says(m) { this.onmessage({ data: JSON.stringify(m) }); }
	};
	globalThis.out = () => sent.splice(0).map((m) => [m.op, m.ch ?? m.key ?? m.language ?? ''].join(' '));
	return 0;
})()`

// What a page follows is asked for again after each break, silence is told, and a
// socket that is not the present one says nothing.
func TestTheLiveConnection(t *testing.T) {
	beside(t)
	proved(t, "live/live.ts", []shouldBe{
		{standInSocket, 0},
		{`(globalThis.L = M.live, globalThis.frames = [], L.silent())`, false}, // nothing is followed
		{`(globalThis.close = L.open({op: 'scene', screen: 's'}, (f) => frames.push(f.g), (p) => frames.push(p)), sockets)`, 1},
		{`out()`, []string{}}, // nothing is said before the socket is there
		{`L.silent()`, true},
		{`(S.up(), out())`, []string{"language en", "scene 1"}},
		{`(S.says([1, {g: 7, t: 1000}]), S.says([9, {g: 8}]), frames)`, []int{7}},
		{`L.silent()`, false},
		{`(pass(2001), L.silent())`, true},
		{`(S.says([1, {g: 9}]), L.silent())`, false},
		{`(L.speak('de'), out())`, []string{"language de"}},
		// A break: what is followed is asked for again, in the same language, later each time.
		{`(globalThis.old = S, S.close(), L.connected.value)`, false},
		{`(pass(249), sockets)`, 1},
		{`(pass(1), sockets)`, 2},
		{`(S.close(), pass(499), sockets)`, 2},
		{`(pass(1), sockets)`, 3},
		{`(S.up(), out())`, []string{"language de", "scene 1"}},
		{`(old.says([1, {g: 1}]), frames.length)`, 2},
		// What the server refuses is told, and is not silent for ever.
		{`(S.says({ch: 1, problem: 'no such screen'}), frames.at(-1))`, "no such screen"},
		{`(pass(5000), L.silent())`, false},
		{`(close(), out())`, []string{"close 1"}},
		{`(S.says([1, {g: 3}]), frames.length)`, 3},
		// Qualities are those of the server's greeting: the last is good, the one before it held.
		{`(S.says({hello: {t: Date.now(), qualities: [{level: 'bad', reason: 'no answer'}, {level: 'good', reason: 'by Iris'},
			{level: 'good', reason: ''}]}}), [M.quality(0), M.quality(1), M.quality(undefined), M.quality(99)])`,
			[]m{{"level": "bad", "reason": "no answer"}, {"level": "held", "reason": "by Iris"}, {"level": "good", "reason": ""},
				{"level": "bad", "reason": ""}}},
	})
}

// The news of a project come over one channel, however many follow them.
func TestNewsOfAProject(t *testing.T) {
	beside(t)
	proved(t, "live/live.ts", []shouldBe{
		{standInSocket, 0},
		{`(globalThis.L = M.live, globalThis.heard = [], globalThis.a = L.news('yard', () => heard.push('a')),
			globalThis.b = L.news('yard', () => heard.push('b')), S.up(), out())`, []string{"language en", "news 1"}},
		{`(S.says({news: {project: 'yard'}}), S.says({news: {project: 'mill'}}), heard)`, []string{"a", "b"}},
		{`L.alarmNumber('yard', 'release') ?? 'unknown'`, "unknown"},
		{`(S.says([1, {a: {release: 4}}]), L.alarmNumber('yard', 'release'))`, 4},
		{`(a(), S.says({news: {project: 'yard'}}), heard)`, []string{"a", "b", "b"}},
		{`out()`, []string{}},
		{`(b(), out())`, []string{"close 1"}},
		// What was known of alarms before a break is not known after it.
		{`(globalThis.c = L.news('yard', () => {}), S.says([2, {a: {release: 5}}]), S.close(), L.alarmNumber('yard', 'release') ?? 'unknown')`,
			"unknown"},
	})
}

// A press ends once: by the hand, by the server or by a hand that is gone; until then
// it is renewed.
func TestAPressOfAButton(t *testing.T) {
	beside(t)
	const begin = `(() => {
		globalThis.said = []; globalThis.ended = []; globalThis.hand = true; globalThis.told = undefined;
		const line = { say: (m) => said.push(m.op), follow: (key, f) => (globalThis.told = f, () => (globalThis.told = undefined)) };
		globalThis.P = new M.Press(line, { message: { project: 'yard' }, alive: () => hand, over: (why) => ended.push(why ?? 'end') });
		return said;
	})()`
	proved(t, "live/press.ts", []shouldBe{
		{standInSocket, 0},
		{begin, []string{"hold"}},
		{`(pass(460), said)`, []string{"hold", "renew", "renew", "renew"}},
		{`(P.end('let go'), P.end('again'), pass(1000), said)`, []string{"hold", "renew", "renew", "renew", "let-go"}},
		{`[ended, told === undefined]`, []any{[]string{"end"}, true}},
		// The server says that it is over: nothing more goes out.
		{begin, []string{"hold"}},
		{`(told({held: true}), ended)`, []string{}},
		{`(told({over: 'an interlock'}), pass(1000), [said, ended])`, [][]string{{"hold"}, {"an interlock"}}},
		// A hand that is gone without word ends it at the next renewal.
		{begin, []string{"hold"}},
		{`(globalThis.hand = false, pass(150), [said, ended])`, [][]string{{"hold", "let-go"}, {"end"}}},
	})
}
