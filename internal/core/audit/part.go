package audit

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"slices"
)

// Part is a part of a trail that was closed: its records went out into a signed file, and
// the chain goes on from its last. Parts follow one another from record 1 on.
type Part struct {
	ID      int64  `db:"id"`
	First   int64  `db:"first"` // numbers of its records
	Last    int64  `db:"last"`
	Chain   []byte `db:"chain"`  // hash of the last record
	File    string `db:"file"`   // name in the project's folder of archives
	Digest  string `db:"digest"` // SHA-256 of the file, in hex
	Records int64  `db:"records"`
	At      int64  `db:"at"` // nanoseconds since 1970, UTC
	Person  string `db:"person"`
	Reason  string `db:"reason"`
	Mark    []byte `db:"seal"` // of all this, under the key of the trail
}

// Seal seals a part under the key of its trail.
func (p *Part) Seal(key []byte) { p.Mark = p.mark(key) }

func (p *Part) mark(key []byte) []byte {
	mac := hmac.New(sha256.New, key)
	field := func(b []byte) {
		mac.Write(binary.BigEndian.AppendUint64(nil, uint64(len(b))))
		mac.Write(b)
	}
	field(fmt.Appendf(nil, "part %d %d %d %d", p.First, p.Last, p.Records, p.At))
	for _, b := range [][]byte{p.Chain, []byte(p.File), []byte(p.Digest), []byte(p.Person), []byte(p.Reason)} {
		field(b)
	}
	return mac.Sum(nil)
}

// After has the chain begin after the parts that were closed; it is called after Head and
// Holds, and before the first record. The error is a *Broken where one was altered or is
// missing.
func (v *Verifier) After(parts []Part) error {
	for i := range parts {
		p := &parts[i]
		switch {
		case p.First != v.seq+1 || p.Last < p.First:
			return &Broken{v.seq + 1, "the part that begins with it is missing among those that were closed"}
		case !slices.ContainsFunc(v.Keys, func(key []byte) bool { return hmac.Equal(p.Mark, p.mark(key)) }):
			return &Broken{p.First, fmt.Sprintf("what is kept of the closed part up to record %d does not match its seal", p.Last)}
		}
		v.seq, v.prev = p.Last, p.Chain
		if err := v.fits(&Record{Seq: p.Last, Hash: p.Chain}); err != nil {
			return err
		}
	}
	return nil
}
