package audit

import (
	"bytes"
	"crypto/ed25519"
	"strings"
	"testing"
)

func ringOf(n int) (r Ring) {
	for i := range n {
		r = append(r, bytes.Repeat([]byte{byte('a' + i)}, KeySize))
	}
	return r
}

func TestRingAsText(t *testing.T) {
	ring := ringOf(3)
	again, err := ParseRing(ring.String())
	if err != nil || len(again) != 3 || !bytes.Equal(again.Newest(), ring[2]) {
		t.Errorf("%v %v", again, err)
	}
	for _, text := range []string{"", "\n", "aa", strings.Repeat("g", 64), ring.String() + "aa\n"} {
		if _, err := ParseRing(text); err == nil {
			t.Errorf("%q is taken", text)
		}
	}
	if Mark(ring[0]) == Mark(ring[1]) || strings.Contains(Mark(ring[0]), "6161") {
		t.Error("a mark tells too little, or the key")
	}
}

// goingOver is a chain whose records are sealed by one key after the other: before each
// key but the first, a record of the change.
func goingOver(ring Ring, each int) (rs []Record) {
	var prev []byte
	add := func(r Record, key []byte) {
		r.Seal(key, int64(len(rs)), prev)
		rs, prev = append(rs, r), r.Hash
	}
	for i, key := range ring {
		if i > 0 {
			add(Record{What: KeyChanged, New: Mark(key)}, ring[i-1])
		}
		for range each {
			add(Record{What: Event, Name: "Tom Alder"}, key)
		}
	}
	return rs
}

// TestAChainGoesOver: a trail holds over changes of its key, and who has the old key alone
// can alter nothing that came before the change, nor go on without it.
func TestAChainGoesOver(t *testing.T) {
	ring := ringOf(3)
	rs := goingOver(ring, 2) // 1 2 c 4 5 c 7 8
	walk := func(ring Ring, rs []Record, parts ...Part) error {
		v := Verifier{Keys: ring}
		last := rs[len(rs)-1]
		v.Head(last.Seq, last.Seq, HeadSeal(ring.Newest(), last.Seq, last.Seq, last.Hash))
		if err := v.After(parts); err != nil {
			return err
		}
		for i := range rs {
			if err := v.Next(&rs[i]); err != nil {
				return err
			}
		}
		return v.End()
	}
	part := Part{First: 1, Last: 4, Chain: rs[3].Hash, File: "f", Digest: "d", Records: 4}
	part.Seal(ring[1])
	resealed := append([]Record{}, rs...)
	for i := range 3 { // with the first key, up to and with the change
		resealed[i].Name = "Sam Pine"
		prev := []byte(nil)
		if i > 0 {
			prev = resealed[i-1].Hash
		}
		resealed[i].Seal(ring[0], int64(i), prev)
	}
	onWithOld := append([]Record{}, rs[:2]...)
	r := Record{What: Event, Name: "Sam Pine"}
	r.Seal(ring[0], 2, rs[1].Hash)
	onWithOld = append(onWithOld, r)
	for name, c := range map[string]struct {
		err  error
		says string
	}{
		"whole":                            {walk(ring, rs), ""},
		"after a part that lies in a file": {walk(ring, rs[4:], part), ""},
		"without the old key":              {walk(ring[1:], rs), "does not match its seal"},
		"without the new key":              {walk(ring[:2], rs), "the key that it goes over to is not there"},
		"resealed with the old key":        {walk(ring, resealed), "record 4: its content does not match"},
		"gone on with the old key":         {walk(ring, onWithOld), "is not the one that was sealed"},
		"keys in another order":            {walk(Ring{ring[0], ring[2], ring[1]}, rs), "record 3: the key that it goes over to"},
	} {
		if said := text(c.err); c.says == "" && c.err != nil || !strings.Contains(said, c.says) {
			t.Errorf("%s: %q", name, said)
		}
	}
}

func text(err error) string {
	if err == nil {
		return ""
	}
	return err.Error()
}

// TestPublicKeysFollow: each public key is vouched for by the one before it.
func TestPublicKeysFollow(t *testing.T) {
	var signers []ed25519.PrivateKey
	for _, seed := range ringOf(3) {
		signers = append(signers, ed25519.NewKeyFromSeed(seed))
	}
	written := WritePublicKeys(signers)
	public, err := ParsePublicKeys(written)
	if err != nil || len(public) != 3 {
		t.Fatal(public, err)
	}
	for i, key := range signers {
		head := SignHead(key, "yard", 7, 0, []byte("hash"))
		if !head.By(public) || head.By(public[i+1:]) {
			t.Errorf("key %d", i)
		}
	}
	lines := strings.Split(strings.TrimSpace(written), "\n")
	for name, said := range map[string]string{
		"":                                     "",
		"one taken out":                        lines[0] + "\n" + lines[2],
		"one put in":                           WritePublicKeys(signers[:1]) + WritePublicKeys(signers[2:]),
		"no signature":                         lines[0] + "\n" + strings.Fields(lines[1])[0],
		"a signature of another key":           lines[0] + "\n" + strings.Fields(lines[2])[0] + " " + strings.Fields(lines[1])[1],
		"a key that is too short":              "abcd",
		"a signature that is no hex":           lines[0] + "\n" + strings.Fields(lines[1])[0] + " xyz",
		"a line between them that says nought": lines[0] + "\n\n" + lines[1],
	} {
		if _, err := ParsePublicKeys(said); err == nil {
			t.Errorf("%s: is taken", name)
		}
	}
}
