package audit

import (
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"

	"readyrail/internal/core/say"
)

// Ring is the keys that seal a trail, oldest first; the newest seals what comes. A trail
// goes over from one key to the next by a record of KeyChanged, which is the last under
// the old one and names the new one: who has an old key alone can make no record that
// what came later fits.
type Ring [][]byte

// KeySize is the size of a key of a ring, and of a seed of a key that signs, in bytes.
const KeySize = 32

// ParseRing reads a ring: a key in hex on each line, the newest last.
func ParseRing(text string) (Ring, error) {
	var r Ring
	for _, line := range strings.Fields(text) {
		key, err := hex.DecodeString(line)
		if err != nil || len(key) != KeySize {
			return nil, say.Errorf("a key is %d bytes in hex, one on each line", KeySize)
		}
		r = append(r, key)
	}
	if len(r) == 0 {
		return nil, say.Errorf("a key is %d bytes in hex, one on each line", KeySize)
	}
	return r, nil
}

// String is the ring as it is kept.
func (r Ring) String() string {
	var b strings.Builder
	for _, key := range r {
		fmt.Fprintf(&b, "%x\n", key)
	}
	return b.String()
}

// Newest is the key that seals.
func (r Ring) Newest() []byte { return r[len(r)-1] }

// Mark names a key without telling it.
func Mark(key []byte) string {
	sum := sha256.Sum256(append([]byte("the mark of a key of a trail "), key...))
	return hex.EncodeToString(sum[:8])
}

// PublicKeys are those by which heads and signed files are proved, oldest first. Each
// after the first is signed by the one before it: who trusts the first can trust all.
type PublicKeys []ed25519.PublicKey

func succession(next ed25519.PublicKey) []byte {
	return fmt.Appendf(nil, "readyrail key that follows %x", []byte(next))
}

// WritePublicKeys writes the public halves of keys that sign, oldest first, a line each.
func WritePublicKeys(keys []ed25519.PrivateKey) string {
	var b strings.Builder
	for i, key := range keys {
		public := key.Public().(ed25519.PublicKey)
		fmt.Fprintf(&b, "%x", []byte(public))
		if i > 0 {
			fmt.Fprintf(&b, " %x", ed25519.Sign(keys[i-1], succession(public)))
		}
		b.WriteByte('\n')
	}
	return b.String()
}

// ParsePublicKeys reads what WritePublicKeys wrote.
func ParsePublicKeys(text string) (PublicKeys, error) {
	var keys PublicKeys
	for _, line := range strings.Split(strings.TrimSpace(text), "\n") {
		words := strings.Fields(line)
		if len(words) == 0 {
			return nil, say.Errorf("a public key is %d bytes in hex, one on each line", ed25519.PublicKeySize)
		}
		key, err := hex.DecodeString(words[0])
		if err != nil || len(key) != ed25519.PublicKeySize {
			return nil, say.Errorf("a public key is %d bytes in hex, one on each line", ed25519.PublicKeySize)
		}
		if n := len(keys); n > 0 {
			signature := []byte(nil)
			if len(words) == 2 {
				signature, err = hex.DecodeString(words[1])
			}
			if err != nil || !ed25519.Verify(keys[n-1], succession(key), signature) {
				return nil, say.Errorf("public key %d is not signed by the one before it", n+1)
			}
		}
		keys = append(keys, key)
	}
	return keys, nil
}

// signed tells whether a message was signed with one of the keys.
func (k PublicKeys) signed(message, signature []byte) bool {
	return slices.ContainsFunc(k, func(key ed25519.PublicKey) bool { return ed25519.Verify(key, message, signature) })
}
