package record

import (
	"fmt"
	"testing"

	"readyrail/internal/core/value"
	"readyrail/internal/store"
)

func TestRowsByTimeAndByChange(t *testing.T) {
	r := opened(t, t.TempDir(), Past{Samples: []store.TagValue{
		sampleOf("a", 0, real(1)), sampleOf("a", 10, real(2)), sampleOf("a", 25, real(3)), sampleOf("a", 60, real(4)),
		sampleOf("b", 10, value.Bool(true)), sampleOf("b", 30, value.Bad(value.BOOL, value.BadNoAnswer)), sampleOf("b", 60, value.Bool(false)),
	}}, nil).Recorder
	rows := func(from, to, every float64, most int) string {
		out, n := "", 0
		err := r.Rows(t.Context(), []string{"a", "b"}, []value.Kind{value.LREAL, value.BOOL}, at(from), at(to), int64(every*1e9),
			func(when int64, v []value.Value) bool {
				b := v[1].Text()
				if v[1].Quality.IsBad() {
					b = "?"
				}
				out += fmt.Sprintf("%g:%g,%s ", float64(when-noon.UnixNano())/1e9, v[0].Float(), b)
				n++
				return n < most
			})
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	for _, c := range []struct {
		from, to, every float64
		most            int
		want            string
	}{
		{0, 61, 0, 99, "0:1,? 10:2,true 25:3,true 30:3,? 60:4,false "},
		{5, 61, 0, 2, "10:2,true 25:3,true "},
		{0, 61, 20, 99, "0:1,? 20:2,true 40:3,? 60:4,false "},
		{11, 61, 20, 2, "20:2,true 40:3,? "}, // the clock's marks, not the range's
		{12, 13, 20, 99, ""},
	} {
		if got := rows(c.from, c.to, c.every, c.most); got != c.want {
			t.Errorf("every %g in %g to %g: %s", c.every, c.from, c.to, got)
		}
	}
}
