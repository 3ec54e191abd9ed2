package opcua

import (
	"context"

	"github.com/gopcua/opcua/ua"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// mostNodes is how many values one request has: servers bound it, and the smallest
// of them take a hundred (IEC 62541-5, 6.3.11).
const mostNodes = 100

// Requests parts points into those that one request of the Write service takes (IEC
// 62541-4, 5.10.4). A member of a structure goes alone: the whole is read before.
func Requests(_ device.Device, points []link.Point) (out [][]int) {
	var together []int
	for i, p := range points {
		n, err := parse(p.WriteText)
		if err != nil || len(n.members) > 1 || len(n.members) == 1 && n.members[0].Name != "" {
			out = append(out, []int{i})
			continue
		}
		if together = append(together, i); len(together) == mostNodes {
			out, together = append(out, together), nil
		}
	}
	if len(together) > 0 {
		out = append(out, together)
	}
	return out
}

// WriteBatch writes several values by one request. A server takes or refuses each by
// itself: where it took some and not others, the error leaves open which.
func (d *Driver) WriteBatch(ctx context.Context, _ device.Device, points []link.Point, values []value.Value) error {
	request := &ua.WriteRequest{}
	for i, p := range points {
		w, err := d.writing(ctx, p, values[i])
		if err != nil {
			return say.Errorf("%w: %w", link.ErrNotSent, err)
		}
		request.NodesToWrite = append(request.NodesToWrite, w)
	}
	return d.timed(ctx, func(ctx context.Context) error {
		res, err := d.client.Write(ctx, request)
		if err != nil {
			return err
		}
		if len(res.Results) != len(points) {
			// Whether they were taken is not known.
			return say.Errorf("the server answered a write of %d values with %d results", len(points), len(res.Results))
		}
		return refusals(points, res.Results)
	})
}

// refusals is what the server did not take.
func refusals(points []link.Point, results []ua.StatusCode) error {
	refused, first := 0, 0
	for i, status := range results {
		if status != ua.StatusOK {
			if refused == 0 {
				first = i
			}
			refused++
		}
	}
	switch {
	case refused == 0:
		return nil
	case refused == len(results) && refused == 1:
		return say.Errorf("%w: %s", link.ErrRefused, statusText(results[0]))
	case refused == len(results):
		return say.Errorf("%w all %d values; %s: %s", link.ErrRefused, refused, points[first].WriteText, statusText(results[first]))
	}
	return say.Errorf("the server refused %d of %d values; the first is %s: %s", refused, len(results), points[first].WriteText,
		statusText(results[first]))
}

// ReadBatch reads several values back, as many by one request as it takes. One that
// the server does not give is bad.
func (d *Driver) ReadBatch(ctx context.Context, _ device.Device, points []link.Point) ([]value.Value, error) {
	nodes := make([]node, len(points))
	ids := make([]*ua.NodeID, len(points))
	for i, p := range points {
		n, err := parse(p.WriteText)
		if err != nil {
			return nil, err
		}
		if len(n.members) > 0 {
			d.learn(ctx, n.id)
		}
		nodes[i], ids[i] = n, n.id
	}
	out := make([]value.Value, 0, len(points))
	for from := 0; from < len(points); from += mostNodes {
		list, err := d.readAll(ctx, ids[from:min(from+mostNodes, len(ids))], ua.AttributeIDValue)
		if err != nil {
			return nil, err
		}
		for i, v := range list {
			out = append(out, d.convert(v, nodes[from+i], points[from+i].Type))
		}
	}
	return out, nil
}
