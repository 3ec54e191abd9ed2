package audit

import (
	"crypto/ed25519"
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"strconv"
	"strings"
	"time"

	"readyrail/internal/core/say"
)

// Head is the end of a trail at a time, signed with the server's own key (Ed25519,
// RFC 8032). Kept where the server's owner cannot reach it, it shows later that what
// was in the trail by then is still there, and as it was: who has the disk and the
// keys can make another trail, but none that this head fits.
type Head struct {
	Trail     string // id of the project
	Seq       int64  // of the newest record
	At        int64  // nanoseconds since 1970, UTC
	Hash      []byte // of the newest record
	Signature []byte
}

// noHash stands for the hash of a trail that has no record yet.
const noHash = "-"

func (h *Head) message() string {
	hash := noHash
	if len(h.Hash) > 0 {
		hash = hex.EncodeToString(h.Hash)
	}
	return fmt.Sprintf("head %s %d %s %s", h.Trail, h.Seq, time.Unix(0, h.At).UTC().Format(time.RFC3339Nano), hash)
}

// SignHead makes the head of a trail.
func SignHead(key ed25519.PrivateKey, trail string, seq, at int64, hash []byte) Head {
	h := Head{Trail: trail, Seq: seq, At: at, Hash: hash}
	h.Signature = ed25519.Sign(key, []byte(h.message()))
	return h
}

// By tells whether the head was signed with a key that belongs to one of public ones.
func (h *Head) By(keys PublicKeys) bool { return keys.signed([]byte(h.message()), h.Signature) }

// String is the head as a line of text, as it is kept.
func (h *Head) String() string {
	return h.message() + " " + base64.StdEncoding.EncodeToString(h.Signature)
}

// ParseHead reads such a line.
func ParseHead(line string) (h Head, err error) {
	part := strings.Fields(line)
	if len(part) != 6 || part[0] != "head" {
		return h, say.Errorf("a head of a trail is a line of: head, project, number, time, hash, signature")
	}
	h.Trail = part[1]
	at, err := time.Parse(time.RFC3339Nano, part[3])
	if err == nil {
		h.At = at.UnixNano()
		h.Seq, err = strconv.ParseInt(part[2], 10, 64)
	}
	if err == nil && part[4] != noHash {
		h.Hash, err = hex.DecodeString(part[4])
	}
	if err == nil {
		h.Signature, err = base64.StdEncoding.DecodeString(part[5])
	}
	if err != nil {
		return h, say.Errorf("a head of a trail cannot be read: %w", err)
	}
	return h, nil
}

// KeptHead is a head and where it was kept.
type KeptHead struct {
	Head
	Place string
}

// Holds has the verifier compare the chain with heads; it is called before the first
// record. One that the key did not sign, or of another trail, is refused.
func (v *Verifier) Holds(trail string, keys PublicKeys, heads []KeptHead) error {
	v.held = map[int64][]KeptHead{}
	for _, h := range heads {
		if h.Trail != trail {
			continue
		}
		if !h.By(keys) {
			return say.Errorf("the head of record %d in %s was not signed with this key", h.Seq, h.Place)
		}
		v.held[h.Seq] = append(v.held[h.Seq], h)
		if h.Seq > v.farthest.Seq {
			v.farthest = h
		}
	}
	return nil
}

// Farthest is the head that reaches farthest among those that the chain is compared
// with.
func (v *Verifier) Farthest() (h KeptHead, ok bool) { return v.farthest, v.farthest.Seq > 0 }

// fits compares a record with the heads of its number.
func (v *Verifier) fits(r *Record) error {
	for _, h := range v.held[r.Seq] {
		if string(h.Hash) != string(r.Hash) {
			return &Broken{r.Seq, fmt.Sprintf("it is not the one of which the head of %s in %s tells", stamp(h.At), h.Place)}
		}
	}
	return nil
}

// reaches says that the chain has all of which heads tell.
func (v *Verifier) reaches() error {
	if h := v.farthest; h.Seq > v.seq {
		return &Broken{v.seq + 1, fmt.Sprintf("records %d to %d were taken out: the head of %s in %s tells of them", v.seq+1, h.Seq,
			stamp(h.At), h.Place)}
	}
	return nil
}

func stamp(at int64) string { return time.Unix(0, at).UTC().Format(time.RFC3339) }
