package e2e

import "testing"

// Columns of the list of occurrences, and how long something lasted.
func TestColumnsOfAlarms(t *testing.T) {
	beside(t)
	usual := []string{"tab:time", "name:time", "text:time", "came:both", "acked:time", "by:time", "went:time", "long:time"}
	columns := func(text string) string {
		return `M.occurrenceColumns('` + text + `').map((c) => c.key + ':' + c.format)`
	}
	proved(t, "alarms/columns.ts", []shouldBe{
		{columns("name, came:date"), []string{"name:time", "came:date"}},
		{columns("name,limit,went"), []string{"name:time", "went:time"}}, // a limit is no column of this list
		{columns(""), usual},
		{columns("name,text"), usual}, // a list without a time says nothing
		{`[0, 9949, 10_000, 59_999, 65_000, 3_600_000, 9_000_000, 273_600_000].map(M.lasting)`,
			[]string{"0.0 s", "9.9 s", "10 s", "59 s", "1:05 min", "1:00 h", "2:30 h", "3 d 4 h"}},
	})
}

// A recorded course is a step to each point; where it is bad nothing is drawn.
func TestACourseIsDrawn(t *testing.T) {
	beside(t)
	const points = `[{at: 0, low: 1, high: 1}, {at: 10, low: 2, high: 4}, {at: 20, low: 0, high: 0, bad: true}, {at: 30, low: 3, high: 3}]`
	proved(t, "alarms/course.ts", []shouldBe{
		{`M.coursePath(` + points + `, (x) => x, (y) => y, 40)`, "M0.0 1.0H10.0V4.0V2.0M30.0 3.0H40"},
		{`M.coursePath([], (x) => x, (y) => y, 40)`, ""},
		{`M.coursePath([{at: 0, low: 0, high: 0, bad: true}], (x) => x, (y) => y, 40)`, ""},
		{`M.courseRange(` + points + `, undefined, 0)`, m{"low": 1, "high": 4}}, // what is bad has no part in it
		{`M.courseRange(` + points + `, 9, 0)`, m{"low": 1, "high": 9}},
		{`M.courseRange([{at: 0, low: 5, high: 5}], undefined, 0.1)`, m{"low": 4.5, "high": 5.5}},
		{`M.courseRange([], undefined, 0.5)`, m{"low": -0.5, "high": 1.5}},
	})
}

// What happened lies on the axis in order; what is too close is one, the worst first.
func TestMarksOfTheAxis(t *testing.T) {
	beside(t)
	const all = `M.inOrder({
		alarms: [{came: 50, went: 0, priority: 2, name: 'Dry', text: 'too dry', by: ''}, {came: 20, went: 30, priority: 0, name: 'Fan', text: 'stands', by: 'Iris'}],
		entries: [{at: 22, name: 'Set point', text: '', what: 'intent', person: 'Tom'}],
		notes: [{from: 21, to: 90, text: 'looked at', person: 'Ada'}]}, 99)`
	proved(t, "trend/marks.ts", []shouldBe{
		{all + `.map((x) => [x.kind, x.at, x.to].join(' '))`, []string{"alarm 20 30", "note 21 90", "entry 22 22", "alarm 50 99"}},
		{all + `[2].text`, "intent"},
		{`M.clusters(` + all + `, 5).map((c) => c.at + ': ' + c.marks.map((x) => x.name || x.text).join(', '))`,
			[]string{"20: Fan, looked at, Set point", "50: Dry"}},
		{`M.clusters(` + all + `, 1).length`, 4},
		{`M.clusters([], 5)`, []any{}},
	})
}

func TestNumbersAsTheyAreTyped(t *testing.T) {
	beside(t)
	proved(t, "kit/number.ts", []shouldBe{
		{`[M.typedNumber(' 61,5 '), M.typedNumber('-0.25'), M.typedNumber('1e3')]`, []float64{61.5, -0.25, 1000}},
		{`['', ' ', 'warm', '1,2,3', 'Infinity'].map((x) => M.typedNumber(x) ?? 'none')`, []string{"none", "none", "none", "none", "none"}},
	})
}

// Boxes by levels: what leads back goes no further, and what is not reached is left
// out; a line passes no box.
func TestBoxesByLevels(t *testing.T) {
	beside(t)
	const laid = `((r) => ({...r, at: (id) => r.spots.get(id)}))(M.byLevels(
		['yard', 'kiln', 'fan', 'lost'].map((id) => ({id, w: 100, h: 40})),
		[{from: 'yard', to: 'kiln'}, {from: 'kiln', to: 'yard'}, {from: 'kiln', to: 'fan'}, {from: 'fan', to: 'fan'}, {from: 'yard', to: 'fan'},
			{from: 'yard', to: 'nowhere'}], ['yard', 'nobody']))`
	proved(t, "kit/levels.ts", []shouldBe{
		{`[...` + laid + `.spots.keys()].sort()`, []string{"fan", "kiln", "yard"}},
		{laid + `.lines.map((l) => [l.key, l.links.length, l.ahead, l.back].join(' ')).sort()`,
			[]string{"kiln fan 1 true false", "yard fan 1 true false", "yard kiln 2 true true"}},
		{`((r) => [r.at('kiln').x >= r.at('yard').x + 180, r.at('fan').x >= r.at('kiln').x + 180])(` + laid + `)`, []bool{true, true}},
		{`((r) => { // the straight way from the yard to the fan has a lane of its own beside the kiln
			const path = document.createElementNS('http://www.w3.org/2000/svg', 'path');
			path.setAttribute('d', r.lines.find((l) => l.key === 'yard fan').d);
			const k = r.at('kiln');
			for (let i = 0; i <= 200; i++) {
				const p = path.getPointAtLength(path.getTotalLength() * i / 200);
				if (p.x > k.x && p.x < k.x + 100 && p.y > k.y && p.y < k.y + 40) return 'through the kiln';
			}
			return 'beside it';
		})(` + laid + `)`, "beside it"},
		{`((r) => [r.spots.size, r.lines.length, r.width])(M.byLevels([], [], []))`, []int{0, 0, 0}},
	})
}

// What a cell of the list of tags means when it is edited.
func TestCellsOfTags(t *testing.T) {
	beside(t)
	edit := func(column, row, text string) string {
		return `((c) => c.ops({tag: ` + row + `}, '` + text + `'))(M.columns.find((c) => c.key === '` + column + `'))`
	}
	set := func(path string, value any) []m {
		op := m{"kind": "tag", "id": "t", "path": path}
		if value != nil {
			op["value"] = value
		}
		return []m{op}
	}
	const device, computed, internal = `{id: 't', source: 'device', address: 'holding:1'}`, `{id: 't', source: 'computed', formula: 'A + 1'}`,
		`{id: 't', source: 'internal', initial: '5'}`
	proved(t, "stops/tags/columns.ts", []shouldBe{
		{edit("path", device, " Fan "), set("/name", "Fan")},
		{edit("type", device, "real"), set("/type", "REAL")},
		{edit("access", device, "ReadWrite"), set("/access", "readwrite")},
		{edit("low", device, "1,5"), set("/low", 1.5)},
		{edit("low", device, ""), set("/low", nil)},
		{edit("low", device, "warm"), "warm"}, // why it is refused
		{edit("address", device, "holding:2"), set("/address", "holding:2")},
		{edit("address", computed, "A + 2"), set("/formula", "A + 2")},
		{edit("address", internal, "6"), set("/initial", "6")},
		{`['device', 'computed', 'internal'].map((source) => M.columns.find((c) => c.key === 'address')
			.text({tag: {source, address: 'holding:1', formula: 'A + 1', initial: '5'}}))`, []string{"holding:1", "A + 1", "5"}},
		{`M.columns.filter((c) => !c.ops).map((c) => c.key)`, []string{"from", "raw", "value", "quality", "age", "check", "used"}},
	})
}

// Of which time a list is, and what is asked of the trail.
func TestQuestionsOfTheTrail(t *testing.T) {
	beside(t)
	proved(t, "kit/timeRange.ts", []shouldBe{
		{`M.boundsOf({hours: 8, from: '', to: ''}, 100 * 3_600_000)`, m{"from": 92 * 3_600_000}},
		{`M.boundsOf({hours: 0, from: '2026-01-01', to: ''}, 5)`, m{}}, // all: what was chosen before does not count
		{`M.boundsOf({hours: -1, from: '2026-01-01T00:00Z', to: '2026-01-02T00:00Z'}, 5)`, m{"from": 1767225600000, "to": 1767312000000}},
		{`M.boundsOf({hours: -1, from: 'soon', to: ''}, 5)`, m{}},
	})
	proved(t, "audit/trailFilter.ts", []shouldBe{
		{`M.questionOf(M.everything(), undefined, 5)`, m{}},
		{`M.questionOf({...M.everything(), what: 'intent', outcome: 'open', reason: 'none', person: ' Tom '}, 't1', 5)`,
			m{"what": []string{"intent", "refused"}, "outcome": []string{"open"}, "reason": "none", "person": "Tom", "tag": "t1"}},
		{`M.addressOf(M.questionOf({...M.everything(), what: 'intent', path: 'Kiln*.DryBulb SP'}, undefined, 5))`,
			"path=Kiln*.DryBulb+SP&what=intent%2Crefused"},
		{`M.questionOf({...M.everything(), what: '+alarms'}, undefined, 5)`, m{"what": []string{"alarm", "alarm-limit"}}},
		{`[M.groupNamed('alarms'), M.groupNamed('everything'), M.groupNamed('')]`, []string{"+alarms", "", ""}},
	})
	proved(t, "audit/trailColumns.ts", []shouldBe{
		{`M.trailColumns('who, new,old, nothing,who')`, []string{"who", "new", "old"}},
		{`M.trailColumns('').length`, 10},
		{`M.trailColumns('nothing,at all').length`, 10},
	})
}
