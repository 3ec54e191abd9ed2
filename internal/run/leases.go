package run

import (
	"context"
	"time"

	"readyrail/internal/door"
	"readyrail/internal/store"
)

// leases keeps in state.db what is held.
type leases struct{ state *store.State }

func (k leases) Put(ctx context.Context, l door.Lease) error {
	return k.state.PutLease(ctx, store.Lease{ID: l.ID, Tag: l.Tag, Path: l.Path, Person: l.Person, Name: l.Name, Panel: l.Panel,
		Screen:  l.Screen,
		Element: l.Element, ReleaseValue: l.ReleaseValue, Device: l.DeviceDoc, TagDoc: l.TagDoc, At: l.At.UnixNano()})
}

func (k leases) Drop(ctx context.Context, id string) error { return k.state.DropLease(ctx, id) }

func (k leases) List(ctx context.Context) ([]door.Lease, error) {
	rows, err := k.state.Leases(ctx)
	out := make([]door.Lease, len(rows))
	for i, l := range rows {
		out[i] = door.Lease{ID: l.ID, Tag: l.Tag, Path: l.Path, Person: l.Person, Name: l.Name, Panel: l.Panel, Screen: l.Screen,
			Element: l.Element, ReleaseValue: l.ReleaseValue, DeviceDoc: l.Device, TagDoc: l.TagDoc, At: time.Unix(0, l.At)}
	}
	return out, err
}
