package store

import (
	"crypto/rand"
	"encoding/base32"
	"strings"
)

// NewID makes an id of something that is to be stored: a letter for its kind and
// 12 random characters.
func NewID(kind string) string {
	var b [8]byte
	rand.Read(b[:])
	return kind[:1] + strings.ToLower(base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString(b[:]))[:12]
}
