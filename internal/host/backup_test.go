package host_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/host"
	"readyrail/internal/store"
)

// backedUp waits until no backup is being taken, and tells how the last one ended.
func (s *proved) backedUp() *host.BackupOutcome {
	s.t.Helper()
	for end := time.Now().Add(time.Minute); time.Now().Before(end); time.Sleep(5 * time.Millisecond) {
		state, err := s.h.Backups(s.who)
		if err != nil {
			s.t.Fatal(err)
		}
		if !state.Busy && state.Last != nil {
			return state.Last
		}
	}
	s.t.Fatal("the backup does not end")
	return nil
}

// TestAServerComesBack: what was answered as done before a backup was begun is in the
// server that is made of it, its trail is whole, it says where it comes from, and nobody
// is signed in there.
func TestAServerComesBack(t *testing.T) {
	beside(t)
	s := newProved(t)
	s.work(5)
	if err := s.h.Sessions().Commit("a token", []byte("x"), time.Now().Add(time.Hour)); err != nil {
		t.Fatal(err)
	}
	before, _, err := s.p.Trail(ctx, store.TrailFilter{}, 100)
	if err != nil {
		t.Fatal(err)
	}
	stop := make(chan struct{})
	worked := make(chan error)
	go func() {
		var err error
		for err == nil {
			select {
			case <-stop:
				worked <- err
				return
			default:
				err = s.p.Record(ctx, s.who, audit.Proof, "meanwhile")
			}
		}
		worked <- err
	}()
	if err := s.h.BeginBackup(ctx, s.who); err != nil {
		t.Fatal(err)
	}
	last := s.backedUp()
	close(stop)
	if err := <-worked; err != nil || !last.Good {
		t.Fatalf("%+v %v", last, err)
	}
	state, err := s.h.Backups(s.who)
	if err != nil || len(state.Kept) != 1 || !state.Beside || state.Last.Bytes == 0 {
		t.Fatalf("%+v %v", state, err)
	}
	if age, failed, size := s.h.BackupFigures(time.Now()); age < 0 || age > 0.1 || failed || size <= 0 {
		t.Errorf("the tags tell %v %v %v", age, failed, size)
	}
	again := filepath.Join(t.TempDir(), "again")
	r, err := host.Restore(ctx, filepath.Join(state.Folder, last.Name), again, nil)
	if err != nil {
		t.Fatal(err)
	}
	if len(r.Projects) != 1 || r.Projects[0].Name != "Yard" || r.Projects[0].Trail != nil || r.Projects[0].Records < int64(len(before)) ||
		r.Keyless || r.Projects[0].Things == 0 {
		t.Errorf("%+v", r)
	}
	s.close()
	s.data = again
	s.open()
	if _, found, _ := s.h.Sessions().Find("a token"); found {
		t.Error("somebody is signed in")
	}
	after, _, err := s.p.Trail(ctx, store.TrailFilter{Whats: []string{audit.Backup}}, 10)
	if err != nil || len(after) == 0 || !strings.Contains(after[0].Reason, "brought back from the backup of") {
		t.Errorf("%+v %v", after, err)
	}
	// The folder for heads knows of what came after the backup: that is the truth, and is said.
	if _, err := s.p.VerifyTrail(ctx, nil); err == nil || !strings.Contains(err.Error(), "the head of") {
		t.Errorf("beside heads from elsewhere: %v", err)
	}
}

// TestAProjectComesBack: one that is gone from its server, from a backup of it; where it
// is still there, nothing is done.
func TestAProjectComesBack(t *testing.T) {
	beside(t)
	s := newProved(t)
	s.work(3)
	if err := s.h.BeginBackup(ctx, s.who); err != nil {
		t.Fatal(err)
	}
	from := filepath.Join(s.data, "backups", s.backedUp().Name)
	try := func(id string) error {
		_, err := host.RestoreProject(ctx, from, id, s.data, nil)
		return err
	}
	if err := try("yard"); err == nil || !strings.Contains(err.Error(), "in use by another") {
		t.Errorf("beside a running server: %v", err)
	}
	s.close()
	for id, says := range map[string]string{"yard": "there is already a project",
		"mill": "has no project mill", "../yard": "no project's id"} {
		if err := try(id); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", id, err)
		}
	}
	if err := os.RemoveAll(filepath.Join(s.data, "projects", "yard")); err != nil {
		t.Fatal(err)
	}
	r, err := host.RestoreProject(ctx, from, "yard", s.data, nil)
	if err != nil || len(r.Projects) != 1 || r.Projects[0].Trail != nil || r.Projects[0].Name != "Yard" {
		t.Fatalf("%+v %v", r, err)
	}
	s.open()
	said, _, err := s.p.Trail(ctx, store.TrailFilter{Whats: []string{audit.Backup}}, 10)
	if err != nil || len(said) == 0 || !strings.Contains(said[0].Reason, "yard brought back") {
		t.Errorf("%+v %v", said, err)
	}
}

// TestABackupThatFails is told by journal, tag and state, and leaves the good one be.
func TestABackupThatFails(t *testing.T) {
	beside(t)
	s := newProved(t)
	s.close()
	in := filepath.Join(t.TempDir(), "share")
	if err := os.WriteFile(in, nil, 0o600); err != nil { // no folder can be made there
		t.Fatal(err)
	}
	h, err := host.Open(s.data, quiet, host.Options{Backups: in})
	if err != nil {
		t.Fatal(err)
	}
	s.h = h
	s.p, _ = h.Project("yard")
	if err := s.h.BeginBackup(ctx, s.who); err != nil {
		t.Fatal(err)
	}
	var last *host.BackupOutcome
	for end := time.Now().Add(time.Minute); last == nil && time.Now().Before(end); time.Sleep(5 * time.Millisecond) {
		if _, failed, _ := s.h.BackupFigures(time.Now()); failed {
			last = &host.BackupOutcome{}
		}
	}
	if last == nil {
		t.Fatal("it is not told that it failed")
	}
	found := false
	for end := time.Now().Add(time.Minute); !found && time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		list, _, err := s.p.Journal(ctx, s.who, store.JournalFilter{}, 100)
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range list {
			found = found || e.What == "backup-failed" && strings.Contains(e.Text, "folder for backups cannot be made")
		}
	}
	if !found {
		t.Error("the journal does not say so")
	}
}

func TestWhoPlansBackups(t *testing.T) {
	beside(t)
	s := newProved(t)
	good := host.BackupPlan{Every: 24, At: "02:30", Keep: 3}
	other := host.Actor{ID: "x", Owner: true}
	_, looks := s.h.Backups(other)
	for what, err := range map[string]error{"look": looks, "plan": s.h.SetBackupPlan(ctx, other, good), "take": s.h.BeginBackup(ctx, other)} {
		if err == nil {
			t.Errorf("somebody who does not manage the server may %s", what)
		}
	}
	for says, plan := range map[string]host.BackupPlan{
		"a time of the day":  {Every: 24, At: "noon", Keep: 3},
		"no age recipient":   {Every: 24, At: "02:30", Keep: 3, Recipient: "ssh-ed25519 AAAA"},
		"is written as 02:3": {Every: 24, At: "24:00", Keep: 3},
		"one backup is kept": {Every: 24, At: "02:30"},
	} {
		if err := s.h.SetBackupPlan(ctx, s.who, plan); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%+v: %v", plan, err)
		}
	}
	if err := s.h.SetBackupPlan(ctx, s.who, good); err != nil {
		t.Fatal(err)
	}
	s.close()
	s.open()
	state, err := s.h.Backups(s.who)
	if err != nil || state.Plan != good || state.Next == nil || !state.Next.After(time.Now()) {
		t.Errorf("after a start: %+v %v", state, err)
	}
}
