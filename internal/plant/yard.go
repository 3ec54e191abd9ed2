package plant

// yard is the places where timber waits, and the cycle that carries it there
// and back.
type yard struct {
	bays    [48]bool
	loading bool // a cycle carries timber into the yard
	taking  bool // a cycle carries timber out of it
	stops   bool // it ends with the cycle under way
	left    float64
}

// cycleTime is how long a cycle takes, in seconds.
const cycleTime = 12

func newYard() *yard {
	y := &yard{}
	for i := range 17 {
		y.bays[i] = true
	}
	return y
}

// command takes the buttons: start loading, start unloading, stop after the
// cycle under way, reset.
func (y *yard) command(m *memory, take func(*bool, func())) {
	take(&m.coils[10], func() { y.begin(true) })
	take(&m.coils[11], func() { y.begin(false) })
	take(&m.coils[12], func() { y.stops = true })
	take(&m.coils[13], func() { y.loading, y.taking, y.stops, y.left = false, false, false, 0 })
}

func (y *yard) begin(loading bool) {
	if !y.loading && !y.taking {
		y.loading, y.taking, y.stops, y.left = loading, !loading, false, cycleTime
	}
}

// next is the bay that the cycle is about, -1 when there is none.
func (y *yard) next() int {
	for i := range y.bays {
		n := i
		if y.taking {
			n = len(y.bays) - 1 - i
		}
		if y.bays[n] == y.taking {
			return n
		}
	}
	return -1
}

// advance moves by dt seconds; an emergency stop holds everything.
func (y *yard) advance(dt float64, stopped bool) {
	if stopped || !y.loading && !y.taking {
		return
	}
	n := y.next()
	if n < 0 {
		y.loading, y.taking = false, false
		return
	}
	if y.left -= dt; y.left > 0 {
		return
	}
	y.bays[n] = y.loading
	y.left = cycleTime
	if y.stops {
		y.loading, y.taking, y.stops = false, false, false
	}
}

func (y *yard) render(m *memory) {
	count := uint16(0)
	for i, b := range y.bays {
		m.discrete[100+i] = b
		if b {
			count++
		}
	}
	m.input[10], m.input[11] = count, uint16(y.next()+1)
	m.discrete[10], m.discrete[11], m.discrete[12] = y.loading, y.taking, y.stops
}
