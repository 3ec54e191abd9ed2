// Package host holds the use cases: it opens and closes projects, knows who
// people are and what they may, and asks that before what the packages edit, run
// and record do. Servers and commands call only this package.
package host

import (
	"context"
	"errors"
	"log/slog"
	"os"
	"path/filepath"
	"sort"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/door"
	"readyrail/internal/link"
	"readyrail/internal/machine"
	"readyrail/internal/outbox"
	"readyrail/internal/record"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// Host is everything that runs on one data folder.
type Host struct {
	dir       string
	log       *slog.Logger
	server    *store.Server
	hub       *link.Hub
	servers   serverStatuses
	protocols map[string]link.Protocol
	auditKeys audit.Ring
	signing   *signing
	lock      *os.File
	signIns   *signIns
	signed    signings
	lengths   access.Lengths
	noting    sync.Mutex
	failures  access.FailureNotes // under noting
	accounts  sync.Mutex          // over a change of accounts, from its check to its being kept
	grants    grants
	sessions  *Sessions
	quit      chan struct{}
	alive     context.Context // over as the server ends
	closing   sync.Once
	minding   sync.WaitGroup
	vault     *vault
	badgeKey  []byte
	seconds   seconds
	directory companyDirectory
	backups   backups
	reserve   *store.Reserve
	media     *outbox.Media
	started   time.Time
	load      load

	mu       sync.Mutex
	projects map[string]*Project
	broken   []Broken
}

// Broken is a project that could not be opened, and why. The server and the
// other projects run without it.
type Broken struct {
	ID     string `json:"id"`
	Reason string `json:"reason"`
}

// BrokenFor lists the projects that could not be opened to who manages the
// server; nobody else's rights in them are known.
func (h *Host) BrokenFor(who Actor) []Broken {
	if !who.Owner && !who.Server {
		return []Broken{}
	}
	return append([]Broken{}, h.broken...)
}

// ErrNotFound says that there is no such thing.
var ErrNotFound = store.ErrNotFound

// ErrFull says that the server's disk is full, and nothing was changed.
var ErrFull = store.ErrFull

// Refused is a refusal in plain words of what a person asked for.
type Refused = door.Refused

func refused(format string, args ...any) error { return &Refused{Why: say.Errorf(format, args...)} }

// Actor is who does something, and from where.
type Actor = access.Actor

// Options are what the command line says.
type Options struct {
	// Devices is the allow-list of hosts that devices may be at; see ParseAllow.
	// Empty takes DefaultAllow.
	Devices []string
	// VaultKey opens the vault; empty takes the key file of the data folder.
	VaultKey string
	// Link is the command that runs one link in a process of its own (see
	// ServeLink), to which the protocol's name is added. Empty runs every link in
	// this process, where a library that panics takes all down.
	Link []string
	// Heads is a folder that takes the signed heads of every trail, best on another
	// machine; none where it is empty.
	Heads string
	// Lengths are how long new passwords and PINs have to be.
	Lengths access.Lengths
	// Backups is the folder that takes backups; one in the data folder where it is empty.
	Backups string
	// Version is the one of the program.
	Version string
	// Folders are those that logs may be written out to.
	Folders []outbox.Folder
}

// Open opens a data folder, making it where there is none, and starts every
// project in it. Leases that were held when the server last ended are released
// before anything else.
func Open(dir string, log *slog.Logger, o Options) (*Host, error) {
	allow, err := ParseAllow(o.Devices)
	if err != nil {
		return nil, err
	}
	lengths, err := o.Lengths.Whole()
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(filepath.Join(dir, "projects"), 0o700); err != nil {
		return nil, say.Errorf("the data folder %s cannot be made: %w", dir, err)
	}
	lock, err := lockFolder(dir)
	if err != nil {
		return nil, err
	}
	h := &Host{dir: dir, log: log, lock: lock, projects: map[string]*Project{}, signIns: newSignIns(), quit: make(chan struct{}),
		grants: grants{by: map[string][]access.Grant{}}, started: time.Now(), media: outbox.Watch(o.Folders), lengths: lengths}
	alive, end := context.WithCancel(context.Background())
	h.alive = alive
	go func() { <-h.quit; end() }()
	h.protocols = protocolsOf(o.Link)
	h.hub = link.NewHub(h.protocols, link.Env{Secret: h.secret, Allow: allow.check})
	if err := h.open(o); err != nil {
		h.Close()
		return nil, err
	}
	return h, nil
}

func (h *Host) open(o Options) (err error) {
	h.reserve = store.HoldReserve(h.dir, store.ReserveSize)
	if err := h.reserve.Hold(); err != nil {
		h.log.Warn("no room is held back for the day when the disk is full", "error", err)
	}
	if h.server, err = store.OpenServer(h.dir, nil); err != nil {
		return err
	}
	h.sessions = newSessions(h.server.Sessions(), h.log)
	if h.auditKeys, err = readRing(filepath.Join(h.dir, trailKey)); err != nil {
		return err
	}
	if h.signing, err = openSigning(h.dir, o.Heads); err != nil {
		return err
	}
	if h.vault, err = openVault(h.dir, o.VaultKey); err != nil {
		return err
	}
	ctx := context.Background()
	if err := errors.Join(h.vault.settle(ctx, h.server), h.openBadges(ctx)); err != nil {
		return err
	}
	entries, err := os.ReadDir(filepath.Join(h.dir, "projects"))
	if err != nil {
		return err
	}
	for _, e := range entries {
		if e.IsDir() && !h.halfMade(e.Name()) {
			if _, err := h.openProject(e.Name(), nil, record.Past{}); err != nil {
				h.log.Error("a project could not be opened", "project", e.Name(), "error", err)
				h.broken = append(h.broken, Broken{e.Name(), err.Error()})
			}
		}
	}
	// While a project is missing it is not known which hosts it has.
	if len(h.broken) == 0 {
		if err := h.hostsOf(ctx); err != nil {
			return err
		}
	}
	if err := errors.Join(h.sayOwed(ctx), h.openDirectory(ctx), h.openBackups(ctx, o)); err != nil {
		return err
	}
	h.minding.Add(1)
	go h.mind()
	h.minding.Go(h.mindDirectory)
	h.minding.Go(h.mindBackups)
	return nil
}

// lockFolder makes sure that one process at a time uses a data folder.
func lockFolder(dir string) (*os.File, error) {
	f, err := os.OpenFile(filepath.Join(dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, say.Errorf("the folder %s cannot be written to: %w", dir, errors.Unwrap(err))
	}
	if err := machine.Lock(f); err != nil {
		f.Close()
		return nil, say.Errorf("the folder %s is in use by another Ready Rail", dir)
	}
	return f, nil
}

// mindEveryHost is how often the server's own affairs are looked after.
const mindEveryHost = 2 * time.Second

// enoughToHold is how much room there must be before some is held back again.
const enoughToHold = 3 * store.ReserveSize

// mind keeps runs of failed sign-ins, folds the log of the server's writes in,
// and holds room back again once there is some.
func (h *Host) mind() {
	defer h.minding.Done()
	tick := time.NewTicker(mindEveryHost)
	defer tick.Stop()
	for {
		select {
		case <-h.quit:
			h.keepFailures(context.Background(), true)
			return
		case <-tick.C:
			h.keepFailures(context.Background(), false)
			h.signHeads(context.Background())
			if !h.reserve.Held() && run.FreeBytes(h.dir) > enoughToHold {
				if err := h.reserve.Hold(); err != nil {
					h.log.Warn("no room is held back for the day when the disk is full", "error", err)
				}
			}
			if err := h.server.Fold(context.Background()); err != nil && !errors.Is(err, ErrFull) {
				h.log.Warn("the log of writes is not folded in", "database", "server", "error", err)
			}
		}
	}
}

// Close ends every project, link and database; the first call does.
func (h *Host) Close() { h.closing.Do(h.close) }

func (h *Host) close() {
	close(h.quit)
	h.minding.Wait()
	h.mu.Lock()
	list := h.projects
	h.projects = map[string]*Project{}
	h.mu.Unlock()
	for _, p := range list {
		p.close()
	}
	h.media.Close()
	h.hub.Close()
	if h.server != nil {
		h.server.Close()
	}
	h.lock.Close()
}

// Project finds an open project.
func (h *Host) Project(id string) (*Project, error) {
	h.mu.Lock()
	defer h.mu.Unlock()
	p := h.projects[id]
	if p == nil {
		return nil, ErrNotFound
	}
	return p, nil
}

// Projects lists the open projects by name.
func (h *Host) Projects() []*Project {
	h.mu.Lock()
	defer h.mu.Unlock()
	out := make([]*Project, 0, len(h.projects))
	for _, p := range h.projects {
		out = append(out, p)
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Draft().Site().Name < out[j].Draft().Site().Name })
	return out
}

// CreateProject makes a project from a first version; only the owner may.
func (h *Host) CreateProject(ctx context.Context, who Actor, id string, first *project.Project) (*Project, error) {
	return h.CreateProjectWith(ctx, who, id, first, record.Past{})
}

// CreateProjectWith is CreateProject for one that has a past.
func (h *Host) CreateProjectWith(ctx context.Context, who Actor, id string, first *project.Project, past record.Past) (*Project, error) {
	if !who.Owner && !who.Server {
		return nil, errManages
	}
	if id == "" {
		id = store.NewID("project")
	}
	dir := filepath.Join(h.dir, "projects", id)
	if _, err := os.Stat(dir); err == nil {
		return h.openProject(id, first, past)
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	if err := os.WriteFile(filepath.Join(dir, beingMade), nil, 0o600); err != nil {
		return nil, err
	}
	p, err := h.openProject(id, first, past)
	if err == nil {
		return p, os.Remove(filepath.Join(dir, beingMade))
	}
	_ = os.RemoveAll(dir)
	return nil, err
}

// beingMade is a file in the folder of a project that is not whole yet.
const beingMade = "being-made"

// halfMade takes away a project whose making a start finds unfinished; it was
// answered to nobody.
func (h *Host) halfMade(id string) bool {
	dir := filepath.Join(h.dir, "projects", id)
	if _, err := os.Stat(filepath.Join(dir, beingMade)); err != nil {
		return false
	}
	h.log.Warn("a project that was not made whole is taken away", "project", id)
	if err := os.RemoveAll(dir); err != nil {
		h.log.Error("it is still there", "project", id, "error", err)
	}
	return true
}
