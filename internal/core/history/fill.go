package history

import (
	"readyrail/internal/core/value"
)

// Filling is what of a file's values of a tag comes to those that are kept.
type Filling struct {
	Take  []value.Value
	There int // have a value of their time
	Known int // lie in a time that is known otherwise
}

// Fill puts values of a file, in order of time, where nothing is known: what is
// kept stands. own is the course of the tag over their time, with what held at its
// beginning and what follows within a step of its end. The last value holds for a
// step, in nanoseconds, at most; of what is kept at moments nothing is known between
// two of them anyway.
func Fill(own []Column, file []value.Value, moments bool, step int64) (f Filling) {
	var kept []value.Value
	for i := range own {
		for j := range own[i].At {
			kept = append(kept, own[i].Value(j))
		}
	}
	n := 0 // of those kept that are not later
	for _, v := range file {
		for n < len(kept) && kept[n].Nanos() <= v.Nanos() {
			n++
		}
		switch {
		case n > 0 && kept[n-1].Nanos() == v.Nanos(), len(f.Take) > 0 && f.Take[len(f.Take)-1].Nanos() == v.Nanos():
			f.There++
		case n > 0 && !moments && kept[n-1].Quality != value.BadUnrecorded:
			f.Known++
		default:
			f.Take = append(f.Take, v)
		}
	}
	if len(f.Take) == 0 || moments {
		return f
	}
	last := f.Take[len(f.Take)-1]
	end := last.Nanos() + step
	ends := last.Nanos() == file[len(file)-1].Nanos() && last.Quality != value.BadUnrecorded
	if goesOn := n < len(kept) && kept[n].Nanos() <= end; ends && !goesOn {
		f.Take = append(f.Take, value.Bad(last.Kind, value.BadUnrecorded).AtNanos(end))
	}
	return f
}
