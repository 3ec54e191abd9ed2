package store

import (
	"os"
	"path/filepath"
	"readyrail/internal/core/say"
	"readyrail/internal/machine"
	"sync"
)

// Reserve is a file that takes up room for the day when the disk is full: then
// it is given up first, so that what must be kept (what was stopped, let go and
// acknowledged) still can be. A nil Reserve holds nothing.
type Reserve struct {
	path string
	size int64

	mu    sync.Mutex
	held  bool
	given bool // it was held, and given up
}

// ReserveSize is how much room a server holds back, in bytes.
const ReserveSize = 32 << 20

// HoldReserve takes up the room in a folder, as far as there is enough.
func HoldReserve(dir string, size int64) *Reserve {
	r := &Reserve{path: filepath.Join(dir, "reserve"), size: size}
	if info, err := os.Stat(r.path); err == nil && info.Size() == size {
		r.held = true
	}
	return r
}

// Held tells whether the room is held back now.
func (r *Reserve) Held() bool {
	if r == nil {
		return false
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.held
}

// GivenUp tells whether the room was given up and could not be held again since.
func (r *Reserve) GivenUp() bool {
	if r == nil {
		return false
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.given
}

// Hold takes the room up again; an error says that there is not enough.
func (r *Reserve) Hold() error {
	if r == nil {
		return nil
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.held {
		return nil
	}
	f, err := os.OpenFile(r.path, os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
	if err != nil {
		return say.Errorf("the reserve cannot be held: %w", err)
	}
	defer f.Close()
	if err := machine.Reserve(f, r.size); err != nil {
		os.Remove(r.path)
		return say.Errorf("the reserve cannot be held: %w", err)
	}
	r.held, r.given = true, false
	return nil
}

// giveUp gives the room away; false where it was given already.
func (r *Reserve) giveUp() bool {
	if r == nil {
		return false
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	if !r.held {
		return false
	}
	r.held, r.given = false, true
	return os.Remove(r.path) == nil
}
