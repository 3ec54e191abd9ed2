// Package audit holds the records of what people did and the keyed hash chain
// that makes an altered, removed or inserted record show.
package audit

import (
	"bytes"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"hash"
	"time"

	"readyrail/internal/core/say"
)

// What a record is about.
const (
	Intent  = "intent"  // a write is about to be sent; kept before it is
	Outcome = "outcome" // how an intent ended
	Refused = "refused" // a write that was not sent
	SignIn  = "sign-in"
	SignOut = "sign-out"
	Failed  = "sign-in-failed"
	Enrol   = "panel-enrolled"
	Release = "release"
	People  = "people"
	Lease   = "lease" // a hold-to-run lease began or ended
	Held    = "held"  // a person holds a tag at a value
	Given   = "given-back"
	Turn    = "turn" // a commissioning turn began or ended
	Proof   = "loop-check"
	// ScreenProof is an element of a screen passed or failed.
	ScreenProof = "screen-check"
	Event       = "event"           // a button recorded something in words of its own
	JournalEnd  = "journal-closed"  // the journal was written out, sealed and begun anew
	LimitSet    = "alarm-limit"     // the limit of an alarm was changed at the Desk
	AlarmAct    = "alarm"           // an alarm was acknowledged, reset, set aside or brought back
	Edited      = "edit"            // the project was changed as it is being built
	Handover    = "handover"        // a shift left a note to the next one, or that was taken over
	Control     = "control"         // a place took control of an area, handed it over or gave it up
	LogSet      = "log"             // a log was started, stopped, marked, written out or cleared
	RecipeSet   = "recipe"          // a recipe was made, changed, approved, withdrawn or deleted
	Brought     = "project-brought" // the project was made of an archive
	Delivery    = "delivery"        // a recipe was delivered, or what a delivery left was dealt with
	Vault       = "vault"           // a credential was put, taken away, exported or imported
	Comment     = "comment"         // something was said later of a record, which stays as it is
	Exported    = "exported"        // records went out as a file
	TrailEnd    = "trail-closed"    // a part of the trail was written out, sealed, and the trail goes on after it
	Directory   = "directory"       // the company's directory was chosen, stopped answering, or answers again
	Backup      = "backup"          // a backup was taken by hand, planned, or brought back
	Keys        = "keys"            // a key of the server was changed
	KeyChanged  = "key-changed"     // the records after this one are sealed with the key that it names
	Tampered    = "tampered"        // the trail was found to be not as it was sealed
)

// How a write ended.
const (
	Confirmed  = "confirmed"  // read back as written
	Differs    = "differs"    // read back otherwise
	Rejected   = "refused"    // the device or a rule refused it
	Unknown    = "unknown"    // sent, or perhaps sent, with no answer
	Unanswered = "unanswered" // taken, but the answer that was asked for did not come
	Superseded = "superseded" // a later write to the tag went first
)

// Record is one line of the trail. Empty fields do not apply.
type Record struct {
	Seq     int64  `db:"seq" json:"seq"`
	At      int64  `db:"at" json:"at"` // nanoseconds since 1970, UTC
	What    string `db:"what" json:"what"`
	Person  string `db:"person" json:"person"` // id
	Name    string `db:"name" json:"name"`     // as it was then
	Panel   string `db:"panel" json:"panel"`
	Screen  string `db:"screen" json:"screen"`
	Element string `db:"element" json:"element"`
	Tag     string `db:"tag" json:"tag"` // id
	Path    string `db:"path" json:"path"`
	Old     string `db:"old" json:"old"`
	New     string `db:"new" json:"new"`
	Outcome string `db:"outcome" json:"outcome" enum:",confirmed,differs,refused,unknown,unanswered,superseded"`
	Reason  string `db:"reason" json:"reason"`
	// Sign says who signed, with what their signatures mean (21 CFR 11.50); the time
	// of signing is that of the record.
	Sign string `db:"sign" json:"sign" doc:"who signed, and with what meaning"`
	// Captured are values of other tags as they were then, where a rule asks for them.
	Captured string `db:"captured" json:"captured,omitempty" doc:"values of other tags as they were then"`
	Intent   int64  `db:"intent" json:"intent"` // for an outcome: the intent's seq; for a comment that of what it is about
	Key      string `db:"key" json:"key"`       // the command's own key
	Hash     []byte `db:"hash" json:"-"`
}

// Witness is what stands with a record beside what was done: who signed it, and what
// else was the case.
type Witness struct {
	Sign     string // who signed, with what meaning
	Captured string // values of other tags
}

// Time returns when it happened.
func (r *Record) Time() time.Time { return time.Unix(0, r.At) }

// sealer seals records one after the other with one key.
type sealer struct {
	mac hash.Hash
	buf []byte
}

func newSealer(key []byte) *sealer { return &sealer{mac: hmac.New(sha256.New, key)} }

// seal computes the hash of a record that follows one with hash prev:
// HMAC-SHA-256 over prev and every field, each with its length in front.
func (s *sealer) seal(r *Record, prev []byte) []byte {
	b := binary.BigEndian.AppendUint64(s.buf[:0], uint64(len(prev)))
	b = append(b, prev...)
	number := func(v int64) {
		b = binary.BigEndian.AppendUint64(b, 8)
		b = binary.BigEndian.AppendUint64(b, uint64(v))
	}
	text := func(s string) {
		b = binary.BigEndian.AppendUint64(b, uint64(len(s)))
		b = append(b, s...)
	}
	number(r.Seq)
	number(r.At)
	for _, s := range [...]string{r.What, r.Person, r.Name, r.Panel, r.Screen, r.Element, r.Tag, r.Path, r.Old, r.New, r.Outcome, r.Reason,
		r.Key} {
		text(s)
	}
	number(r.Intent)
	// Records from before there were signatures keep their seals: what none has adds
	// nothing, and what one has adds a field that no other record ends with. What has
	// values captured adds two, the first of them empty where nobody signed.
	if r.Sign != "" || r.Captured != "" {
		text(r.Sign)
	}
	if r.Captured != "" {
		text(r.Captured)
	}
	s.buf = b
	s.mac.Reset()
	s.mac.Write(b)
	return s.mac.Sum(nil)
}

// Seal sets the record's number and hash as the successor of a record with
// number seq and hash prev; the first record follows 0 and nil.
func (r *Record) Seal(key []byte, seq int64, prev []byte) {
	r.Seq = seq + 1
	r.Hash = newSealer(key).seal(r, prev)
}

// ErrTaken says that an intent with the same key is in the trail already.
var ErrTaken = say.New("a command with this key was taken already")

// Broken says where a chain does not hold.
type Broken struct {
	Seq    int64
	Reason string
}

func (b *Broken) Error() string { return fmt.Sprintf("audit record %d: %s", b.Seq, b.Reason) }

// Verifier checks a chain record by record. The zero value expects the first.
type Verifier struct {
	Keys Ring // before the first record
	// Told is told now and then how many records hold so far, where it is there.
	Told   func(records int64)
	at     int // which of them seals
	begun  bool
	sealer *sealer
	seq    int64
	prev   []byte
	// tampered is what the first record of tampering says.
	tampered error
	head     struct {
		seq, closed int64
		seal        []byte
		met         bool // the chain has the record that was sealed as its end
	}
	held     map[int64][]KeptHead // heads that are kept elsewhere, by their numbers
	farthest KeptHead
}

// Next checks the next record; the error is a *Broken.
func (v *Verifier) Next(r *Record) error {
	if r.Seq != v.seq+1 {
		return &Broken{r.Seq, fmt.Sprintf("record %d is missing before it", v.seq+1)}
	}
	if v.sealer == nil {
		v.sealer = newSealer(v.Keys[v.at])
	}
	for !bytes.Equal(r.Hash, v.sealer.seal(r, v.prev)) {
		// The first record may be from after the key was changed: closed parts lie before it.
		if v.begun || !v.nextKey() {
			return &Broken{r.Seq, "its content does not match its seal"}
		}
	}
	v.begun, v.seq, v.prev = true, r.Seq, r.Hash
	if r.What == KeyChanged && (!v.nextKey() || Mark(v.Keys[v.at]) != r.New) {
		return &Broken{r.Seq, "the key that it goes over to is not there"}
	}
	if r.Seq == v.head.seq {
		v.head.met = Seals(v.Keys[v.at], r.Seq, v.head.closed, r.Hash, v.head.seal)
	}
	if r.What == Tampered && v.tampered == nil {
		v.tampered = &Broken{r.Seq, r.Reason}
	}
	return v.fits(r)
}

// nextKey goes over to the key after the one that sealed so far; false where there is none.
func (v *Verifier) nextKey() bool {
	if v.at+1 >= len(v.Keys) {
		return false
	}
	v.at++
	v.sealer = newSealer(v.Keys[v.at])
	return true
}

// HeadSeal seals the end of a chain: the number and hash of its newest record,
// and up to which number every intent has its outcome.
func HeadSeal(key []byte, seq, closed int64, hash []byte) []byte {
	mac := hmac.New(sha256.New, key)
	fmt.Fprintf(mac, "head %d %d ", seq, closed)
	mac.Write(hash)
	return mac.Sum(nil)
}

// Seals tells whether a seal is that of an end.
func Seals(key []byte, seq, closed int64, hash, seal []byte) bool {
	return hmac.Equal(seal, HeadSeal(key, seq, closed, hash))
}

// Head says which end of the chain was sealed; it is called before the first
// record. A chain may go on after it, by what came within the last second.
func (v *Verifier) Head(seq, closed int64, seal []byte) {
	v.head.seq, v.head.closed, v.head.seal = seq, closed, seal
}

// End checks, after the last record, that the chain reaches the end that was
// sealed.
func (v *Verifier) End() error {
	switch cut := v.reaches(); {
	case v.tampered != nil:
		return v.tampered
	case cut != nil: // what a head from elsewhere tells weighs more than what lies beside
		return cut
	case v.head.seq > v.seq:
		return &Broken{v.seq + 1, fmt.Sprintf("records %d to %d were taken out", v.seq+1, v.head.seq)}
	case !v.head.met && v.seq > 0:
		return &Broken{v.head.seq, "the end of the trail is not the one that was sealed"}
	}
	return nil
}
