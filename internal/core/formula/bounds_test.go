package formula

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"readyrail/internal/core/value"
)

// three has a REAL, an INT and a BOOL.
var three = fixture{[]entry{{"r", value.Real(value.LREAL, 0)}, {"n", value.Int(value.INT, 0)}, {"b", value.Bool(false)}}}

func boundsOf(t *testing.T, text string) (*Bounds, *Program) {
	t.Helper()
	stored, err := Store(text, three.find, nil)
	if err != nil {
		t.Fatal(text, err)
	}
	p, err := Compile(stored, three.scope())
	if err != nil {
		t.Fatal(text, err)
	}
	b, err := BoundsOf(stored, three.scope())
	if err != nil {
		t.Fatal(text, err)
	}
	return b, p
}

func TestWhereAFormulaHoldsNowhere(t *testing.T) {
	real, whole := Range{60, 70}, Range{-2, 3}
	off, either := Range{0, 0}, Range{0, 1}
	for _, c := range []struct {
		text string
		bool Range
		may  bool
	}{
		{"r > 70", off, false}, {"r >= 70", off, true}, {"r < 60", off, false}, {"r <= 60", off, true},
		{"r == 80", off, false}, {"r != 65", off, true}, {"n == 4", off, false}, {"n == 3", off, true},
		{"r > 65 and b", off, false}, {"r > 65 and not b", off, true}, {"r > 75 or b", off, false}, {"r > 75 or b", either, true},
		{"r - 5 > 66", off, false}, {"r + n > 73", off, false}, {"r * n > 210", off, false}, {"-r > -60", off, false},
		{"r / 2 > 35", off, false}, {"r / n > 1000", off, true}, // near 0 it may be anything
		{"abs(n) > 3", off, false}, {"min(r, 50) > 50", off, false}, {"max(r, n) < 60", off, false}, {"number(b) > 0", off, false},
		{"(b ? r : 10) > 10", off, false}, {"(b ? r : 10) > 10", either, true}, {"orElse(r, 99) > 98", off, true},
		{"sqrt(r) > 1000", off, true}, {"r > 1e300", off, true}, // of these nothing is told
		{"quality(r) == \"bad\"", off, true}, {"not (r > 50)", off, false},
	} {
		b, _ := boundsOf(t, c.text)
		if got := b.May([]Range{real, whole, c.bool}); got != c.may {
			t.Errorf("%s with b in %v: %v", c.text, c.bool, got)
		}
	}
}

// TestBoundsMissNothing makes formulas by chance and looks at moments by chance:
// where one holds, its bounds said that it may.
func TestBoundsMissNothing(t *testing.T) {
	random := rand.New(rand.NewPCG(4, 4))
	pick := func(list ...string) string { return list[random.IntN(len(list))] }
	var number, truth func(deep int) string
	number = func(deep int) string {
		if deep == 0 {
			return pick("r", "n", "3", "2.5", "-1", "number(b)")
		}
		a, b := number(deep-1), number(deep-1)
		return pick(fmt.Sprintf("(%s %s %s)", a, pick("+", "-", "*", "/"), b), fmt.Sprintf("%s(%s, %s)", pick("min", "max", "orElse"), a, b),
			fmt.Sprintf("abs(%s)", a), fmt.Sprintf("(%s ? %s : %s)", truth(deep-1), a, b), fmt.Sprintf("(-%s)", a), a)
	}
	truth = func(deep int) string {
		if deep == 0 {
			return pick("b", fmt.Sprintf("(%s %s %s)", number(0), pick("<", "<=", ">", ">=", "==", "!="), number(0)))
		}
		return pick(fmt.Sprintf("(%s %s %s)", truth(deep-1), pick("and", "or"), truth(deep-1)), "(not "+truth(deep-1)+")",
			fmt.Sprintf("(%s %s %s)", number(deep), pick("<", "<=", ">", ">=", "==", "!="), number(deep)))
	}
	held, nowhere := 0, 0
	for range 3000 {
		text := truth(1 + random.IntN(2))
		stored, err := Store(text, three.find, nil)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := Compile(stored, three.scope()); err != nil {
			if !strings.Contains(err.Error(), "takes") && !strings.Contains(err.Error(), "one type") {
				t.Fatal(text, err)
			}
			continue // orElse of two types
		}
		bounds, p := boundsOf(t, text)
		low, wide := float64(random.IntN(9)-4), float64(random.IntN(4))
		least, more := random.IntN(7)-3, random.IntN(3)
		on := Range{float64(random.IntN(2)), 1}
		may := bounds.May([]Range{{low, low + wide}, {float64(least), float64(least + more)}, on})
		if !may {
			nowhere++
		}
		for range 20 {
			slots := []value.Value{value.Real(value.LREAL, low+wide*random.Float64()), value.Int(value.INT, int64(least+random.IntN(more+1))),
				value.Bool(on.Low == 1 || random.IntN(2) == 1)}
			if random.IntN(3) == 0 {
				k := random.IntN(2)
				slots[k] = value.Bad(slots[k].Kind, value.BadNoAnswer)
			}
			v := p.Eval(&Frame{Slots: slots})
			if v.Quality.IsBad() || !v.Bool() {
				continue
			}
			if held++; !may {
				t.Fatalf("%s holds with %v, its bounds said nowhere in r %v+%v n %d+%d b %v", text, slots, low, wide, least, more, on)
			}
		}
	}
	if held < 1000 || nowhere < 200 {
		t.Errorf("held %d times, %d that hold nowhere: too few to prove anything", held, nowhere)
	}
}
