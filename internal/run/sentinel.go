package run

import (
	"fmt"
	"time"

	"readyrail/internal/link"
	"readyrail/internal/machine"
	"readyrail/internal/store"
)

// sentinel notices what went wrong beside the alarms, and tells the journal
// when it comes and when it goes.
type sentinel struct {
	lost    map[string]bool // by device
	diskLow bool
	last    time.Time // of the round before, with its monotonic reading
}

const (
	lowDisk     = 1 << 30 // bytes that are free
	enoughDisk  = lowDisk + lowDisk/4
	steppedBy   = 5 * time.Second // that the clock is off from what passed
	linksToTell = 20              // links that are told apart in one round; more of them are one line
)

// watch is one round.
func (s *sentinel) watch(r *Runs, now time.Time) {
	s.links(r)
	s.disk(r, FreeBytes(r.o.Dir))
	s.clock(r, now)
}

// links tells of links that were up and are not, and of those that came back.
func (s *sentinel) links(r *Runs) {
	if s.lost == nil {
		s.lost = map[string]bool{}
	}
	told := 0
	for _, l := range r.Links(r.keeper()) {
		was, known := s.lost[l.Device]
		down := l.State == link.Down
		if l.State == link.Connecting || l.State == link.Idle || down == was {
			continue
		}
		s.lost[l.Device] = down
		what := "link-back"
		switch {
		case down:
			what = "link-lost"
		case !known:
			continue
		}
		if told++; told <= linksToTell {
			r.note(store.LinkEntry, what, l.Name, l.Problem.String())
		}
	}
	if over := told - linksToTell; over > 0 {
		r.note(store.LinkEntry, "link-lost", fmt.Sprintf("%d further devices", over), "")
	}
}

func (s *sentinel) disk(r *Runs, free uint64) {
	switch {
	case free < lowDisk && !s.diskLow:
		s.diskLow = true
		r.note(store.TroubleEntry, "disk-low", "", fmt.Sprintf("%d MB are left", free>>20))
	case free > enoughDisk && s.diskLow:
		s.diskLow = false
		r.note(store.TroubleEntry, "disk-back", "", fmt.Sprintf("%d MB are free", free>>20))
	}
}

// clock compares what the clock says has passed with what has passed.
func (s *sentinel) clock(r *Runs, now time.Time) {
	before := s.last
	s.last = now
	if before.IsZero() {
		return
	}
	s.stepped(r, now.Round(0).Sub(before.Round(0))-now.Sub(before))
}

func (s *sentinel) stepped(r *Runs, by time.Duration) {
	if by.Abs() >= steppedBy {
		r.note(store.TroubleEntry, "clock-stepped", "", fmt.Sprintf("by %s", by.Round(time.Second)))
	}
}

// FreeBytes is what the disk of a folder has left for us.
func FreeBytes(dir string) uint64 {
	free, err := machine.Free(dir)
	if err != nil {
		return 1 << 62 // nothing is known, and nothing is told
	}
	return uint64(free)
}
