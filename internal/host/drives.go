package host

import (
	"context"
	"crypto/rand"
	"errors"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/door"
	"readyrail/internal/store"
)

const (
	// driveLooks is how often Execute is looked at.
	driveLooks = 100 * time.Millisecond
	// driveTells is how long an answer's write may take, and how often one that
	// failed is tried again.
	driveTells = 2 * time.Second
)

// drives are the function blocks of the release: one for each target of each book
// that tags drive.
type drives struct {
	mu     sync.Mutex
	at     map[string]bool // by book and target
	closed bool            // none begins any more
	quit   chan struct{}
	wg     sync.WaitGroup
}

func (d *drives) init() { d.at, d.quit = map[string]bool{}, make(chan struct{}) }

func (d *drives) close() {
	d.mu.Lock()
	d.closed = true
	d.mu.Unlock()
	close(d.quit)
	d.wg.Wait()
}

// mindDrives begins the blocks that the release has and that do not run yet; one
// that it has no longer ends by itself.
func (p *Shelf) mindDrives() {
	version := p.sends()
	if version == nil {
		return
	}
	d := &p.drives
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.closed {
		return
	}
	for id, b := range version.Books {
		if b.Sending.Drive == nil {
			continue
		}
		for _, target := range version.BookTargets(b) {
			key := id + " " + target
			if d.at[key] {
				continue
			}
			d.at[key] = true
			d.wg.Go(func() {
				p.bounded("tags that drive a book of recipes", (&drive{p: p, book: id, target: target, told: map[string]value.Value{}}).run)
				d.mu.Lock()
				defer d.mu.Unlock()
				delete(d.at, key)
			})
		}
	}
}

// drive is one block at work.
type drive struct {
	p            *Shelf
	book, target string
	block        recipe.Block
	told         map[string]value.Value // what was written last, by the tag
	failed       time.Time              // when an answer could not be written
}

func (d *drive) run() {
	ticker := time.NewTicker(driveLooks)
	defer ticker.Stop()
	for {
		select {
		case <-d.p.drives.quit:
			return
		case <-ticker.C:
		}
		version := d.p.sends()
		if version == nil || version.Books[d.book] == nil || version.Books[d.book].Sending.Drive == nil {
			return
		}
		d.look(version, version.Books[d.book])
	}
}

// look is one round: what is asked is carried out within it.
func (d *drive) look(version *project.Project, b *recipe.Book) {
	asks := b.Sending.Drive
	execute, chosen := version.TargetTag(asks.Execute, d.target), version.TargetTag(asks.Chosen, d.target)
	if execute == nil || chosen == nil {
		return
	}
	d.p.looks.keep(d.p.runs, d.p.program(), []string{execute.ID, chosen.ID})
	v := d.p.ReadTags(d.p.program(), []string{execute.ID})[0].Value
	if d.block.Step(v.Bool(), !v.Quality.IsBad(), time.Now()) {
		d.tell(version, asks)
		d.block.End(d.deliver(version, b, execute, chosen), time.Now())
	}
	d.tell(version, asks)
}

// deliver carries out what is asked for, and returns how it ended as ErrorID tells
// it.
func (d *drive) deliver(version *project.Project, b *recipe.Book, execute, chosen *tag.Tag) int64 {
	p, ctx := d.p, context.Background()
	path, _ := version.Path(execute.ID)
	who := Actor{ID: "book:" + b.ID, Name: b.Name + " by " + path, Role: b.Sending.Drive.Role}
	order := DeliveryOrder{Key: "drive-" + rand.Text(), Given: Given{Reason: "asked for by " + path}}
	refuse := func(id int64, why error) int64 {
		place := version.TargetPlace(b, d.target)
		_ = p.refuse(ctx, door.Command{Who: through(who), Key: order.Key, Reason: order.Reason}, place, "recipe", why)
		return id
	}
	if err := p.Require(ctx, who, access.Deliver, version.TargetArea(b, d.target)); err != nil {
		return refuse(recipe.DriveRight, err)
	}
	named := p.ReadTags(p.program(), []string{chosen.ID})[0].Value
	name := strings.TrimSpace(named.Text())
	r, err := p.store.Named(ctx, b.ID, recipe.NameKey(name))
	order.DeliveryAsk = DeliveryAsk{Recipe: r.ID, Version: r.Latest, Target: d.target}
	if b.Approved {
		order.Version = r.Approved
	}
	switch {
	case named.Quality.IsBad():
		return refuse(recipe.DriveUnknown, refused("which recipe is asked for cannot be told: %s", named.Quality.Reason()))
	case errors.Is(err, store.ErrNotFound):
		return refuse(recipe.DriveUnknown, refused("%s has no recipe %q", b.Name, name))
	case err != nil:
		return refuse(recipe.DriveRefused, err)
	case order.Version == 0:
		return refuse(recipe.DriveUnknown, refused("no version of %s is approved", r.Name))
	}
	seq, err := p.Deliver(ctx, who, b.ID, order)
	if err != nil {
		return recipe.DriveRefused
	}
	return d.ended(seq)
}

// ended waits for the end of a delivery. The server's own end is not waited for:
// the next start finds what was left.
func (d *drive) ended(seq int64) int64 {
	for {
		if d.p.under.get(seq) == nil {
			row, err := d.p.delivery(context.Background(), seq)
			switch {
			case err != nil:
				return recipe.DriveHalf
			case row.Ended == 0:
			case row.State == string(door.Delivered):
				return 0
			case row.State == string(door.WasBack):
				return recipe.DriveWentBack
			case row.State == string(door.Untouched):
				return recipe.DriveRefused
			default:
				return recipe.DriveHalf
			}
		}
		select {
		case <-d.p.drives.quit:
			return recipe.DriveHalf
		case <-time.After(driveLooks / 2):
		}
	}
}

// tell writes the answers that are not there yet.
func (d *drive) tell(version *project.Project, asks *recipe.Drive) {
	if time.Since(d.failed) < driveTells {
		return
	}
	a := d.block.Answer()
	for _, x := range []struct {
		ref string
		v   func(t *tag.Tag) (value.Value, error)
	}{
		{asks.ErrorID, func(t *tag.Tag) (value.Value, error) {
			return value.FromFloat(t.EngineeringType().Kind, float64(a.ErrorID))
		}},
		{asks.Done, func(*tag.Tag) (value.Value, error) { return value.Bool(a.Done), nil }},
		{asks.Error, func(*tag.Tag) (value.Value, error) { return value.Bool(a.Error), nil }},
		{asks.Busy, func(*tag.Tag) (value.Value, error) { return value.Bool(a.Busy), nil }},
	} {
		t := version.TargetTag(x.ref, d.target)
		if t == nil {
			continue
		}
		v, err := x.v(t)
		if err != nil || d.told[t.ID].Same(v) {
			continue
		}
		if err := d.write(version, t, v); err != nil {
			d.failed = time.Now()
			d.p.host.log.Warn("what a book tells its controller is not taken", "project", d.p.id, "tag", t.Name, "error", err)
			return
		}
		d.told[t.ID] = v
	}
}

func (d *drive) write(version *project.Project, t *tag.Tag, v value.Value) error {
	raw, err := t.ToRaw(v)
	if err != nil {
		return err
	}
	sink, _, err := d.p.runs.SinkOf(d.p.program(), version, t)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(context.Background(), driveTells)
	defer cancel()
	back, err := sink.Write(ctx, v, raw, false)
	if err == nil && !back.Same(raw) {
		err = say.Errorf("%s reads back as %s", t.Name, back.Text())
	}
	return err
}
