package host

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"log/slog"
	"strings"
	"sync"
	"time"

	"readyrail/internal/store"
)

// Sessions are kept in memory, so that asking and reading go on while the disk
// fails, and written when what they hold changes. It is the store that the
// session library asks for.
type Sessions struct {
	disk *store.Sessions
	log  *slog.Logger

	mu     sync.Mutex
	open   map[string]session
	ended  map[string]bool // keys of those that the disk may still have
	swept  time.Time
	failed bool
}

type session struct {
	data   []byte
	expiry time.Time
	kept   time.Time // the expiry that the disk has; zero for none
}

// onDisk stands before the key of a session that is known from the disk alone.
const onDisk = "on disk: "

// keyOf is what the disk, and each copy of it, has in the place of a token: nobody goes
// on with a session by it.
func keyOf(token string) string {
	if key, ok := strings.CutPrefix(token, onDisk); ok {
		return key
	}
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// SessionName names a session without saying what it is gone on with by.
func SessionName(token string) string { return keyOf(token)[:16] }

// keepExpiry is how far the disk's expiry may lag behind.
const keepExpiry = time.Hour

// Sessions is where the server keeps its sessions.
func (h *Host) Sessions() *Sessions { return h.sessions }

func newSessions(disk *store.Sessions, log *slog.Logger) *Sessions {
	return &Sessions{disk: disk, log: log, open: map[string]session{}, ended: map[string]bool{}}
}

// Find returns a session's data unless it is unknown or over.
func (s *Sessions) Find(token string) (data []byte, found bool, err error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	now := time.Now()
	if x, ok := s.open[token]; ok {
		return x.data, now.Before(x.expiry), nil
	}
	if s.ended[keyOf(token)] || strings.HasPrefix(token, onDisk) {
		return nil, false, nil
	}
	data, expiry, err := s.disk.Find(keyOf(token))
	if err != nil || data == nil {
		s.say(err)
		return nil, false, nil
	}
	s.open[token] = session{data, expiry, expiry}
	return data, true, nil
}

// All lists the data of every session that is not over, by token; by its key where only
// the disk has it.
func (s *Sessions) All() (map[string][]byte, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	kept, err := s.disk.All()
	if err != nil {
		s.say(err)
	}
	out := map[string][]byte{}
	now := time.Now()
	for token, x := range s.open {
		if delete(kept, keyOf(token)); now.Before(x.expiry) {
			out[token] = x.data
		}
	}
	for key, data := range kept {
		if !s.ended[key] {
			out[onDisk+key] = data
		}
	}
	return out, nil
}

// Commit keeps a session. One that cannot be stored lives in memory until it
// can.
func (s *Sessions) Commit(token string, data []byte, expiry time.Time) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	old := s.open[token]
	next := session{data, expiry, old.kept}
	if !bytes.Equal(old.data, data) || old.kept.IsZero() || expiry.Sub(old.kept) > keepExpiry {
		if err := s.disk.Commit(keyOf(token), data, expiry); err != nil {
			s.say(err)
		} else {
			next.kept = expiry
		}
	}
	if !strings.HasPrefix(token, onDisk) {
		s.open[token] = next
	}
	s.sweep()
	return nil
}

// Delete ends a session, at once here and on disk as soon as it takes it.
func (s *Sessions) Delete(token string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	delete(s.open, token)
	s.ended[keyOf(token)] = true
	s.sweep()
	return nil
}

// sweep forgets sessions that are over, and drops ended ones from the disk.
func (s *Sessions) sweep() {
	for key := range s.ended {
		if err := s.disk.Delete(key); err != nil {
			s.say(err)
			break
		}
		delete(s.ended, key)
	}
	now := time.Now()
	if now.Sub(s.swept) < time.Minute {
		return
	}
	s.swept = now
	for token, x := range s.open {
		if !now.Before(x.expiry) {
			delete(s.open, token)
		}
	}
}

// say logs a failure once until it is over.
func (s *Sessions) say(err error) {
	if err != nil && !s.failed {
		s.log.Error("sessions cannot be stored: they are kept in memory", "error", err)
	}
	s.failed = err != nil
}
