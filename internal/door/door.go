// Package door is the one way by which a value leaves: whoever asks (a person's
// press or entry, a test value, a heartbeat, the server itself) and wherever it
// goes (a device, a stand-in, an internal tag, a trial: a Sink each).
//
// Every command takes one road: it is checked, asked what its element asks,
// waits its turn, is checked, kept as an intent, checked once more, sent, read
// back and concluded. What is refused is kept too. A press that is held is a
// lease (see Hold); it is on disk before the first write and ends by itself.
//
// None of this is a safety function: the safe stop is the machine's own.
package door

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// MaxAge is how old a command may be when its value leaves. An older one is
// refused, never queued: what its person saw is no longer what is there.
const MaxAge = time.Second

// Refused is a refusal in plain words of what somebody asked for.
type Refused struct{ Why error }

func (r *Refused) Error() string { return r.Why.Error() }

// Say gives the words in a language.
func (r *Refused) Say(language string) string { return say.In(language, r.Why) }

// Refusing is a refusal in these words.
func Refusing(format string, args ...any) error { return &Refused{say.Errorf(format, args...)} }

// Who acts: a person at a panel, or the server itself, which has no id.
type Who struct {
	ID    string
	Name  string // full name
	Panel string // name of the enrolled panel, empty elsewhere
	// Session tells one sign-in of a person from another, so that ending one
	// ends what it holds.
	Session string
}

// Sink is where the values of one tag go.
type Sink interface {
	// Write hands a value over, in engineering units and raw, and returns what is
	// read back, raw. Errors wrap link.ErrNotSent where nothing left and
	// link.ErrRefused where it was not taken; any other leaves open whether it
	// was. An urgent value goes ahead of others.
	Write(ctx context.Context, eng, raw value.Value, urgent bool) (back value.Value, err error)
	// Keep holds the way open until done is called, whatever becomes of the
	// program that the value came from.
	Keep() (done func())
}

// Guard answers, at the moment it is asked, whether a command may go on. Every
// command asks it when it comes, when it is its turn, and once more right
// before its value leaves; a hold asks it for as long as it lasts.
type Guard interface {
	// Current refuses once what the person acted on is no longer what runs.
	Current() error
	// Right refuses without the right to do this here.
	Right(ctx context.Context) error
	// Interlock refuses while a condition holds it.
	Interlock() error
}

// Target is a tag as a command meets it.
type Target struct {
	Tag    *tag.Tag // with the limits of its element
	Path   string
	Device string // what the tag's device is stored as, so that a lease can end without its project; empty for none
	// Screen and Element are how the trail names where it was asked for.
	Screen, Element string
	Sink            Sink
	Guard           Guard
	// Read gives the present engineering value of a tag.
	Read func(id string) value.Value
	// Trial leaves no record and nothing on disk, and nobody at the plant waits
	// for it.
	Trial bool
	// Stop is a button that stops something: it goes through even where it cannot
	// be recorded now, and is recorded after.
	Stop bool
	// Excludes are the ids of tags that may not be held or pulsed at the same
	// time; Group is the name of a set of which one at a time may be.
	Excludes []string
	Group    string
}

// lane is what commands to a tag wait for one another by: a trial's are apart from
// the plant's.
func lane(tag string, trial bool) string {
	if trial {
		return "trial " + tag
	}
	return tag
}

func (t *Target) lane() string { return lane(t.Tag.ID, t.Trial) }

// Outcome is how a command ended.
type Outcome struct {
	Outcome string   `json:"outcome" enum:"confirmed,differs,refused,unknown,superseded,unanswered"` // see package audit
	Reason  say.Text `json:"reason"`                                                                 // why, where it is not confirmed
	Old     string   `json:"old"`
	New     string   `json:"new"`
	// Steps is how many of the command's steps went well, those among them that
	// their condition passed over.
	Steps int `json:"steps"`
}

// ended is how a command ended that was not confirmed, and why.
func ended(outcome string, why error) Outcome {
	return Outcome{Outcome: outcome, Reason: say.Text{Why: why}}
}

// Trail keeps records. Append returns once the record is on disk, and
// audit.ErrTaken for an intent whose key was taken before.
type Trail interface {
	Append(ctx context.Context, r audit.Record) (audit.Record, error)
	// AppendAll is Append of several, all or none.
	AppendAll(ctx context.Context, list []audit.Record) ([]audit.Record, error)
}

// Leases keeps on disk what is held, so that a crash leaves nothing on.
type Leases interface {
	Put(ctx context.Context, l Lease) error
	Drop(ctx context.Context, id string) error
	List(ctx context.Context) ([]Lease, error)
}

// Door is the one door of a project. Its methods may be called by many at once.
type Door struct {
	log    *slog.Logger
	ledger ledger
	leases Leases
	// restore finds the sink of a lease that was held when the server ended.
	restore func(Lease) (Sink, error)
	turns   turns

	ctx     context.Context // of what the door does by itself; ends some time after Close
	cancel  context.CancelFunc
	quit    chan struct{} // closed when the door begins to close
	wg      sync.WaitGroup
	mu      sync.Mutex
	closing bool
	keys    map[string]bool  // of commands under way
	places  map[string]bool  // that a delivery is on its way to
	presses map[string]*Hold // by key
	claims  map[string]*claim
}

// New returns a door. restore finds where the value of a lease went that was
// held when the server last ended.
func New(trail Trail, leases Leases, restore func(Lease) (Sink, error), log *slog.Logger) *Door {
	ctx, cancel := context.WithCancel(context.Background())
	return &Door{log: log, ledger: ledger{trail: trail, log: log}, leases: leases, restore: restore, ctx: ctx, cancel: cancel,
		quit: make(chan struct{}),
		keys: map[string]bool{}, places: map[string]bool{}, presses: map[string]*Hold{}, claims: map[string]*claim{}}
}

// enter counts a command in; it is refused once the door is closing.
func (d *Door) enter() error {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.closing {
		return errEnding
	}
	d.wg.Add(1)
	return nil
}

// Close ends every hold, takes nothing more, and waits until each has been let
// go, at most as long as ctx allows. What could not be let go by then stays on
// disk for the next start.
func (d *Door) Close(ctx context.Context) {
	d.mu.Lock()
	d.closing = true
	close(d.quit)
	for _, h := range d.presses {
		h.end(errEnding)
	}
	d.mu.Unlock()
	done := make(chan struct{})
	go func() { d.wg.Wait(); close(done) }()
	select {
	case <-done:
	case <-ctx.Done():
	}
	d.cancel()
	d.ledger.settle(context.Background())
}

// Settle writes what could not be recorded while the disk failed; it returns
// how much is still owed.
func (d *Door) Settle(ctx context.Context) int { return d.ledger.settle(ctx) }

// Owed is how many records wait for the disk.
func (d *Door) Owed() int { return d.ledger.owing() }

// What commands are refused with that others went before.
var (
	errEnding     = &Refused{say.New("the server is ending")}
	errSuperseded = &Refused{say.New("a later entry to the same tag went first")}
	errTaken      = &Refused{say.New("this command was taken already")}
)
