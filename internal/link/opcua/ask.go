package opcua

import (
	"context"
	"encoding/json"
	"time"

	"readyrail/internal/core/say"
	"readyrail/internal/link"
)

// The questions that a driver answers beside reading and writing.
const (
	browses   = "browse"    // about an address: []Item
	endpoints = "endpoints" // []Endpoint
	tests     = "test"      // time.Duration
	status    = "status"    // ServerStatus
)

// Ask answers a question; see Browse, Endpoints and Test, which ask them.
func (d *Driver) Ask(ctx context.Context, question string, about []byte) ([]byte, error) {
	var answer any
	var err error
	switch question {
	case browses:
		var address string
		if err := json.Unmarshal(about, &address); err != nil {
			return nil, say.Errorf("%w: %w", link.ErrNotSent, err)
		}
		answer, err = d.browse(ctx, address)
	case endpoints:
		answer, err = d.endpoints(ctx)
	case tests:
		answer, err = d.test(ctx)
	case status:
		answer, err = d.status(ctx)
	default:
		err = say.Errorf("%w: nothing is known of %q", link.ErrNotSent, question)
	}
	if err != nil {
		return nil, err
	}
	return json.Marshal(answer)
}

// Test connects a driver that is not connected, and ends that again. It returns
// the round trip of a read.
func Test(ctx context.Context, drv link.Driver) (roundTrip time.Duration, err error) {
	return roundTrip, link.Ask(ctx, drv, tests, nil, &roundTrip)
}

func (d *Driver) test(ctx context.Context) (time.Duration, error) {
	dial, cancel := context.WithTimeout(ctx, timeoutOf(d.dev))
	defer cancel()
	if err := d.Connect(dial); err != nil {
		return 0, err
	}
	defer d.Close()
	start := time.Now()
	err := d.alive(ctx)
	return time.Since(start), err
}
