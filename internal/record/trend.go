package record

import (
	"context"
	"encoding/json"
	"errors"
	"math"
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Number is one that JSON writes as null where there is none.
type Number float64

// MarshalJSON writes a number as short as it can be told, and null for NaN.
func (n Number) MarshalJSON() ([]byte, error) {
	if f := float64(n); !math.IsNaN(f) && !math.IsInf(f, 0) {
		return json.Marshal(f)
	}
	return []byte("null"), nil
}

// Pen is the course of a number over a range, in columns: of each step its
// beginning, the least, the most and the mean while it was good, and the last;
// null where nothing is known. Without steps each sample stands for itself.
type Pen struct {
	Step int64    `json:"step" doc:"milliseconds; 0 for samples as they were kept"`
	At   []int64  `json:"at" doc:"milliseconds since 1970"`
	Low  []Number `json:"low" doc:"empty without steps"`
	High []Number `json:"high"`
	Mean []Number `json:"mean" doc:"weighted by time, or the sample's value"`
	Last []Number `json:"last"`
}

// Stretch is a time in which a signal stood still, or changed too often to be
// told apart at this width.
type Stretch struct {
	From   int64   `json:"from" doc:"milliseconds since 1970"`
	To     int64   `json:"to"`
	Value  Number  `json:"value" doc:"of a BOOL 0 or 1; null for a text"`
	Text   string  `json:"text" doc:"as it is shown"`
	Bad    string  `json:"bad,omitempty" doc:"why nothing is known"`
	Edges  int     `json:"edges,omitempty" doc:"of a stretch that is many: how often it changed"`
	OnTime float64 `json:"onTime,omitempty" doc:"of a stretch that is many: seconds that a BOOL was on"`
}

// SignalRow is the course of a BOOL, of states or of a text.
type SignalRow struct {
	Stretches []Stretch `json:"stretches"`
	Bool      bool      `json:"bool" doc:"it is on or off"`
	// The figures are those of a BOOL over the whole range.
	On    int     `json:"on" doc:"how often it came on"`
	Time  float64 `json:"time" doc:"seconds that it was on"`
	Known float64 `json:"known" doc:"seconds in which it is known"`
	Least float64 `json:"least" doc:"the shortest whole pulse, seconds; 0 for none"`
	Most  float64 `json:"most" doc:"the longest"`
	Mean  float64 `json:"mean"`
}

// steps are the widths that a course is folded to.
var steps = []time.Duration{time.Second, 2 * time.Second, 5 * time.Second, 10 * time.Second, 30 * time.Second, time.Minute, 2 * time.Minute,
	5 * time.Minute, 10 * time.Minute, 30 * time.Minute, time.Hour, 2 * time.Hour, 6 * time.Hour, 24 * time.Hour}

// stepOf is the width by which a span makes at most so many points.
func stepOf(span time.Duration, points int) time.Duration {
	for _, s := range steps {
		if span/s <= time.Duration(points) {
			return s
		}
	}
	return steps[len(steps)-1]
}

// Bounds of what is answered.
const (
	MostPoints = 4000
	rawFactor  = 2 // samples for a point that are answered as they are
)

// Pen reads the course of a number in [from, to), in nanoseconds, by at most so
// many points.
func (r *Recorder) Pen(ctx context.Context, id string, from, to int64, points int) (*Pen, error) {
	points = min(max(points, 2), MostPoints)
	step := stepOf(time.Duration(to-from), points)
	if step <= 10*time.Second {
		if p, err := r.samples(ctx, id, from, to, rawFactor*points); p != nil || err != nil {
			return p, err
		}
	}
	width := int64(step)
	list, err := r.store.Buckets(ctx, id, history.Floor(from, width), history.Floor(to+width-1, width), width)
	if err != nil {
		return nil, err
	}
	out := &Pen{Step: step.Milliseconds()}
	for i := range list {
		b := &list[i]
		if i > 0 && b.From > list[i-1].From+width {
			out.gap(list[i-1].From + width)
		}
		mean := math.NaN()
		if b.Good > 0 || b.Count > 0 {
			mean = b.Mean()
		}
		out.add(b.From, b.Least, b.Most, mean, b.Last)
	}
	if n := len(list); n > 0 {
		out.gap(list[n-1].From + width)
	}
	return out.whole(), nil
}

func (p *Pen) add(at int64, low, high, mean, last float64) {
	p.At = append(p.At, at/1e6)
	p.Low, p.High, p.Mean, p.Last = append(p.Low, Number(low)), append(p.High, Number(high)), append(p.Mean, Number(mean)),
		append(p.Last, Number(last))
}

// point adds a sample that stands for itself.
func (p *Pen) point(at int64, v Number) {
	p.At, p.Mean, p.Last = append(p.At, at), append(p.Mean, v), append(p.Last, v)
}

func (p *Pen) gap(at int64) { p.add(at, math.NaN(), math.NaN(), math.NaN(), math.NaN()) }

// whole has no column that is null.
func (p *Pen) whole() *Pen {
	if p.At == nil {
		p.At = []int64{}
	}
	for _, c := range []*[]Number{&p.Low, &p.High, &p.Mean, &p.Last} {
		if *c == nil {
			*c = []Number{}
		}
	}
	return p
}

// errMany ends a read that has more samples than are drawn.
var errMany = say.New("more samples than are drawn")

// samples are those of a range as they were kept; nil where there are too many.
func (r *Recorder) samples(ctx context.Context, id string, from, to int64, most int) (*Pen, error) {
	p := &Pen{}
	err := r.store.Each(ctx, id, from, to, func(c *history.Column) error {
		if len(p.At)+c.Len() > most {
			return errMany
		}
		for i := range c.At {
			s, v := c.Sample(i), math.NaN()
			if !s.Quality.IsBad() {
				v = s.Value
			}
			at := max(s.At, from) / 1e6
			// What was known holds until nothing is.
			if n := len(p.At); n > 0 && math.IsNaN(v) && !math.IsNaN(float64(p.Last[n-1])) && at-1 > p.At[n-1] {
				p.point(at-1, p.Last[n-1])
			}
			p.point(at, Number(v))
		}
		return nil
	})
	if errors.Is(err, errMany) {
		return nil, nil
	}
	if end := min(to, r.store.Alive()); err == nil && len(p.At) > 0 && end/1e6 > p.At[len(p.At)-1] {
		p.point(end/1e6, p.Last[len(p.Last)-1])
	}
	return p.whole(), err
}

// Between is what a number did between two moments.
type Between struct {
	Tag   string `json:"tag"`
	A     string `json:"a" doc:"as it is shown; empty where nothing is known"`
	B     string `json:"b"`
	Delta Number `json:"delta" doc:"B less A"`
	Least Number `json:"least"`
	Most  Number `json:"most"`
	Mean  Number `json:"mean" doc:"weighted by time (OPC UA Part 13, TimeAverage2)"`
	Sum   Number `json:"sum" doc:"the integral over time, in its unit times seconds (Total2)"`
	// Deviation tells how widely it lies about the mean.
	Deviation Number  `json:"deviation" doc:"standard deviation of all, weighted by time; null where there are too many samples"`
	Good      float64 `json:"good" doc:"share of the time in which it was good"`
	Count     int64   `json:"count" doc:"samples"`
}

// Between measures the course of a tag between two moments, in nanoseconds.
func (r *Recorder) Between(ctx context.Context, t *tag.Tag, a, b int64, show func(value.Value) string) (*Between, error) {
	none := Number(math.NaN())
	out := &Between{Tag: t.ID, Delta: none, Least: none, Most: none, Mean: none, Sum: none, Deviation: none}
	var ends [2]value.Value
	for i, at := range []int64{a, b} {
		v, err := r.store.At(ctx, t.ID, at)
		if err != nil {
			return nil, err
		}
		ends[i] = v
		if v.Kind != value.None && !v.Quality.IsBad() && at <= r.store.Alive() {
			*[]*string{&out.A, &out.B}[i] = show(v)
		}
	}
	bucket, known, err := r.store.Between(ctx, t.ID, a, b)
	if err != nil || !known || t.Kind() == value.STRING {
		return out, err
	}
	if out.A != "" && out.B != "" {
		out.Delta = Number(ends[1].Float() - ends[0].Float())
	}
	out.Least, out.Most, out.Mean, out.Sum, out.Count = Number(bucket.Least), Number(bucket.Most), Number(bucket.Mean()), Number(bucket.Sum),
		bucket.Count
	out.Good = float64(bucket.Good) / float64(b-a)
	if bucket.Count > mostMeasured {
		return out, nil
	}
	deviation, err := r.deviation(ctx, t.ID, a, b, bucket.Mean())
	out.Deviation = Number(deviation)
	return out, err
}

// mostMeasured is how many samples are looked at one by one for what their
// roll-ups do not tell.
const mostMeasured = 3_000_000

// deviation is how widely a number lies about its mean, weighted by time.
func (r *Recorder) deviation(ctx context.Context, id string, from, to int64, mean float64) (float64, error) {
	var sum, long float64
	var last history.Sample
	begun := false
	add := func(until int64) {
		if d := float64(until - max(last.At, from)); begun && d > 0 && !last.Quality.IsBad() {
			sum += d * (last.Value - mean) * (last.Value - mean)
			long += d
		}
	}
	err := r.store.Each(ctx, id, from, to, func(c *history.Column) error {
		for i := range c.At {
			s := c.Sample(i)
			add(s.At)
			last, begun = s, true
		}
		return nil
	})
	add(min(to, r.store.Alive()))
	return math.Sqrt(sum / long), err
}

// Row reads the course of a signal in [from, to), in nanoseconds, as it is shown;
// stretches that are narrower than a point are joined.
func (r *Recorder) Row(ctx context.Context, t *tag.Tag, from, to int64, points int, show func(value.Value) string) (*SignalRow, error) {
	m := rowMaker{from: from, width: max(1, (to-from)/int64(min(max(points, 2), MostPoints))), show: show,
		out: &SignalRow{Stretches: []Stretch{}, Bool: t.Kind() == value.BOOL}}
	err := r.store.Each(ctx, t.ID, from, to, func(c *history.Column) error {
		for i := range c.At {
			m.next(c.Value(i))
		}
		return nil
	})
	if end := min(to, r.store.Alive()); m.begun && end > m.last.Nanos() {
		m.until(end, false)
	}
	m.flush()
	if m.pulses > 0 {
		m.out.Mean = m.sum / float64(m.pulses)
	}
	return m.out, err
}

// rowMaker makes a row of the values as they come.
type rowMaker struct {
	from, width int64
	show        func(value.Value) string
	out         *SignalRow
	begun       bool
	last        value.Value
	many        *Stretch // several that are too narrow
	rose        int64    // when a pulse began within the range; 0 for none
	pulses      int
	sum         float64
}

func (m *rowMaker) next(v value.Value) {
	if m.begun && m.last.Same(v) {
		return
	}
	if m.begun {
		m.until(v.Nanos(), !v.Quality.IsBad())
	}
	if on := v.Kind == value.BOOL && !v.Quality.IsBad() && v.Bool(); on {
		m.rose = 0
		if m.begun && !m.last.Quality.IsBad() && v.Nanos() >= m.from {
			m.out.On++
			m.rose = v.Nanos()
		}
	}
	m.begun, m.last = true, v
}

// until ends the stretch of the last value; fell tells whether by a change.
func (m *rowMaker) until(end int64, fell bool) {
	begin := max(m.last.Nanos(), m.from)
	long := float64(end-begin) / 1e9
	s := Stretch{From: begin / 1e6, To: end / 1e6, Value: Number(math.NaN())}
	on := false
	if m.last.Quality.IsBad() {
		s.Bad = string(m.last.Quality.Reason())
		m.rose = 0
	} else {
		m.out.Known += long
		s.Text = m.show(m.last)
		if m.last.Kind != value.STRING {
			s.Value = Number(m.last.Float())
		}
		if on = m.last.Kind == value.BOOL && m.last.Bool(); on {
			m.out.Time += long
			if fell && m.rose > 0 {
				m.pulse(float64(end-m.rose) / 1e9)
			}
		}
	}
	if end-begin >= m.width || len(m.out.Stretches) == 0 && m.many == nil {
		m.flush()
		m.out.Stretches = append(m.out.Stretches, s)
		return
	}
	if m.many == nil {
		m.many = &Stretch{From: s.From, Value: s.Value, Text: s.Text, Bad: s.Bad}
	} else {
		m.many.Value, m.many.Text, m.many.Bad = Number(math.NaN()), "", ""
	}
	m.many.To, m.many.Edges = s.To, m.many.Edges+1
	if on {
		m.many.OnTime += long
	}
	if (s.To-m.many.From)*1e6 >= m.width {
		m.flush()
	}
}

func (m *rowMaker) pulse(long float64) {
	if m.pulses == 0 || long < m.out.Least {
		m.out.Least = long
	}
	m.out.Most = max(m.out.Most, long)
	m.pulses++
	m.sum += long
}

func (m *rowMaker) flush() {
	if m.many != nil {
		if m.many.Edges == 1 {
			m.many.Edges = 0
		}
		m.out.Stretches = append(m.out.Stretches, *m.many)
		m.many = nil
	}
}
