package audit

import (
	"errors"
	"strings"
	"testing"
)

// TestPartsOfAChain: a chain goes on after the parts that were closed, and one of them
// that was altered, taken out, put in or shortened shows.
func TestPartsOfAChain(t *testing.T) {
	key := []byte("a key of 32 bytes, or of as many")
	rs := make([]Record, 10)
	var prev []byte
	for i := range rs {
		rs[i] = Record{At: int64(i), What: Event, Name: "Tom Alder"}
		rs[i].Seal(key, int64(i), prev)
		prev = rs[i].Hash
	}
	part := func(first, last int64) Part {
		p := Part{First: first, Last: last, Chain: rs[last-1].Hash, File: "f", Digest: "d", Records: last - first + 1, Person: "Iris Rowan"}
		p.Seal(key)
		return p
	}
	walk := func(parts []Part, left []Record) error {
		v := Verifier{Keys: Ring{key}}
		v.Head(10, 10, HeadSeal(key, 10, 10, rs[9].Hash))
		if err := v.After(parts); err != nil {
			return err
		}
		for i := range left {
			if err := v.Next(&left[i]); err != nil {
				return err
			}
		}
		return v.End()
	}
	if err := walk([]Part{part(1, 3), part(4, 7)}, rs[7:]); err != nil {
		t.Fatalf("as it was closed: %v", err)
	}
	altered := func(change func(*Part)) []Part {
		p := part(4, 7)
		change(&p)
		return []Part{part(1, 3), p}
	}
	for what, c := range map[string]struct {
		parts []Part
		left  []Record
		says  string
	}{
		"the first part taken out":      {[]Part{part(4, 7)}, rs[7:], "missing among those"},
		"all parts taken out":           {nil, rs[7:], "record 1 is missing"},
		"the last part taken out":       {[]Part{part(1, 3)}, rs[7:], "record 4 is missing"},
		"a record taken out after it":   {[]Part{part(1, 3), part(4, 7)}, rs[8:], "record 8 is missing"},
		"said to end later":             {altered(func(p *Part) { p.Last, p.Chain = 8, rs[7].Hash }), rs[8:], "does not match its seal"},
		"another file":                  {altered(func(p *Part) { p.Digest = "e" }), rs[7:], "does not match its seal"},
		"another person":                {altered(func(p *Part) { p.Person = "Tom Alder" }), rs[7:], "does not match its seal"},
		"another reason":                {altered(func(p *Part) { p.Reason = "x" }), rs[7:], "does not match its seal"},
		"another count":                 {altered(func(p *Part) { p.Records = 3 }), rs[7:], "does not match its seal"},
		"sealed by another key":         {altered(func(p *Part) { p.Seal([]byte("another")) }), rs[7:], "does not match its seal"},
		"one that holds less than none": {[]Part{{First: 1, Last: 0}}, rs, "missing among those"},
	} {
		var broken *Broken
		if err := walk(c.parts, c.left); !errors.As(err, &broken) || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want %s", what, err, c.says)
		}
	}
	// A head from elsewhere that tells of another record at a part's end.
	public, secret := keys(t, 7)
	v := Verifier{Keys: Ring{key}}
	if err := v.Holds("yard", public, []KeptHead{{SignHead(secret, "yard", 3, 0, rs[4].Hash), "elsewhere"}}); err != nil {
		t.Fatal(err)
	}
	if err := v.After([]Part{part(1, 3)}); err == nil || !strings.Contains(err.Error(), "is not the one of which the head") {
		t.Errorf("a part that a head contradicts: %v", err)
	}
}
