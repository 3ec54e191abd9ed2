package audit

import (
	"errors"
	"testing"
)

var key = []byte("a key for tests")

func chain() []Record {
	rs := []Record{
		{At: 1, What: Intent, Name: "Tom Alder", Path: "Kiln1.DryBulbSP", Old: "71", New: "72"},
		{At: 2, What: Outcome, Intent: 1, Outcome: Confirmed, Sign: "Iris Rowan"},
		{At: 3, What: Refused, Name: "Sam Oakes", Captured: "Kiln1.DryBulb = 71 °C"},
	}
	seq, prev := int64(0), []byte(nil)
	for i := range rs {
		rs[i].Seal(key, seq, prev)
		seq, prev = rs[i].Seq, rs[i].Hash
	}
	return rs
}

func verify(key []byte, rs []Record) int64 {
	v := Verifier{Keys: Ring{key}}
	for i := range rs {
		var b *Broken
		if err := v.Next(&rs[i]); errors.As(err, &b) {
			return b.Seq
		}
	}
	return 0
}

func TestChain(t *testing.T) {
	for name, c := range map[string]struct {
		alter func([]Record) []Record
		key   []byte
		at    int64
	}{
		"whole":           {func(r []Record) []Record { return r }, key, 0},
		"value edited":    {func(r []Record) []Record { r[0].New = "70"; return r }, key, 1},
		"name edited":     {func(r []Record) []Record { r[2].Name = "Ada Birch"; return r }, key, 3},
		"one removed":     {func(r []Record) []Record { return append(r[:1], r[2]) }, key, 3},
		"two swapped":     {func(r []Record) []Record { r[0], r[1] = r[1], r[0]; return r }, key, 2},
		"signature moved": {func(r []Record) []Record { r[1].Sign, r[1].Captured = "", r[1].Sign; return r }, key, 2},
		"values moved":    {func(r []Record) []Record { r[2].Sign, r[2].Captured = r[2].Captured, ""; return r }, key, 3},
		"values edited":   {func(r []Record) []Record { r[2].Captured = "Kiln1.DryBulb = 70 °C"; return r }, key, 3},
		"other key":       {func(r []Record) []Record { return r }, []byte("another"), 1},
		"field moved":     {func(r []Record) []Record { r[0].Old, r[0].New = "7172", ""; return r }, key, 1},
	} {
		if got := verify(c.key, c.alter(chain())); got != c.at {
			t.Errorf("%s: broken at %d, want %d", name, got, c.at)
		}
	}
}
