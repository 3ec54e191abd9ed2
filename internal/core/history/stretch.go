package history

// Span is a stretch of time, in nanoseconds since 1970: from its begin up to,
// and without, its end.
type Span struct{ From, To int64 }

// Stretches gathers the stretches in which something is so, as it is told of
// each change in order of time.
type Stretches struct {
	Least int64 // shorter ones do not count, in nanoseconds
	Found func(Span) bool

	since int64
	on    bool
	ended bool
}

// Step tells that from a time on it is so, or not, or no longer known. It returns
// false once no more are wanted.
func (s *Stretches) Step(at int64, on bool) bool {
	if s.ended || on == s.on {
		return !s.ended
	}
	if s.on = on; on {
		s.since = at
		return true
	}
	return s.end(at)
}

// Until ends what still holds.
func (s *Stretches) Until(at int64) {
	if s.on && !s.ended {
		s.end(at)
	}
	s.on = false
}

func (s *Stretches) end(at int64) bool {
	if at > s.since && at-s.since >= s.Least {
		s.ended = !s.Found(Span{s.since, at})
	}
	return !s.ended
}
