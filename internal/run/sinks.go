package run

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/door"
	"readyrail/internal/engine"
	"readyrail/internal/link"
	"readyrail/internal/store"
)

// Where the values that go through the door go.

// SinkOf finds the sink of a tag of a version that a program runs, and what a
// lease keeps of its device.
func (r *Runs) SinkOf(program Program, version *project.Project, t *tag.Tag) (sink door.Sink, kept string, err error) {
	path, _ := version.Path(t.ID)
	switch {
	case t.OfField():
		return nil, "", refused("%s is of the recipe that is open at a page: it is entered and saved there", path)
	case !t.Writable():
		return nil, "", refused("%s can only be read", path)
	}
	if program == Try {
		if t.Source == tag.Device && !r.try.standIn(t.Device) && version.Devices[t.Device].Protocol != device.StandIn {
			return nil, "", refused("%s is read from its device here, and Try does not write to devices: put the device on its stand-in", path)
		}
		return trialSink{r, t}, "", nil
	}
	if t.Source == tag.Internal {
		return internalSink{r, program, t}, "", nil
	}
	d := version.Devices[t.Device]
	if d == nil {
		return nil, "", refused("the tag's device no longer exists")
	}
	doc, err := json.Marshal(d)
	if err != nil {
		return nil, "", err
	}
	sink, err = r.sinkAt(d, t)
	return sink, string(doc), err
}

func (r *Runs) sinkAt(d *device.Device, t *tag.Tag) (door.Sink, error) {
	if d.Protocol == device.StandIn {
		return standInSink{r, t}, nil
	}
	pt, ok := point(d, t)
	if !ok {
		return nil, refused("the tag has no good address")
	}
	return deviceSink{r, *d, pt, t.ID}, nil
}

// sinkOfLease finds where the value of a lease went, by what the lease keeps.
func (r *Runs) sinkOfLease(l door.Lease) (door.Sink, error) {
	var t tag.Tag
	if err := json.Unmarshal(l.TagDoc, &t); err != nil {
		return nil, err
	}
	if t.Source == tag.Internal {
		return internalSink{r, Release, &t}, nil
	}
	var d device.Device
	if err := json.Unmarshal(l.DeviceDoc, &d); err != nil {
		return nil, err
	}
	return r.sinkAt(&d, &t)
}

// deviceSink writes over the link that the device's programs share.
type deviceSink struct {
	runs  *Runs
	dev   device.Device
	point link.Point
	tag   string
}

func (s deviceSink) Write(ctx context.Context, _, raw value.Value, urgent bool) (value.Value, error) {
	back, err := s.runs.o.Hub.Write(ctx, s.dev, s.point, raw, urgent)
	// What was read back shows at once and not only at the next poll.
	if err == nil && !back.Quality.IsBad() && !s.point.Apart() {
		s.runs.eachEngine(func(e *engine.Engine) {
			if slot, ok := e.Program().Slot(s.tag); ok {
				e.Update([]engine.Update{{Slot: slot, Value: back.At(time.Now())}}, time.Now())
			}
		})
	}
	return back, err
}

// Keep keeps the connection for as long as a release value takes, whatever is
// released meanwhile.
func (s deviceSink) Keep() func() {
	owner := s.runs.o.ID + "/lease/" + store.NewID("lease")
	s.runs.o.Hub.Set(owner, []link.DeviceSubscriptions{{Device: s.dev}}, func([]link.Reading) {})
	return func() { s.runs.o.Hub.Set(owner, nil, nil) }
}

// standInSink writes to a device that is a stand-in, in draft and release.
type standInSink struct {
	runs *Runs
	tag  *tag.Tag
}

func (s standInSink) Write(_ context.Context, eng, raw value.Value, _ bool) (value.Value, error) {
	// A stand-in begins anew with its engine: without one there is nothing that
	// could still be on.
	s.runs.eachEngine(func(e *engine.Engine) { e.SetStandIn(s.tag.ID, eng, time.Now()) })
	return raw, nil
}

func (s standInSink) Keep() func() { return func() {} }

// internalSink writes to an internal tag of a program. A retained one is on
// disk before it counts as written.
type internalSink struct {
	runs    *Runs
	program Program
	tag     *tag.Tag
}

func (s internalSink) Write(ctx context.Context, eng, raw value.Value, urgent bool) (value.Value, error) {
	runner := s.runs.running(s.program).runner.Load()
	// Before anything runs, what is kept is what the tag will begin with.
	if s.tag.Retain && (runner == nil || s.program == s.runs.keeper()) {
		s.runs.layer.retaining.Lock()
		defer s.runs.layer.retaining.Unlock()
		if err := s.runs.retain(ctx, map[string]string{s.tag.ID: eng.Text()}); err != nil && !urgent {
			return value.Value{}, say.Errorf("%w: it cannot be kept: %v", link.ErrNotSent, err)
		}
	}
	if runner == nil {
		return raw, nil
	}
	done := false
	runner.Do(func(e *engine.Engine) { done = e.SetInternal(s.tag.ID, eng, time.Now()) })
	if !done {
		return value.Value{}, say.Errorf("%w: a release took the tag away", door.ErrGone)
	}
	return raw, nil
}

func (s internalSink) Keep() func() { return func() {} }

// trialSink writes within the run of a trial.
type trialSink struct {
	runs *Runs
	tag  *tag.Tag
}

var errTrialOver = say.Errorf("%w: the draft is no longer tried", door.ErrGone)

func (s trialSink) Write(_ context.Context, eng, raw value.Value, _ bool) (value.Value, error) {
	runner := s.runs.try.runner.Load()
	if runner == nil {
		return value.Value{}, errTrialOver
	}
	done := false
	runner.Do(func(e *engine.Engine) {
		if s.tag.Source == tag.Internal {
			done = e.SetInternal(s.tag.ID, eng, time.Now())
		} else {
			done = e.SetStandIn(s.tag.ID, eng, time.Now())
		}
	})
	if !done {
		return value.Value{}, errors.Join(errTrialOver, refused("the draft has changed"))
	}
	return raw, nil
}

func (s trialSink) Keep() func() { return func() {} }
