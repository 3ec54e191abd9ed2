package host

import (
	"fmt"
	"syscall"
	"time"

	"readyrail/internal/link"
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
func (s *sentinel) watch(p *Project, now time.Time) {
	s.links(p)
	s.disk(p, freeBytes(p.host.dir))
	s.clock(p, now)
}

// links tells of links that were up and are not, and of those that came back.
func (s *sentinel) links(p *Project) {
	name := Release
	if p.Released() == nil {
		name = Draft
	}
	if s.lost == nil {
		s.lost = map[string]bool{}
	}
	told := 0
	for _, l := range p.Links(name) {
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
			p.event(store.LinkEntry, what, l.Name, l.Problem, Actor{})
		}
	}
	if over := told - linksToTell; over > 0 {
		p.event(store.LinkEntry, "link-lost", fmt.Sprintf("%d further devices", over), "", Actor{})
	}
}

func (s *sentinel) disk(p *Project, free uint64) {
	switch {
	case free < lowDisk && !s.diskLow:
		s.diskLow = true
		p.event(store.TroubleEntry, "disk-low", "", fmt.Sprintf("%d MB are left", free>>20), Actor{})
	case free > enoughDisk && s.diskLow:
		s.diskLow = false
		p.event(store.TroubleEntry, "disk-back", "", fmt.Sprintf("%d MB are free", free>>20), Actor{})
	}
}

// clock compares what the clock says has passed with what has passed.
func (s *sentinel) clock(p *Project, now time.Time) {
	before := s.last
	s.last = now
	if before.IsZero() {
		return
	}
	s.stepped(p, now.Round(0).Sub(before.Round(0))-now.Sub(before))
}

func (s *sentinel) stepped(p *Project, by time.Duration) {
	if by.Abs() >= steppedBy {
		p.event(store.TroubleEntry, "clock-stepped", "", fmt.Sprintf("by %s", by.Round(time.Second)), Actor{})
	}
}

// freeBytes is what the disk of a folder has left for us.
func freeBytes(dir string) uint64 {
	var s syscall.Statfs_t
	if syscall.Statfs(dir, &s) != nil {
		return 1 << 62 // nothing is known, and nothing is told
	}
	return s.Bavail * uint64(s.Bsize)
}

// ScreenError keeps what went wrong in a person's browser, at most once a
// second of a project.
func (p *Project) ScreenError(who Actor, screen, text string) {
	now := time.Now().UnixNano()
	last := p.screenErrors.Load()
	if now-last < int64(time.Second) || !p.screenErrors.CompareAndSwap(last, now) {
		return
	}
	name := screen
	if version := p.Released(); version != nil && version.Screens[screen] != nil {
		name = version.Screens[screen].Name
	}
	p.event(store.TroubleEntry, "screen-error", name, text, who)
}
