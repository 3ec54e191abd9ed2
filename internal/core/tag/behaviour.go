package tag

import (
	"math"
	"readyrail/internal/core/say"
	"sort"
	"strconv"
	"strings"
)

// What a tag does on a stand-in.
const (
	Hold     = "hold"     // keeps what is written
	Follow   = "follow"   // goes after another tag with a lag, within limits
	Ramp     = "ramp"     // rises from low to high in a period, then starts anew
	Sine     = "sine"     // swings between low and high
	Square   = "square"   // is low for half a period and high for the other
	Walk     = "walk"     // wanders by steps between low and high
	Counter  = "counter"  // adds a step each period, from low to high and anew
	Playback = "playback" // repeats a recording
	Formula  = "formula"  // a formula over other tags
)

// Behaviours lists the kinds in the order in which they are offered.
var Behaviours = []string{Hold, Follow, Ramp, Sine, Square, Walk, Counter, Playback, Formula}

// Behaviour is what a tag does on a stand-in, in engineering units. A BOOL is 1
// or 0.
type Behaviour struct {
	Kind   string  `json:"kind"`
	Low    float64 `json:"low,omitempty"` // of hold: where it starts
	High   float64 `json:"high,omitempty"`
	Period float64 `json:"period,omitempty"` // seconds
	Lag    float64 `json:"lag,omitempty"`    // seconds until 63 % of a step is followed
	Step   float64 `json:"step,omitempty"`   // of a walk or counter
	Tag    string  `json:"tag,omitempty"`    // id of the tag to follow
	// Formula is in stored form.
	Formula string `json:"formula,omitempty"`
	// Recording is the CSV of a playback: seconds and value a line, in order of
	// time. It begins anew at its end.
	Recording string `json:"recording,omitempty"`
}

// MaxRecording bounds a playback, in bytes.
const MaxRecording = 1 << 20

// Check refuses a behaviour that cannot run.
func (b *Behaviour) Check() error {
	known := false
	for _, k := range Behaviours {
		known = known || k == b.Kind
	}
	for _, f := range []float64{b.Low, b.High, b.Period, b.Lag, b.Step} {
		if math.IsNaN(f) || math.IsInf(f, 0) {
			return say.New("a behaviour is made of finite numbers")
		}
	}
	switch {
	case !known:
		return say.Errorf("behaviour %q is not known: use %s", b.Kind, strings.Join(Behaviours, ", "))
	case b.Low > b.High && (b.Kind == Ramp || b.Kind == Sine || b.Kind == Square || b.Kind == Walk):
		return say.Errorf("its low end %v is above its high end %v", b.Low, b.High)
	case b.Kind == Follow && b.Tag == "":
		return say.New("to follow needs the tag to go after")
	case b.Kind == Formula && b.Formula == "":
		return say.New("the formula is missing")
	case b.Lag < 0 || b.Period < 0:
		return say.New("a time is not negative")
	case len(b.Recording) > MaxRecording:
		return say.Errorf("a recording has at most %d KB", MaxRecording>>10)
	}
	switch b.Kind {
	case Ramp, Sine, Square, Counter:
		if b.Period < 0.1 {
			return say.New("a period is at least 0.1 s")
		}
	case Playback:
		_, err := ParseRecording(b.Recording)
		return err
	}
	return nil
}

// Sample is one line of a recording.
type Sample struct{ At, Value float64 }

// ParseRecording reads the CSV of a playback: two columns, seconds and value,
// with comma, semicolon or tab between; a header line is skipped.
func ParseRecording(text string) ([]Sample, error) {
	var out []Sample
	for n, line := range strings.Split(strings.TrimPrefix(text, "\uFEFF"), "\n") {
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		cells := strings.FieldsFunc(line, func(r rune) bool { return r == ',' || r == ';' || r == '\t' })
		if len(cells) < 2 {
			return nil, say.Errorf("recording, line %d: two columns are needed, seconds and value", n+1)
		}
		at, err1 := strconv.ParseFloat(strings.TrimSpace(cells[0]), 64)
		v, err2 := strconv.ParseFloat(strings.TrimSpace(cells[1]), 64)
		if err1 != nil || err2 != nil || math.IsNaN(at+v) || math.IsInf(at+v, 0) {
			if n == 0 {
				continue
			}
			return nil, say.Errorf("recording, line %d: %q is not two numbers", n+1, line)
		}
		if len(out) > 0 && at < out[len(out)-1].At {
			return nil, say.Errorf("recording, line %d: its time is before the line above", n+1)
		}
		out = append(out, Sample{at, v})
	}
	if len(out) == 0 {
		return nil, say.New("the recording is empty: it needs lines of seconds and value")
	}
	return out, nil
}

// Motion is a behaviour under way. It is deterministic: the same steps give
// the same values.
type Motion struct {
	b       Behaviour
	samples []Sample
	t       float64 // seconds since it began
	at      float64 // present value
	seed    uint64
	started bool
}

// NewMotion starts a behaviour; seed tells walks apart.
func NewMotion(b Behaviour, seed uint64) *Motion {
	m := &Motion{b: b, at: b.Low, seed: seed*2862933555777941757 + 3037000493}
	if b.Kind == Playback {
		m.samples, _ = ParseRecording(b.Recording)
	}
	if b.Kind == Walk {
		m.at = (b.Low + b.High) / 2
	}
	return m
}

// Set makes the present value what a person wrote.
func (m *Motion) Set(v float64) { m.at, m.started = v, true }

// Advance moves by dt seconds and returns the value. input is the value of the
// tag that is followed.
func (m *Motion) Advance(dt, input float64) float64 {
	m.t += dt
	b := &m.b
	switch b.Kind {
	case Follow:
		target := input
		if b.Low < b.High {
			target = math.Min(math.Max(input, b.Low), b.High)
		}
		switch {
		case !m.started || b.Lag == 0:
			m.at, m.started = target, true
		default:
			m.at += (target - m.at) * (1 - math.Exp(-dt/b.Lag))
		}
	case Ramp:
		m.at = b.Low + (b.High-b.Low)*phase(m.t, b.Period)
	case Sine:
		m.at = (b.Low+b.High)/2 + (b.High-b.Low)/2*math.Sin(2*math.Pi*phase(m.t, b.Period))
	case Square:
		m.at = b.Low
		if phase(m.t, b.Period) >= 0.5 {
			m.at = b.High
		}
	case Walk:
		step := b.Step
		if step == 0 {
			step = (b.High - b.Low) / 50
		}
		m.at += (m.random()*2 - 1) * step * math.Sqrt(dt)
		m.at = math.Min(math.Max(m.at, b.Low), b.High)
	case Counter:
		step := b.Step
		if step == 0 {
			step = 1
		}
		n := math.Floor(m.t / b.Period)
		m.at = b.Low + n*step
		if b.High > b.Low {
			m.at = b.Low + math.Mod(n*step, b.High-b.Low+step)
		}
	case Playback:
		m.at = m.recorded()
	}
	return m.at
}

func phase(t, period float64) float64 { return math.Mod(t, period) / period }

// recorded is the last sample at or before the time, in a loop as long as the
// recording.
func (m *Motion) recorded() float64 {
	if len(m.samples) == 0 {
		return 0
	}
	first, last := m.samples[0].At, m.samples[len(m.samples)-1].At
	t := first
	if last > first {
		t += math.Mod(m.t, last-first)
	}
	i := sort.Search(len(m.samples), func(i int) bool { return m.samples[i].At > t })
	return m.samples[max(i-1, 0)].Value
}

// random is a number from 0 to 1 (splitmix64).
func (m *Motion) random() float64 {
	m.seed += 0x9e3779b97f4a7c15
	z := m.seed
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return float64((z^z>>31)>>11) / (1 << 53)
}

// quiet are words in the names of signals that are seldom on.
var quiet = []string{"fault", "alarm", "trip", "lockout", "estop", "emergency", "hand", "error", "fail"}

// Suggest proposes a behaviour for a tag. find answers whether there is a tag
// at the path beside it, as DryBulbSP beside DryBulb.
func Suggest(t *Tag, path string, find func(path string) (id string, ok bool)) Behaviour {
	if t.Writable() || t.Type.Kind.String() == "STRING" {
		b := Behaviour{Kind: Hold}
		if t.Low != nil {
			b.Low = *t.Low
		}
		return b
	}
	low, high := 0.0, 100.0
	if t.Scale != nil && t.Scale.Gain == 0 {
		low, high = math.Min(t.Scale.EngLow, t.Scale.EngHigh), math.Max(t.Scale.EngLow, t.Scale.EngHigh)
	}
	if t.Low != nil && t.High != nil {
		low, high = *t.Low, *t.High
	}
	switch {
	case t.Type.Kind.String() == "BOOL":
		for _, word := range quiet {
			if strings.Contains(strings.ToLower(t.Name), word) {
				return Behaviour{Kind: Hold}
			}
		}
		// Neighbours do not change all at once.
		period := 12.0
		for _, c := range path {
			period += float64(c % 7)
		}
		return Behaviour{Kind: Square, Low: 0, High: 1, Period: 12 + math.Mod(period, 31)}
	case len(t.States) > 0:
		lo, hi := t.States[0].Value, t.States[0].Value
		for _, s := range t.States {
			lo, hi = min(lo, s.Value), max(hi, s.Value)
		}
		return Behaviour{Kind: Counter, Low: float64(lo), High: float64(hi), Step: 1, Period: 10}
	}
	for _, suffix := range []string{"SP", "Setpoint", "_SP", "Set"} {
		if id, ok := find(path + suffix); ok {
			return Behaviour{Kind: Follow, Tag: id, Lag: 5, Low: low, High: high}
		}
	}
	span := high - low
	return Behaviour{Kind: Walk, Low: low + span*0.2, High: high - span*0.2, Step: span / 60}
}
