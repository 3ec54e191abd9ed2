package host

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"time"

	"readyrail/internal/backup"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/machine"
	"readyrail/internal/store"
)

// BackupPlan says when backups are taken by themselves, and how.
type BackupPlan struct {
	Every     int    `json:"every" minimum:"0" maximum:"720" doc:"hours from one to the next; 0 for by hand alone"`
	At        string `json:"at" pattern:"^([01][0-9]|2[0-3]):[0-5][0-9]$" doc:"time of the day that they are counted from, in the server's time"`
	Keep      int    `json:"keep" minimum:"1" maximum:"1000" doc:"how many are kept"`
	Recipient string `json:"recipient,omitempty" maxLength:"200" doc:"whom they are encrypted for, an age recipient; nobody where it is empty"`
	Keys      bool   `json:"keys" doc:"the server's own keys go along"`
}

// usualPlan is the one of a server of which nobody said anything.
var usualPlan = BackupPlan{At: "02:30", Keep: 14, Keys: true}

// due tells the last moment, not after now, at which a backup is to be taken; zero for
// by hand alone.
func (p BackupPlan) due(now time.Time) time.Time {
	at, err := time.Parse("15:04", p.At)
	if p.Every <= 0 || err != nil {
		return time.Time{}
	}
	if p.Every%24 == 0 {
		day := time.Date(now.Year(), now.Month(), now.Day(), at.Hour(), at.Minute(), 0, 0, now.Location())
		if day.After(now) {
			day = day.AddDate(0, 0, -1)
		}
		// Every so many days, counted from the same one for good.
		days := p.Every / 24
		return day.AddDate(0, 0, -int(time.Date(day.Year(), day.Month(), day.Day(), 0, 0, 0, 0, time.UTC).Unix()/86400)%days)
	}
	first := time.Date(now.Year(), now.Month(), now.Day()-1, at.Hour(), at.Minute(), 0, 0, now.Location())
	step := time.Duration(p.Every) * time.Hour
	return first.Add(now.Sub(first) / step * step)
}

// BackupOutcome is how the last backup ended.
type BackupOutcome struct {
	Begun   time.Time  `json:"begun"`
	Took    float64    `json:"took" doc:"seconds"`
	Good    bool       `json:"good"`
	Problem string     `json:"problem,omitempty"`
	Why     error      `json:"-"` // the problem, to be told in a reader's language
	Name    string     `json:"name,omitempty"`
	Bytes   int64      `json:"bytes"`
	Last    *time.Time `json:"last,omitempty" doc:"when the last good one was taken"`
}

// BackupState is what who manages the server sees of its backups.
type BackupState struct {
	Plan   BackupPlan          `json:"plan"`
	Folder string              `json:"folder"`
	Beside bool                `json:"beside" doc:"the folder lies on the disk of the data"`
	Busy   bool                `json:"busy"`
	Last   *BackupOutcome      `json:"last,omitempty"`
	Next   *time.Time          `json:"next,omitempty"`
	Kept   []backup.KeptBackup `json:"kept"`
}

// backups is what the server does with its backups.
type backups struct {
	dir     string
	version string

	mu   sync.Mutex
	plan keptPlan
	last *BackupOutcome
	busy bool
}

// keptPlan is a plan and since when it holds: what was due before was not due by it.
type keptPlan struct {
	BackupPlan
	Since time.Time `json:"since"`
}

const (
	backupSetting = "backup"
	backupOutcome = "backup.last"
	// ownBackups is where they lie where nothing else is said.
	ownBackups = "backups"
	mindBackup = 20 * time.Second
	// backupAgain is when one that failed is tried again.
	backupAgain = 30 * time.Minute
)

var errBackupBusy = refused("a backup is being taken already")

func (h *Host) openBackups(ctx context.Context, o Options) error {
	b := &h.backups
	b.version = o.Version
	if b.dir = o.Backups; b.dir == "" {
		b.dir = filepath.Join(h.dir, ownBackups)
	}
	b.plan = keptPlan{BackupPlan: usualPlan}
	var last BackupOutcome
	switch err := h.server.Setting(ctx, backupOutcome, &last); {
	case err == nil:
		b.last = &last
	case !errors.Is(err, ErrNotFound):
		return err
	}
	if err := h.server.Setting(ctx, backupSetting, &b.plan); err != nil && !errors.Is(err, ErrNotFound) {
		return err
	}
	return nil
}

// mindBackups takes those that are due.
func (h *Host) mindBackups() {
	tick := time.NewTicker(mindBackup)
	defer tick.Stop()
	for {
		select {
		case <-h.alive.Done():
			return
		case now := <-tick.C:
			if h.backups.isDue(now) && h.backups.begin() {
				h.takeBackup(h.alive)
			}
		}
	}
}

// isDue tells whether one is due since the last began, or since the plan holds. One that
// failed is tried again after a while.
func (b *backups) isDue(now time.Time) bool {
	b.mu.Lock()
	defer b.mu.Unlock()
	due, begun := b.plan.due(now), b.plan.Since
	if b.last != nil && b.last.Begun.After(begun) {
		begun = b.last.Begun
	}
	switch {
	case due.IsZero():
		return false
	case b.last != nil && !b.last.Good && now.Sub(begun) > backupAgain:
		return true
	}
	return begun.Before(due)
}

// SetBackupPlan says when backups are taken; who manages the server may.
func (h *Host) SetBackupPlan(ctx context.Context, who Actor, plan BackupPlan) error {
	if !who.Server {
		return errManages
	}
	if _, err := backup.Recipient(plan.Recipient); err != nil {
		return refused("%w", err)
	}
	if _, err := time.Parse("15:04", plan.At); err != nil {
		return refused("a time of the day is written as 02:30")
	}
	if plan.Keep < 1 || plan.Every < 0 {
		return refused("one backup is kept at least")
	}
	kept := keptPlan{plan, time.Now()}
	if err := h.server.PutSetting(ctx, backupSetting, kept); err != nil {
		return err
	}
	b := &h.backups
	b.mu.Lock()
	b.plan = kept
	b.mu.Unlock()
	h.recordEverywhere(ctx, who, audit.Backup, planInWords(plan))
	return nil
}

func planInWords(p BackupPlan) string {
	if p.Every == 0 {
		return fmt.Sprintf("by hand alone, %d kept", p.Keep)
	}
	return fmt.Sprintf("every %d hours from %s, %d kept", p.Every, p.At, p.Keep)
}

// BeginBackup begins one now; who manages the server may. It goes on though the page that
// asked is closed, and how it ended is told by Backups.
func (h *Host) BeginBackup(ctx context.Context, who Actor) error {
	if !who.Server {
		return errManages
	}
	b := &h.backups
	if !b.begin() {
		return errBackupBusy
	}
	h.recordEverywhere(ctx, who, audit.Backup, "begun by hand")
	h.minding.Go(func() { h.takeBackup(h.alive) })
	return nil
}

// begin takes the turn; false where somebody has it.
func (b *backups) begin() bool {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.busy {
		return false
	}
	b.busy = true
	return true
}

// takeBackup takes one by the plan, whose turn it is, and tells how it ended.
func (h *Host) takeBackup(ctx context.Context) {
	b := &h.backups
	b.mu.Lock()
	plan, out := b.plan.BackupPlan, BackupOutcome{Begun: time.Now()}
	if b.last != nil {
		out.Last = b.last.Last
	}
	b.mu.Unlock()
	m, err := h.copyAll(ctx, plan)
	out.Took = time.Since(out.Begun).Seconds()
	if err == nil {
		out.Good, out.Name, out.Bytes, out.Last = true, m.Name(), m.Bytes(), &m.At
		err = backup.Prune(b.dir, plan.Keep)
	}
	if err != nil {
		out.Good, out.Problem, out.Why = false, err.Error(), err
	}
	b.mu.Lock()
	b.last, b.busy = &out, false
	b.mu.Unlock()
	h.tellBackup(&out)
	if err := h.server.PutSetting(context.WithoutCancel(ctx), backupOutcome, out); err != nil {
		h.log.Error("how a backup ended is not kept", "error", err)
	}
}

func (h *Host) copyAll(ctx context.Context, plan BackupPlan) (*backup.Manifest, error) {
	to, err := backup.Recipient(plan.Recipient)
	if err != nil {
		return nil, err
	}
	// Ends are sealed once a second; the backup's are to be the last ones.
	for _, p := range h.Projects() {
		if err := p.records.Trail.SealEnd(ctx); err != nil {
			return nil, err
		}
	}
	return CopyFolder(ctx, h.dir, h.backups.dir, backup.Options{Version: h.backups.version, To: to, Keys: plan.Keys})
}

// CopyFolder takes a backup of a data folder; a server may work on it.
func CopyFolder(ctx context.Context, data, into string, o backup.Options) (*backup.Manifest, error) {
	if err := isDataFolder(data); err != nil {
		return nil, err
	}
	o.Skip = append(o.Skip, ownBackups)
	return backup.Take(ctx, data, into, o)
}

// isDataFolder refuses a folder that no server has worked in.
func isDataFolder(dir string) error {
	if _, err := os.Stat(filepath.Join(dir, "server.db")); err != nil {
		return say.Errorf("%s is no data folder", dir)
	}
	return nil
}

// tellBackup has every journal say that backups fail, and that they are taken again.
func (h *Host) tellBackup(now *BackupOutcome) {
	kind, what, text := store.SystemEntry, "backup-taken", now.Name
	if !now.Good {
		kind, what, text = store.TroubleEntry, "backup-failed", now.Problem
		h.log.Error("no backup could be taken", "error", now.Problem)
	}
	for _, p := range h.Projects() {
		p.event(kind, what, h.backups.dir, text, Actor{})
	}
}

// recordEverywhere keeps in every project's trail what was done to what they share; where
// a disk fails it is owed.
func (h *Host) recordEverywhere(ctx context.Context, who Actor, what, text string) {
	for _, p := range h.Projects() {
		p.Note(ctx, who, what, text)
	}
}

// Backups tells how backups stand, to who manages the server.
func (h *Host) Backups(who Actor) (*BackupState, error) {
	if !who.Server {
		return nil, errManages
	}
	b := &h.backups
	kept, err := backup.List(b.dir)
	if err != nil {
		return nil, err
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	out := &BackupState{Plan: b.plan.BackupPlan, Folder: b.dir, Beside: sameDisk(h.dir, b.dir), Busy: b.busy, Kept: kept}
	if b.last != nil {
		last := *b.last
		out.Last = &last
	}
	if due := b.plan.due(time.Now()); !due.IsZero() {
		next := due.Add(time.Duration(b.plan.Every) * time.Hour)
		out.Next = &next
	}
	return out, nil
}

// BackupFigures are what system tags tell: hours since the last good one, -1 for never;
// whether the last one failed; and its size in MB.
func (h *Host) BackupFigures(now time.Time) (age float64, failed bool, size float64) {
	b := &h.backups
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.last == nil {
		return -1, false, 0
	}
	age = -1
	if b.last.Last != nil {
		age = now.Sub(*b.last.Last).Hours()
	}
	return age, !b.last.Good, float64(b.last.Bytes) / 1e6
}

// sameDisk tells whether two folders lie on one disk; the second may not be there yet.
func sameDisk(a, b string) bool {
	for b != filepath.Dir(b) {
		if _, err := os.Stat(b); err == nil {
			break
		}
		b = filepath.Dir(b)
	}
	return machine.SameDisk(a, b)
}
