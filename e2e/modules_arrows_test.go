package e2e

import "testing"

// Arrows go to what stands nearest ahead: straight on before aside, and nowhere at an end.
func TestArrowsGoBesideWhereOneStands(t *testing.T) {
	beside(t)
	// Three keys in a row, three below, and a wide one beneath them.
	const keys = `[[0,0],[60,0],[120,0],[0,60],[60,60],[120,60]].map(([x, y]) => ({x, y, w: 50, h: 50})).concat([{x: 0, y: 120, w: 170, h: 40}])`
	step := func(from int, key string) string {
		return `((all) => M.beside(all[` + string(rune('0'+from)) + `], all, 'Arrow` + key + `'))(` + keys + `)`
	}
	proved(t, "kit/useArrows.ts", []shouldBe{
		{step(0, "Right"), 1}, {step(1, "Right"), 2}, {step(2, "Right"), -1},
		{step(0, "Down"), 3}, {step(2, "Down"), 5}, {step(3, "Up"), 0},
		{step(3, "Down"), 6}, {step(5, "Down"), 6}, {step(6, "Down"), -1},
		{step(6, "Up"), 4}, {step(0, "Left"), -1}, {step(0, "Up"), -1},
		{`M.beside({x: 0, y: 0, w: 1, h: 1}, [], 'ArrowUp')`, -1},
	})
}
