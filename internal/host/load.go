package host

import (
	"readyrail/internal/machine"
	"runtime"
	"sync"
	"time"
)

// load is what this process asks of its machine.
type load struct {
	mu     sync.Mutex
	at     time.Time
	cpu    time.Duration
	share  float64 // of one core, in percent
	memory float64 // MB
}

// measure reads the process's own figures, at most once a second.
func (l *load) measure(now time.Time) (share, memory float64) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if now.Sub(l.at) < 900*time.Millisecond {
		return l.share, l.memory
	}
	cpu := machine.Processor()
	if !l.at.IsZero() {
		l.share = float64(cpu-l.cpu) / float64(now.Sub(l.at)) * 100
	}
	l.cpu = cpu
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	l.memory = float64(m.Sys) / (1 << 20)
	l.at = now
	return l.share, l.memory
}
