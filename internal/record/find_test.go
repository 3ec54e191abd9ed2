package record

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
	"readyrail/internal/store"
)

// condition compiles a formula over tags that are called by their ids.
func condition(t *testing.T, text string, kinds ...value.Kind) *Condition {
	t.Helper()
	c := &Condition{Kinds: kinds}
	stored, err := formula.Store(text, func(path string) (string, bool) { return path, true }, nil)
	if err != nil {
		t.Fatal(err)
	}
	for i := range kinds {
		c.Tags = append(c.Tags, string(rune('a'+i)))
	}
	c.Program, err = formula.Compile(stored, formula.Scope{Path: func(id string) (string, bool) { return id, true },
		Tag: func(id string) (int32, value.Kind, bool) {
			i := int(id[0] - 'a')
			return int32(i), kinds[i], i < len(kinds)
		}})
	if err != nil {
		t.Fatal(err)
	}
	return c
}

func sampleOf(id string, seconds float64, v value.Value) store.TagValue {
	return store.TagValue{Tag: id, Value: v.At(noon.Add(time.Duration(seconds * float64(time.Second))))}
}

func TestFindAConditionOfTheRecordedTime(t *testing.T) {
	gone := value.Bad(value.BOOL, value.BadNoAnswer)
	r := opened(t, t.TempDir(), Past{Samples: []store.TagValue{
		sampleOf("a", 0, real(60)), sampleOf("a", 10, real(81)), sampleOf("a", 30, real(79)), sampleOf("a", 40, real(90)),
		sampleOf("a", 90, real(60)),
		sampleOf("b", 0, value.Bool(false)), sampleOf("b", 20, value.Bool(true)), sampleOf("b", 45, value.Bool(false)),
		sampleOf("b", 60, gone), sampleOf("b", 70, value.Bool(false)), sampleOf("b", 100, value.Bool(true)),
	}}, nil).Recorder
	find := func(least, from, to float64) string {
		c := condition(t, "a > 80 and not b", value.LREAL, value.BOOL)
		c.Least = int64(least * 1e9)
		out := ""
		err := r.Find(t.Context(), c, at(from), at(to), func(s history.Span, began []value.Value) bool {
			out += fmt.Sprintf("%g-%g:%g ", float64(s.From-noon.UnixNano())/1e9, float64(s.To-noon.UnixNano())/1e9, began[0].Float())
			return true
		})
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	for _, c := range []struct {
		least, from, to float64
		want            string
	}{
		{0, 0, 200, "10-20:81 45-60:90 70-90:90 "},
		{16, 0, 200, "70-90:90 "},
		{0, 15, 75, "15-20:81 45-60:90 70-75:90 "}, // what holds at the ends is cut there
		{0, 21, 40, ""},
	} {
		if got := find(c.least, c.from, c.to); got != c.want {
			t.Errorf("at least %v in %v to %v: %s", c.least, c.from, c.to, got)
		}
	}
}

// TestFindAgreesWithLookingAtEverySecond compares random courses with what a look
// at each second says.
func TestFindAgreesWithLookingAtEverySecond(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 9))
	for round := range 5 {
		const long = 4000
		var list []store.TagValue
		course := [2][long]value.Value{}
		for tag, id := range []string{"a", "b"} {
			now := value.Bad(value.LREAL, value.BadWaiting)
			for s := range long {
				if s == 0 || random.IntN(3) == 0 {
					now = real(float64(random.IntN(10)))
					if random.IntN(12) == 0 {
						now = value.Bad(value.LREAL, value.BadNoAnswer)
					}
					list = append(list, sampleOf(id, float64(s), now))
				}
				course[tag][s] = now
			}
		}
		kept, err := store.OpenSamples(t.TempDir(), nil)
		if err == nil {
			err = kept.Keep(t.Context(), list)
		}
		if err == nil && round%2 == 0 { // from blocks on disk, as well as from what is in memory
			err = kept.Settle(t.Context(), noon.Add(24*time.Hour))
		}
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { kept.Close() })
		r := Reading(kept)
		got := [long]bool{}
		c := condition(t, "a > b + 3", value.LREAL, value.LREAL)
		err = r.Find(t.Context(), c, at(0), at(long), func(s history.Span, _ []value.Value) bool {
			for x := (s.From - at(0)) / 1e9; x < (s.To-at(0))/1e9 && x < long; x++ {
				got[x] = true
			}
			return true
		})
		if err != nil {
			t.Fatal(err)
		}
		for s := range long - 1 {
			a, b := course[0][s], course[1][s]
			if want := !a.Quality.IsBad() && !b.Quality.IsBad() && a.Float() > b.Float()+3; got[s] != want && s < int((r.Alive()-at(0))/1e9) {
				t.Fatalf("round %d, second %d: %v, not %v", round, s, got[s], want)
			}
		}
	}
}

func TestPairsOfEdges(t *testing.T) {
	var list []store.TagValue
	put := func(id string, seconds float64, on bool) { list = append(list, sampleOf(id, seconds, value.Bool(on))) }
	put("call", 0, false)
	put("flame", 0, false)
	for i, took := range []float64{6.4, 6.9, 7.8, 0, 6.6} {
		start := float64(100 * (i + 1))
		put("call", start, true)
		put("call", start+60, false)
		if took > 0 {
			put("flame", start+took, true)
			put("flame", start+61, false)
		}
	}
	// What comes on unseen is no edge.
	list = append(list, store.TagValue{Tag: "call", Value: value.Bad(value.BOOL, value.BadNoAnswer).At(noon.Add(700 * time.Second))})
	put("call", 720, true)
	r := opened(t, t.TempDir(), Past{Samples: list}, nil).Recorder
	p, err := r.Pairs(t.Context(), Edge{Tag: "call"}, Edge{Tag: "flame"}, at(0), at(800), 6.5, 7.5)
	if err != nil {
		t.Fatal(err)
	}
	if p.Count != 4 || p.Without != 1 || p.Early != 1 || p.Late != 1 || p.Least != 6.4 || p.Most != 7.8 || p.Median != 6.75 {
		t.Errorf("%+v", p)
	}
	fits := ""
	for _, x := range p.List {
		fits += fmt.Sprintf("%g %s; ", float64(x.At-noon.UnixMilli())/1000, x.Fits)
	}
	if fits != "500 yes; 400 without; 300 late; 200 yes; 100 early; " {
		t.Error(fits)
	}
	p, err = r.Pairs(t.Context(), Edge{"call", true}, Edge{"flame", true}, at(0), at(800), 0, 0)
	if err != nil || p.Count != 4 || p.Most != 1 {
		t.Errorf("%+v %v", p, err)
	}
}
