package run

import (
	"encoding/json"
	"strconv"

	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
)

// MaxWatched bounds the tags that one watch may name.
const MaxWatched = 500

// Watch follows tags by id in a program, for lists and the watch strip.
type Watch struct {
	runs    *Runs
	program Program
	ids     []string
	runner  *engine.Runner
	sub     *engine.Sub
	values  []value.Value
	raw     []value.Value
	fresh   []int32
}

// WatchTags begins a watch; nil when the program does not run.
func (r *Runs) WatchTags(program Program, ids []string) *Watch {
	runner := r.Runner(program)
	if runner == nil || len(ids) > MaxWatched {
		return nil
	}
	w := &Watch{runs: r, runner: runner, program: program, ids: ids, values: make([]value.Value, len(ids)), raw: make([]value.Value, len(ids))}
	if !runner.Do(func(e *engine.Engine) { w.sub = e.Subscribe(ids) }) {
		return nil
	}
	return w
}

// Close ends the watch.
func (w *Watch) Close() {
	w.runner.Do(func(e *engine.Engine) { e.Unsubscribe(w.sub) })
}

// Changed is signalled when there is something to send.
func (w *Watch) Changed() <-chan struct{} { return w.sub.Changed() }

// Next appends the changes as JSON: [[index, text, quality, raw, milliseconds,
// number], …]. Text is null while the quality is bad.
func (w *Watch) Next(b []byte) []byte {
	w.fresh = w.sub.Take(w.values, w.raw, w.fresh[:0])
	return w.append(b, w.fresh)
}

// Refresh reads every value anew, for the times of values that do not change.
func (w *Watch) Refresh(b []byte) []byte {
	all := make([]int32, len(w.ids))
	for i, r := range w.runs.ReadTags(w.program, w.ids) {
		all[i] = int32(i)
		if r.Known {
			w.values[i], w.raw[i] = r.Value, r.Raw
		}
	}
	return w.append(b, all)
}

func (w *Watch) append(b []byte, which []int32) []byte {
	version := w.runs.Version(w.program)
	b = append(b, '[')
	for n, i := range which {
		if n > 0 {
			b = append(b, ',')
		}
		b = append(b, '[')
		b = strconv.AppendInt(b, int64(i), 10)
		b = append(b, ',')
		v := w.values[i]
		text := shown(version, w.ids[i], v)
		if v.Quality.IsBad() {
			b = append(b, "null"...)
		} else {
			b = appendText(b, text)
		}
		b = append(b, ',')
		b = strconv.AppendInt(b, int64(v.Quality), 10)
		b = append(b, ',')
		if w.raw[i].Kind == value.None || w.raw[i].Quality.IsBad() {
			b = append(b, "null"...)
		} else {
			b = appendText(b, w.raw[i].Text())
		}
		b = append(b, ',')
		b = strconv.AppendInt(b, v.Nanos()/1e6, 10)
		b = append(b, ',')
		if v.Quality.IsBad() || v.Kind == value.STRING {
			b = append(b, "null"...)
		} else {
			b = strconv.AppendFloat(b, v.Float(), 'g', 9, 64)
		}
		b = append(b, ']')
	}
	return append(b, ']')
}

func shown(version *project.Project, id string, v value.Value) string {
	if version == nil {
		return "" // the program has ended
	}
	if t, ok := version.Tag(id); ok {
		return t.Show(v, false)
	}
	return ""
}

func appendText(b []byte, s string) []byte {
	quoted, err := json.Marshal(s)
	if err != nil {
		return append(b, "null"...)
	}
	return append(b, quoted...)
}
