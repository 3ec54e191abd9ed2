package demo

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"readyrail/internal/core/value"
	"readyrail/internal/record"
	"readyrail/internal/store"
)

// load is what a chamber dried for some time.
type load struct {
	name, species string
	from, to      time.Time // the last one is not done yet
}

// loadLong is how long a load takes, and loadGap the time to carry the next one in.
const (
	loadLong = 54 * time.Hour
	loadGap  = 3 * time.Hour
)

func (l *load) age(at time.Time) time.Duration { return max(0, at.Sub(l.from)) }

// loads are the three of the week in a chamber; the last is the one that is in
// there as the yard opens.
func (w *week) loads(k int) []load {
	species := []string{"Larch", "Spruce", "Oak"}
	names := []string{fmt.Sprintf("L-2610-%d", 27+k), fmt.Sprintf("L-2611-%02d", k), fmt.Sprintf("L-2611-%02d", 3+k)}
	out := make([]load, 0, len(names))
	at := w.from.Add(time.Duration(k) * 40 * time.Minute)
	for n, name := range names {
		out = append(out, load{name, species[(k-1+2*(n-2)+6)%3], at, at.Add(loadLong)})
		at = at.Add(loadLong + loadGap)
	}
	out[len(out)-1].to = time.Time{}
	return out
}

// load is the one that is in a chamber at a time, or the next one.
func (w *week) load(k int, at time.Time) *load {
	all := w.loads(k)
	for i := range all {
		if all[i].to.IsZero() || at.Before(all[i].to) {
			return &all[i]
		}
	}
	return &all[len(all)-1]
}

// logs are what the logs of the yard kept in the week: the record of drying with
// its loads.
func (w *week) logs() map[string]record.PastLog {
	drying := w.p.Logs["l-drying"]
	var out record.PastLog
	every := time.Duration(drying.How.Every) * time.Millisecond
	for _, id := range w.p.LogTags(drying) {
		course := w.course[id]
		if len(course) == 0 {
			continue
		}
		t, _ := w.p.Tag(id)
		n := 0
		for at := w.from.Truncate(every).Add(every); at.Before(w.to); at = at.Add(every) {
			for n+1 < len(course) && course[n+1].At <= at.UnixNano() {
				n++
			}
			if course[n].At <= at.UnixNano() {
				out.Samples = append(out.Samples, store.TagValue{Tag: id, Value: course[n].Back(t.Kind()).At(at)})
			}
		}
	}
	for k := 1; k <= 3; k++ {
		kiln := fmt.Sprintf("Kiln%d", k)
		of, _ := w.p.FindFolder(kiln)
		for _, l := range w.loads(k) {
			s := store.LogSpan{Of: of, Name: l.name, Began: l.from.UnixNano()}
			if !l.to.IsZero() {
				end := l.to.UnixNano()
				s.Ended = &end
			}
			out.Spans = append(out.Spans, s)
		}
		out.Samples = append(out.Samples, w.texts(k, every)...)
	}
	slices.SortFunc(out.Spans, func(a, b store.LogSpan) int { return cmp.Compare(a.Began, b.Began) })
	return map[string]record.PastLog{"l-drying": out}
}

// texts are what was written on a chamber's load, at every multiple of a time.
func (w *week) texts(k int, every time.Duration) (out []store.TagValue) {
	for path, text := range map[string]func(*load) string{"LoadId": func(l *load) string { return l.name },
		"Species": func(l *load) string { return l.species }} {
		id, _ := w.p.FindPath(fmt.Sprintf("Kiln%d.%s", k, path))
		for at := w.from.Truncate(every).Add(every); at.Before(w.to); at = at.Add(every) {
			v := value.Str("")
			if l := w.load(k, at); !at.Before(l.from) {
				v = value.Str(text(l))
			}
			out = append(out, store.TagValue{Tag: id, Value: v.At(at)})
		}
	}
	return out
}
