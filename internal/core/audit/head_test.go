package audit

import (
	"bytes"
	"crypto/ed25519"
	"strings"
	"testing"
)

func keys(t *testing.T, seed byte) (PublicKeys, ed25519.PrivateKey) {
	t.Helper()
	private := ed25519.NewKeyFromSeed(bytes.Repeat([]byte{seed}, ed25519.SeedSize))
	return PublicKeys{private.Public().(ed25519.PublicKey)}, private
}

// A head that is kept elsewhere shows what the trail's own keys do not: who has them
// makes a trail that holds by itself.
func TestHeadsThatAreHeldElsewhere(t *testing.T) {
	public, private := keys(t, 1)
	_, other := keys(t, 2)
	whole := chain()
	head := func(key ed25519.PrivateKey, trail string, r Record) KeptHead {
		return KeptHead{SignHead(key, trail, r.Seq, 5, r.Hash), "the safe"}
	}
	forged := chain() // anew, with the trail's own key
	forged[1].Outcome = Differs
	seq, prev := int64(0), []byte(nil)
	for i := range forged {
		forged[i].Seal(key, seq, prev)
		seq, prev = forged[i].Seq, forged[i].Hash
	}
	for name, c := range map[string]struct {
		chain []Record
		held  KeptHead
		says  string
	}{
		"whole":                   {whole, head(private, "yard", whole[2]), ""},
		"it went on since":        {whole, head(private, "yard", whole[0]), ""},
		"cut off":                 {whole[:2], head(private, "yard", whole[2]), "records 3 to 3 were taken out"},
		"all of it gone":          {nil, head(private, "yard", whole[2]), "records 1 to 3 were taken out"},
		"made anew by the owner":  {forged, head(private, "yard", whole[2]), "not the one of which the head"},
		"made anew behind a head": {forged, head(private, "yard", forged[0]), ""}, // what the head does not tell of it cannot show
		"signed by another key":   {whole, head(other, "yard", whole[2]), "not signed with this key"},
		"of another trail":        {whole[:2], head(private, "mill", whole[2]), ""},
	} {
		v := Verifier{Keys: Ring{key}}
		err := v.Holds("yard", public, []KeptHead{c.held})
		for i := 0; err == nil && i < len(c.chain); i++ {
			err = v.Next(&c.chain[i])
		}
		if err == nil {
			err = v.reaches()
		}
		if (err == nil) != (c.says == "") || err != nil && !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, not %q", name, err, c.says)
		}
	}
}

func TestHeadsAsLines(t *testing.T) {
	public, private := keys(t, 1)
	h := SignHead(private, "yard", 7, 1_700_000_000_123_456_789, []byte{1, 2, 3})
	got, err := ParseHead(h.String())
	if err != nil || got.String() != h.String() || !got.By(public) {
		t.Errorf("%v %v", got, err)
	}
	for _, line := range []string{"", "head yard 7",
		strings.Replace(h.String(), "head", "foot", 1), strings.Replace(h.String(), " 7 ", " x ", 1),
		strings.Replace(h.String(), "010203", "01020", 1), h.String() + " more"} {
		if _, err := ParseHead(line); err == nil {
			t.Errorf("%q was read", line)
		}
	}
	for _, altered := range []string{strings.Replace(h.String(), " 7 ", " 8 ", 1), strings.Replace(h.String(), "yard", "mill", 1),
		strings.Replace(h.String(), "010203", "010204", 1)} {
		if got, err := ParseHead(altered); err != nil || got.By(public) {
			t.Errorf("%q holds, %v", altered, err)
		}
	}
}

// A signed file is whole by the public key alone, and altered wherever it was.
func TestASignedFile(t *testing.T) {
	public, private := keys(t, 1)
	stranger, other := keys(t, 2)
	write := func(records []Record, key ed25519.PrivateKey) string {
		var b bytes.Buffer
		err := WriteFile(&b, key, func(do func(*Record) error) error {
			for i := range records {
				if err := do(&records[i]); err != nil {
					return err
				}
			}
			return nil
		}, func(seq int64, hash []byte) Head { return SignHead(key, "yard", seq, 5, hash) })
		if err != nil {
			t.Fatal(err)
		}
		return b.String()
	}
	whole := write(chain(), private)
	lines := strings.SplitAfter(whole, "\n")
	for name, c := range map[string]struct {
		file string
		key  PublicKeys
		says string
	}{
		"whole":                 {whole, public, ""},
		"a part":                {write(chain()[1:], private), public, ""},
		"without a record":      {write(nil, private), public, ""},
		"by another key":        {whole, stranger, "not signed with this key"},
		"a value altered":       {strings.Replace(whole, `"72"`, `"73"`, 1), public, "altered"},
		"a record taken out":    {lines[0] + lines[2] + lines[3], public, "record 2"},
		"the first taken out":   {lines[1] + lines[2] + lines[3], public, "altered"},
		"two swapped":           {lines[1] + lines[0] + lines[2] + lines[3], public, "record 3"},
		"the end cut off":       {lines[0] + lines[1] + lines[2], public, "cut off"},
		"the last one cut off":  {lines[0] + lines[1] + lines[3], public, "altered"},
		"empty":                 {"", public, "cut off"},
		"signed anew by others": {write(chain()[:2], other), public, "not signed with this key"},
		"an end of another":     {lines[0] + lines[1] + strings.SplitAfter(write(chain()[:1], private), "\n")[1], public, "altered"},
		"not of this kind":      {"number,time\n1,2\n", public, "record 1"},
	} {
		head, n, err := VerifyFile(strings.NewReader(c.file), c.key)
		if (err == nil) != (c.says == "") || err != nil && !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, not %q", name, err, c.says)
		}
		if name == "whole" && (n != 3 || head.Seq != 3 || head.Trail != "yard") {
			t.Errorf("%d records, %v", n, head)
		}
	}
}
