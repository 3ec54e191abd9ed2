package project

// Readiness of a stop is the share of its things that have no finding of
// severity error or warning:
//
//	ready = (things - things with such a finding) / things
//
// A stop without things is not ready at all, as its work has not begun.
// docs/readiness.md gives the sum.
type Readiness struct {
	Stop     Stop `json:"stop"`
	Things   int  `json:"things"`
	Clean    int  `json:"clean"`
	Errors   int  `json:"errors"`
	Warnings int  `json:"warnings"`
}

// Share is the readiness from 0 to 1.
func (r Readiness) Share() float64 {
	if r.Things == 0 {
		return 0
	}
	return float64(r.Clean) / float64(r.Things)
}

// Ready tells whether nothing is left to do at the stop.
func (r Readiness) Ready() bool { return r.Things > 0 && r.Clean == r.Things }

// Readiness computes every stop but Release, which depends on what runs.
func (p *Project) Readiness() []Readiness {
	out := make([]Readiness, 0, len(Stops))
	for _, stop := range Stops {
		if stop != StopRelease {
			out = append(out, Readiness{Stop: stop})
		}
	}
	for _, k := range kinds {
		for i := range out {
			if out[i].Stop == k.told().Stop {
				out[i].Things += k.toDo(p)
			}
		}
	}
	for i := range out {
		r := &out[i]
		if r.Stop == StopHistory {
			r.Things = len(p.Recorded()) // its things are the courses that are kept
		}
		dirty := map[string]bool{}
		for _, f := range p.Findings() {
			if f.Stop != r.Stop || f.Severity == Note {
				continue
			}
			thing := f.ID
			if kindByName[f.Kind].told().Within != "" {
				// A part is a thing of its own: the name tells them apart.
				thing += f.Name
			}
			dirty[thing] = true
			if f.Severity == Error {
				r.Errors++
			} else {
				r.Warnings++
			}
		}
		r.Clean = max(0, r.Things-len(dirty))
	}
	return out
}
