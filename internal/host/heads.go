package host

import (
	"bufio"
	"context"
	"crypto/ed25519"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/store"
)

// signing signs the ends of trails with the server's own key. The public one lies
// beside it to be taken along: with it alone a head, or a signed file, is proved
// elsewhere.
type signing struct {
	keys   []ed25519.PrivateKey // the newest signs
	folder string               // that takes heads, beside the data; empty for none

	mu       sync.Mutex
	last     map[string]lastHead // by project
	carrying sync.Mutex          // over the folder
}

type lastHead struct {
	seq     int64
	at      time.Time
	failed  bool // the folder did not take it
	problem error
}

const (
	signingKey = "audit.sign" // seeds as an audit.Ring
	publicKey  = "audit.pub"
	// headsFile is where a project's heads are kept beside its trail.
	headsFile = "heads.txt"
	// signEvery is how often the end of a trail that grew is signed.
	signEvery = time.Hour
	// signAgain is when a folder that did not take a head is tried again.
	signAgain = time.Minute
)

func openSigning(dir, folder string) (*signing, error) {
	ring, err := readRing(filepath.Join(dir, signingKey))
	if err != nil {
		return nil, err
	}
	s := &signing{keys: signers(ring), folder: folder, last: map[string]lastHead{}}
	if err := writePublicKeys(dir, s.keys); err != nil {
		return nil, err
	}
	if folder != "" {
		if err := os.MkdirAll(folder, 0o700); err != nil {
			return nil, say.Errorf("the folder for heads of the audit trail cannot be made: %w", err)
		}
	}
	return s, nil
}

// signers are the keys that seeds make.
func signers(seeds audit.Ring) (keys []ed25519.PrivateKey) {
	for _, seed := range seeds {
		keys = append(keys, ed25519.NewKeyFromSeed(seed))
	}
	return keys
}

func writePublicKeys(dir string, keys []ed25519.PrivateKey) error {
	if err := os.WriteFile(filepath.Join(dir, publicKey), []byte(audit.WritePublicKeys(keys)), 0o644); err != nil {
		return say.Errorf("the public key of the audit trail cannot be stored: %w", err)
	}
	return nil
}

// key is the one that signs.
func (s *signing) key() ed25519.PrivateKey { return s.keys[len(s.keys)-1] }

func (s *signing) public() (keys audit.PublicKeys) {
	for _, key := range s.keys {
		keys = append(keys, key.Public().(ed25519.PublicKey))
	}
	return keys
}

// ReadPublicKeys reads the keys by which heads and signed files are proved.
func ReadPublicKeys(path string) (audit.PublicKeys, error) {
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	keys, err := audit.ParsePublicKeys(string(text))
	if err != nil {
		return nil, say.Errorf("%s: %w", path, err)
	}
	return keys, nil
}

// signHeads signs the ends of the trails for which it is time.
func (h *Host) signHeads(ctx context.Context) {
	for _, p := range h.Projects() {
		h.signing.mu.Lock()
		last := h.signing.last[p.id]
		h.signing.mu.Unlock()
		wait := signEvery
		if last.failed {
			wait = signAgain
		}
		if time.Since(last.at) >= wait {
			p.signEnd(ctx)
		}
	}
}

// signEnd signs the end of the trail, unless it was signed, and keeps the head beside
// the trail, in the journal and in the folder for heads.
func (p *Project) signEnd(ctx context.Context) {
	s := p.host.signing
	s.mu.Lock()
	defer s.mu.Unlock()
	last := s.last[p.id]
	seq, hash := p.records.Trail.End()
	if seq == 0 || seq == last.seq && !last.failed {
		last.at = time.Now()
		s.last[p.id] = last
		return
	}
	head := audit.SignHead(s.key(), p.id, seq, time.Now().UnixNano(), hash)
	err := appendLine(filepath.Join(p.folder(), headsFile), head.String())
	now := lastHead{seq: seq, at: time.Now()}
	if s.folder != "" {
		now.problem = s.carry(p.id, head.String())
		now.failed = now.problem != nil
	}
	s.last[p.id] = now
	if err != nil {
		p.host.log.Error("the head of a trail cannot be kept", "project", p.id, "error", err)
	}
	switch {
	case now.failed && !last.failed:
		p.event(store.TroubleEntry, "head-unwritten", s.folder, now.problem.Error(), Actor{})
	case !now.failed:
		p.event(store.SystemEntry, "head-signed", fmt.Sprint(seq), hex.EncodeToString(hash), Actor{})
	}
}

func (s *signing) elsewhere(project string) string { return filepath.Join(s.folder, project+".heads") }

// patience is how long a folder, which may be a share that hangs, is waited for.
const patience = 5 * time.Second

var errNoWord = say.New("the folder did not answer in time")

// carry appends a head to a project's file elsewhere, and waits for it no longer than
// patience. While one hangs no other is begun.
func (s *signing) carry(project, head string) error {
	if !s.carrying.TryLock() {
		return errNoWord
	}
	done := make(chan error, 1)
	go func() {
		defer s.carrying.Unlock()
		done <- appendLine(s.elsewhere(project), head)
	}()
	select {
	case err := <-done:
		return err
	case <-time.After(patience):
		return errNoWord
	}
}

func appendLine(path, line string) error {
	f, err := os.OpenFile(path, os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	_, err = io.WriteString(f, line+"\n")
	return errors.Join(err, f.Sync(), f.Close())
}

// Heads reads heads from a file; one that is not there has none.
func Heads(path string) (heads []audit.KeptHead, err error) {
	f, err := os.Open(path)
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	for lines := bufio.NewScanner(f); lines.Scan(); {
		if strings.TrimSpace(lines.Text()) == "" {
			continue
		}
		head, err := audit.ParseHead(lines.Text())
		if err != nil {
			return nil, say.Errorf("%s: %w", path, err)
		}
		heads = append(heads, audit.KeptHead{Head: head, Place: path})
	}
	return heads, nil
}

// hold has a verifier compare a trail with the heads beside it and in a folder.
func hold(v *audit.Verifier, project, dir string, keys audit.PublicKeys, folder string) (farthest audit.KeptHead, elsewhere bool,
	err error) {
	all, err := Heads(filepath.Join(dir, headsFile))
	if err != nil {
		return farthest, false, err
	}
	if folder != "" {
		kept, err := Heads(filepath.Join(folder, project+".heads"))
		if err != nil {
			return farthest, false, err
		}
		for _, h := range kept {
			// A head of another trail says nothing of this one.
			if h.Trail == project && h.Seq > farthest.Seq {
				farthest, elsewhere = h, true
			}
		}
		all = append(all, kept...)
	}
	if err := v.Holds(project, keys, all); err != nil {
		return farthest, elsewhere, err
	}
	if !elsewhere {
		farthest, _ = v.Farthest()
	}
	return farthest, elsewhere, nil
}

// VerifyFolder is VerifyTrail of a data folder's project, which is only read, by
// public keys and a folder of heads that may lie elsewhere; told is told how many records
// hold so far.
func VerifyFolder(ctx context.Context, data, project string, keys audit.PublicKeys, folder string, told func(int64)) (state TrailState,
	err error) {
	secret, err := os.ReadFile(filepath.Join(data, trailKey))
	if err != nil {
		return state, err
	}
	seals, err := audit.ParseRing(string(secret))
	if err != nil {
		return state, say.Errorf("%s: %w", trailKey, err)
	}
	dir := filepath.Join(data, "projects", project)
	v := audit.Verifier{Told: told}
	if state.Head, state.Elsewhere, err = hold(&v, project, dir, keys, folder); err != nil {
		return state, err
	}
	state.Records, state.Parts, err = store.VerifyTrail(ctx, dir, seals, &v)
	return state, err
}

// WriteTrail writes the trail after its closed parts as a signed file, and signs its end.
func (p *Project) WriteTrail(ctx context.Context, w io.Writer) error {
	p.signEnd(ctx)
	return p.writeRecords(w, func(do func(*audit.Record) error) error { return p.records.Trail.Each(ctx, do) })
}

// writeRecords writes records of the trail as a signed file.
func (p *Project) writeRecords(w io.Writer, each func(do func(*audit.Record) error) error) error {
	key := p.host.signing.key()
	return audit.WriteFile(w, key, each,
		func(seq int64, hash []byte) audit.Head {
			return audit.SignHead(key, p.id, seq, time.Now().UnixNano(), hash)
		})
}
