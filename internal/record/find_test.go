package record

import (
	"fmt"
	"math/rand/v2"
	"slices"
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
	scope := formula.Scope{Path: func(id string) (string, bool) { return id, true },
		Tag: func(id string) (int32, value.Kind, bool) {
			i := int(id[0] - 'a')
			return int32(i), kinds[i], i < len(kinds)
		}}
	if c.Program, err = formula.Compile(stored, scope); err == nil {
		c.Bounds, err = formula.BoundsOf(stored, scope)
	}
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
		err := r.Find(t.Context(), c, at(from), at(to), func(int64) {}, func(s history.Span, began []value.Value) bool {
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
// at each second says. For hours of them the condition cannot hold, and these are
// not looked at sample by sample.
func TestFindAgreesWithLookingAtEverySecond(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 9))
	for round := range 5 {
		const long = 30_000
		var list []store.TagValue
		course := [2][long]value.Value{}
		for tag, id := range []string{"a", "b"} {
			now := value.Bad(value.LREAL, value.BadWaiting)
			for s := range long {
				if s == 0 || random.IntN(3) == 0 {
					wide := 4 // too little for the condition
					if s/1000%7 == 2 || s > 29_500 {
						wide = 10
					}
					now = real(float64(random.IntN(wide)))
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
		err = r.Find(t.Context(), c, at(0), at(long), func(int64) {}, func(s history.Span, _ []value.Value) bool {
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
		x := &search{cond: c, reader: r}
		parts, err := x.worthLooking(t.Context(), at(0), at(long))
		looked := int64(0)
		for _, p := range parts {
			looked += (p.To - p.From) / 1e9
		}
		if err != nil || looked > long/2 || looked < 4500 {
			t.Errorf("round %d: %d of %d seconds were looked at %v", round, looked, long, err)
		}
	}
}

// TestFindOverManyDays finds what lasts from one part of the work to the next as
// one, and is told how far it is.
func TestFindOverManyDays(t *testing.T) {
	const day = 24 * 3600.0
	r := opened(t, t.TempDir(), Past{Samples: []store.TagValue{
		sampleOf("a", 0, real(60)), sampleOf("a", 2*day+5, real(90)), sampleOf("a", 9*day+7, real(60)), sampleOf("a", 11*day, real(85)),
		sampleOf("a", 11*day+30, real(60)), sampleOf("a", 13*day, real(60))}}, nil).Recorder
	var got []history.Span
	var seen []int64
	err := r.Find(t.Context(), condition(t, "a > 80", value.LREAL), at(0), at(13*day), func(at int64) { seen = append(seen, at) },
		func(s history.Span, _ []value.Value) bool { got = append(got, s); return true })
	want := []history.Span{{From: at(2*day + 5), To: at(9*day + 7)}, {From: at(11 * day), To: at(11*day + 30)}}
	if err != nil || !slices.Equal(got, want) {
		t.Errorf("%v %v", got, err)
	}
	if len(seen) < 3 || !slices.IsSorted(seen) || seen[len(seen)-1] != at(13*day) {
		t.Errorf("told %v", seen)
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
