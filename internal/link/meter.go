package link

import (
	"math"
	"readyrail/internal/core/say"
	"slices"
	"sync"
	"time"
)

// Meters measure the traffic of an endpoint, apart for each device behind it.
type Meters struct {
	mu    sync.Mutex
	by    map[string]*Meter
	trace func(Traced)
}

// NewMeters returns empty ones.
func NewMeters() *Meters { return &Meters{by: map[string]*Meter{}} }

// Traced is one thing that a meter was told: an answered request (Answered),
// traffic that answers none, or a failure (Kind and Text).
type Traced struct {
	Device    string // see UnitKey
	Answered  bool
	RoundTrip time.Duration
	Sent, Got int
	Kind      string
	Text      string
}

// NewTracedMeters returns meters that hand all that they are told to trace,
// which may be called by several goroutines, and keep nothing.
func NewTracedMeters(trace func(Traced)) *Meters {
	return &Meters{by: map[string]*Meter{}, trace: trace}
}

// Of returns a device's meter; see UnitKey.
func (m *Meters) Of(key string) *Meter {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.by[key] == nil {
		m.by[key] = &Meter{}
		if m.trace != nil {
			m.by[key].trace = func(t Traced) { t.Device = key; m.trace(t) }
		}
	}
	return m.by[key]
}

// Note tells the meters what others traced.
func (m *Meters) Note(t Traced) {
	meter := m.Of(t.Device)
	switch {
	case t.Kind != "":
		meter.Failed(t.Kind, say.New(t.Text))
	case t.Answered:
		meter.Request(t.RoundTrip, t.Sent, t.Got)
	default:
		meter.Bytes(t.Sent, t.Got)
	}
}

// meterSlot and meterSlots: traffic is kept in slots of some seconds for some
// minutes.
const (
	meterSlot  = 5 * time.Second
	meterSlots = 60
	histogram  = 64 // bins of round trips, five to a doubling from 50 µs
)

type slot struct {
	at       int64 // number of the slot since 1970
	requests int
	errors   int
	max      time.Duration
	bins     [histogram]uint32
}

// Meter measures the traffic with one device. Its methods may be called by
// several goroutines.
type Meter struct {
	mu         sync.Mutex
	slots      [meterSlots]slot
	requests   int64
	errors     int64
	sent, got  int64 // bytes
	last       time.Duration
	reconnects int
	kinds      map[string]*ErrorKind
	trace      func(Traced)
}

// ErrorKind counts the failures of one kind.
type ErrorKind struct {
	Kind  string    `json:"kind"`
	Count int       `json:"count"`
	Last  time.Time `json:"last"`
	Text  string    `json:"text"` // the last one in full
}

// Window is the traffic of one slot of time.
type Window struct {
	At       time.Time     `json:"at"`
	Requests int           `json:"requests"`
	Errors   int           `json:"errors"`
	P50      time.Duration `json:"p50"`
	P95      time.Duration `json:"p95"`
	Max      time.Duration `json:"max"`
}

// Traffic is what a meter has measured.
type Traffic struct {
	Requests, Errors int64
	Sent, Got        int64 // bytes
	Last             time.Duration
	Reconnects       int
	PerSecond        float64 // requests, over the last slot that is full
	P50, P95, Max    time.Duration
	Kinds            []ErrorKind
	Windows          []Window // oldest first
}

// at returns the slot of a moment, emptied where it was of an older one.
func (m *Meter) at(now time.Time) *slot {
	n := now.UnixNano() / int64(meterSlot)
	s := &m.slots[n%meterSlots]
	if s.at != n {
		*s = slot{at: n}
	}
	return s
}

// Request notes an answered request.
func (m *Meter) Request(roundTrip time.Duration, sent, got int) {
	if m.trace != nil {
		m.trace(Traced{Answered: true, RoundTrip: roundTrip, Sent: sent, Got: got})
		return
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	s := m.at(time.Now())
	s.requests++
	s.max = max(s.max, roundTrip)
	s.bins[bin(roundTrip)]++
	m.requests++
	m.last = roundTrip
	m.sent, m.got = m.sent+int64(sent), m.got+int64(got)
}

// Bytes notes traffic that answers no request.
func (m *Meter) Bytes(sent, got int) {
	if m.trace != nil {
		m.trace(Traced{Sent: sent, Got: got})
		return
	}
	m.mu.Lock()
	m.sent, m.got = m.sent+int64(sent), m.got+int64(got)
	m.mu.Unlock()
}

// Failed notes a failure of a kind.
func (m *Meter) Failed(kind string, err error) {
	if m.trace != nil {
		m.trace(Traced{Kind: kind, Text: err.Error()})
		return
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	now := time.Now()
	m.at(now).errors++
	m.errors++
	if m.kinds == nil {
		m.kinds = map[string]*ErrorKind{}
	}
	k := m.kinds[kind]
	if k == nil {
		k = &ErrorKind{Kind: kind}
		m.kinds[kind] = k
	}
	k.Count++
	k.Last, k.Text = now, err.Error()
}

// Reconnected notes that the connection was made anew.
func (m *Meter) Reconnected() {
	m.mu.Lock()
	m.reconnects++
	m.mu.Unlock()
}

// Last is the round trip of the last answered request.
func (m *Meter) Last() (roundTrip time.Duration, requests, errors int64) {
	m.mu.Lock()
	defer m.mu.Unlock()
	return m.last, m.requests, m.errors
}

// Traffic sums up.
func (m *Meter) Traffic(now time.Time) Traffic {
	m.mu.Lock()
	defer m.mu.Unlock()
	t := Traffic{Requests: m.requests, Errors: m.errors, Sent: m.sent, Got: m.got, Last: m.last, Reconnects: m.reconnects,
		Kinds: []ErrorKind{}, Windows: []Window{}}
	for _, k := range m.kinds {
		t.Kinds = append(t.Kinds, *k)
	}
	slices.SortFunc(t.Kinds, func(a, b ErrorKind) int { return b.Count - a.Count })
	var all [histogram]uint32
	n := now.UnixNano() / int64(meterSlot)
	for i := n - meterSlots + 1; i <= n; i++ {
		s := &m.slots[i%meterSlots]
		if s.at != i {
			continue
		}
		for b, c := range s.bins {
			all[b] += c
		}
		t.Max = max(t.Max, s.max)
		t.Windows = append(t.Windows, Window{At: time.Unix(0, i*int64(meterSlot)), Requests: s.requests, Errors: s.errors,
			P50: min(percentile(&s.bins, 0.5), s.max), P95: min(percentile(&s.bins, 0.95), s.max), Max: s.max})
		if i == n-1 {
			t.PerSecond = float64(s.requests) / meterSlot.Seconds()
		}
	}
	t.P50, t.P95 = min(percentile(&all, 0.5), t.Max), min(percentile(&all, 0.95), t.Max)
	return t
}

const shortest = 50 * time.Microsecond

func bin(d time.Duration) int {
	if d <= shortest {
		return 0
	}
	return min(histogram-1, int(math.Ceil(5*math.Log2(float64(d)/float64(shortest)))))
}

// percentile is the upper end of the bin in which a share of the round trips
// ends; it is at most 15 % too high.
func percentile(bins *[histogram]uint32, share float64) time.Duration {
	total := uint32(0)
	for _, c := range bins {
		total += c
	}
	if total == 0 {
		return 0
	}
	left := uint32(math.Ceil(share * float64(total)))
	for b, c := range bins {
		if c >= left {
			return time.Duration(float64(shortest) * math.Exp2(float64(b)/5))
		}
		left -= c
	}
	return 0
}
