package run

import (
	"context"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/door"
	"readyrail/internal/link"
	"readyrail/internal/store"
)

// mindClock sets a controller's clock when its link has come up, and again when
// it is time.
func (r *Runs) mindClock(ctx context.Context, release *project.Project, d *device.Device, b *beat) {
	up := r.o.Hub.Status(*d).State == link.Up
	connected := up && !b.up
	b.up = up
	now := time.Now()
	if !up || !connected && now.Sub(b.clockAt) < time.Duration(d.Clock.Hours)*time.Hour {
		return
	}
	b.clockAt = now
	if out, err := r.setClock(ctx, release, d, now); err != nil || out.Outcome != "confirmed" {
		r.o.Log.Warn("a controller's clock was not set", "device", d.Name, "reason", out.Reason, "error", err)
	}
}

// setClock writes the parts of date and time in their order, as one command.
func (r *Runs) setClock(ctx context.Context, release *project.Project, d *device.Device, now time.Time) (door.Outcome, error) {
	at := now.Local()
	if d.Clock.UTC {
		at = now.UTC()
	}
	numbers := map[string]int64{"unix": now.Unix(), "year": int64(at.Year()), "month": int64(at.Month()), "day": int64(at.Day()),
		"hour": int64(at.Hour()), "minute": int64(at.Minute()), "second": int64(at.Second()), "set": 1}
	order := door.Command{Who: door.Who{Name: ServerName}, Key: store.NewID("clock"), At: now}
	for _, part := range d.Clock.Parts() {
		t, ok := release.Tag(part.Tag)
		if !ok {
			continue
		}
		sink, kept, err := r.SinkOf(Release, release, t)
		if err != nil {
			return door.Outcome{}, err
		}
		path, _ := release.Path(t.ID)
		n := numbers[part.Name]
		order.Steps = append(order.Steps, door.Step{
			Target: &door.Target{Tag: t, Path: path, Element: "clock", Sink: sink, Device: kept, Guard: ownGuard{r, release},
				Read: func(id string) value.Value { return r.read(Release, id) }},
			Value: func(value.Value) (value.Value, error) { return value.FromFloat(t.Kind(), float64(n)) },
		})
	}
	if len(order.Steps) == 0 {
		return door.Outcome{Outcome: "confirmed"}, nil
	}
	return r.door.Do(ctx, order)
}

// ServerName is what the trail calls the server where it acts by itself.
const ServerName = "Ready Rail"

// ownGuard stands before what the server writes by itself: it may while the
// release still says so.
type ownGuard struct {
	runs    *Runs
	release *project.Project
}

func (g ownGuard) Current() error {
	if g.runs.Version(Release) != g.release {
		return refused("a new release came meanwhile")
	}
	return nil
}
func (g ownGuard) Right(context.Context) error { return nil }
func (g ownGuard) Interlock() error            { return nil }
