package bench

import (
	"bytes"
	"encoding/json"
	"errors"
	"strings"
	"testing"
)

func TestAFigureIsMetOnlyWithinItsGoal(t *testing.T) {
	for _, c := range []struct {
		f     Figure
		met   bool
		ratio float64
	}{
		{ratio("a", "ms", 12, 4, 3), true, 3},
		{ratio("a", "ms", 12.1, 4, 3), false, 3.025},
		{below("b", "ms", 50, 50), true, 0},
		{below("b", "ms", 50.01, 50), false, 0},
		{above("c", "M/s", 8, 8), true, 0},
		{above("c", "M/s", 7.99, 8), false, 0},
	} {
		if c.f.Met != c.met || c.f.Ratio != c.ratio {
			t.Errorf("%+v: met %v at %v", c.f, c.f.Met, c.f.Ratio)
		}
	}
}

// with puts benches in the place of the real ones, which take minutes.
func with(t *testing.T, list ...bench) {
	t.Helper()
	was := benches
	benches = list
	t.Cleanup(func() { benches = was })
}

func TestFiguresArePrintedBesideTheirLimits(t *testing.T) {
	ran := []string{}
	one := func(name string, f Figure) bench {
		return bench{name, func() ([]Figure, error) { ran = append(ran, name); return []Figure{f}, nil }}
	}
	with(t, one("open", ratio("open/rows", "ms", 611, 180, 3)), one("edit", below("edit/unit", "ms", 38.61, 50)))
	var table bytes.Buffer
	if err := Run(&table, "", false); err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"open/rows  611 ms   180 ms  3.39×  ≤ 3×     false", "edit/unit  38.6 ms                 ≤ 50 ms  true"} {
		if !strings.Contains(table.String(), want) {
			t.Errorf("no line %q in\n%s", want, table.String())
		}
	}
	var lines bytes.Buffer
	if err := Run(&lines, "edit", true); err != nil {
		t.Fatal(err)
	}
	var f Figure
	if err := json.Unmarshal(lines.Bytes(), &f); err != nil || f.Name != "edit/unit" || f.Value != 38.61 || !f.Met {
		t.Errorf("one object a line: %s %v", lines.String(), err)
	}
	if strings.Join(ran, " ") != "open edit edit" {
		t.Errorf("what ran: %v", ran)
	}
}

func TestABenchThatFailsIsNamed(t *testing.T) {
	with(t, bench{"open", func() ([]Figure, error) { return nil, errors.New("only 3 rows") }})
	if err := Run(&bytes.Buffer{}, "open", false); err == nil || err.Error() != "bench open: only 3 rows" {
		t.Errorf("%v", err)
	}
	if err := Run(&bytes.Buffer{}, "opne", false); err == nil || !strings.Contains(err.Error(), `no bench "opne": use one of open`) {
		t.Errorf("%v", err)
	}
}

// The quickest of the real ones gives figures that something was measured for.
func TestFormulasAreMeasured(t *testing.T) {
	list, err := formulas()
	if err != nil {
		t.Fatal(err)
	}
	worst := 0.0
	for _, f := range list {
		if f.Limit > 0 && (f.Value <= 0 || f.Ratio <= 0) {
			t.Errorf("%+v is no measurement", f)
		}
		worst = max(worst, f.Ratio)
	}
	if last := list[len(list)-1]; last.Name != "formula/worst" || last.Value != worst {
		t.Errorf("the worst is said to be %+v, and is %v", last, worst)
	}
}
