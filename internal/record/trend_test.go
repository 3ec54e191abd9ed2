package record

import (
	"fmt"
	"math"
	"testing"
	"time"

	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/store"
)

// kept opens records whose samples are those given, in seconds after noon.
func keptSamples(t *testing.T, id string, pairs ...any) *Recorder {
	t.Helper()
	var list []store.TagValue
	for i := 0; i < len(pairs); i += 2 {
		at := noon.Add(time.Duration(pairs[i].(float64) * float64(time.Second)))
		list = append(list, store.TagValue{Tag: id, Value: pairs[i+1].(value.Value).At(at)})
	}
	return opened(t, t.TempDir(), Past{Samples: list}, nil).Recorder
}

var noon = time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)

func at(seconds float64) int64 { return noon.UnixNano() + int64(seconds*1e9) }

func real(f float64) value.Value { return value.Real(value.LREAL, f) }

// Of few samples each stands for itself, and what was known holds until nothing
// is known; of many the steps have the least, the most and the mean.
func TestAPenIsDrawnByItsRange(t *testing.T) {
	r := keptSamples(t, "k", 0., real(60), 10., real(62), 20., value.Bad(value.LREAL, value.BadNoAnswer), 30., real(64), 40., real(64.5))
	p, err := r.Pen(t.Context(), "k", at(5), at(40), 100)
	if err != nil || p.Step != 0 {
		t.Fatal(p, err)
	}
	got := ""
	for i := range p.At {
		got += fmt.Sprintf("%v:%v ", float64(p.At[i]-noon.UnixMilli())/1000, p.Last[i])
	}
	if want := "5:60 10:62 19.999:62 20:NaN 30:64 40:64 "; got != want {
		t.Errorf("%s, not %s", got, want)
	}
	var many []any
	for i := range 5000 {
		many = append(many, float64(i)/10, real(float64(i%10)))
	}
	many = append(many, 500., value.Bad(value.LREAL, value.BadNoAnswer), 700., real(5), 710., real(5))
	r = keptSamples(t, "k", many...)
	if p, err = r.Pen(t.Context(), "k", at(0), at(710), 100); err != nil || p.Step != 10_000 {
		t.Fatal(p, err)
	}
	if p.Low[3] != 0 || p.High[3] != 9 || math.Abs(float64(p.Mean[3])-4.5) > 1e-9 || p.At[3] != noon.UnixMilli()+30_000 {
		t.Errorf("%v", p)
	}
	if n := len(p.At); !math.IsNaN(float64(p.Mean[55])) || p.Mean[n-2] != 5 {
		t.Errorf("the gap: %v", p.Mean)
	}
	if p, err = r.Pen(t.Context(), "nobody", at(0), at(10), 100); err != nil || len(p.At) != 0 || p.Low == nil {
		t.Errorf("%v %v", p, err)
	}
}

// Pulses are counted and measured as far as they lie in the range whole; what is
// too narrow to be drawn is joined, and loses no time.
func TestARowCountsItsPulses(t *testing.T) {
	on, off := value.Bool(true), value.Bool(false)
	r := keptSamples(t, "b", 0., on, 10., off, 20., on, 26., off, 30., value.Bad(value.BOOL, value.BadNoAnswer), 40., off, 50., on, 54., off,
		90., on, 100., on)
	show := func(v value.Value) string { return v.Text() }
	row, err := r.Row(t.Context(), &tag.Tag{ID: "b", Type: value.Type{Kind: value.BOOL}}, at(5), at(100), 95, show)
	if err != nil {
		t.Fatal(err)
	}
	if row.On != 3 || row.Time != 5+6+4+10 || row.Known != 85 || row.Least != 4 || row.Most != 6 || row.Mean != 5 || !row.Bool {
		t.Errorf("%+v", row)
	}
	got := ""
	for _, s := range row.Stretches {
		got += fmt.Sprintf("%d-%d:%v%s ", (s.From-noon.UnixMilli())/1000, (s.To-noon.UnixMilli())/1000, s.Value, s.Bad)
	}
	if want := "5-10:1 10-20:0 20-26:1 26-30:0 30-40:NaNthe device does not answer 40-50:0 50-54:1 54-90:0 90-100:1 "; got != want {
		t.Errorf("%s, not %s", got, want)
	}
	var quick []any
	for i := range 1000 {
		quick = append(quick, float64(i)/10, value.Bool(i%2 == 1))
	}
	r = keptSamples(t, "b", append(quick, 1000., off)...)
	if row, err = r.Row(t.Context(), &tag.Tag{ID: "b", Type: value.Type{Kind: value.BOOL}}, at(0), at(1000), 100, show); err != nil {
		t.Fatal(err)
	}
	if n := len(row.Stretches); row.On != 500 || n > 15 || row.Stretches[2].Edges < 50 || math.Abs(row.Stretches[2].OnTime-5) > 1 {
		t.Errorf("%d stretches, %+v", n, row.Stretches[2])
	}
}

// Between two moments: by hand.
func TestBetweenTwoMoments(t *testing.T) {
	r := keptSamples(t, "k", 0., real(10), 10., real(20), 15., value.Bad(value.LREAL, value.BadNoAnswer), 20., real(40), 60., real(40))
	show := func(v value.Value) string { return v.Text() }
	b, err := r.Between(t.Context(), &tag.Tag{ID: "k", Type: value.Type{Kind: value.LREAL}}, at(5), at(25), show)
	if err != nil {
		t.Fatal(err)
	}
	if b.A != "10" || b.B != "40" || b.Delta != 30 || b.Least != 10 || b.Most != 40 || b.Sum != 5*10+5*20+5*40 || b.Good != 0.75 ||
		math.Abs(float64(b.Mean)-350./15) > 1e-9 || math.Abs(float64(b.Deviation)-12.472191) > 1e-6 || b.Count != 2 {
		t.Errorf("%+v", b)
	}
	if b, err = r.Between(t.Context(), &tag.Tag{ID: "no", Type: value.Type{Kind: value.LREAL}}, at(5), at(25), show); err != nil || b.A != "" ||
		!math.IsNaN(float64(b.Mean)) {
		t.Errorf("%+v %v", b, err)
	}
}
