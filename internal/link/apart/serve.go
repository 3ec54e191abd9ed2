package apart

import (
	"context"
	"encoding/gob"
	"io"
	"reflect"
	"sync"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// Serve runs one link of a protocol for the process at the other end of in and
// out, until in ends.
func Serve(p link.Protocol, in io.Reader, out io.Writer) error {
	s := &service{protocol: p, polls: map[int]*served{}, requests: make(chan *request)}
	lost := make(chan error, 1)
	go func() { lost <- s.receive(gob.NewDecoder(in)) }()
	encoder := gob.NewEncoder(out)
	defer s.close()
	for {
		select {
		case err := <-lost:
			return err
		case r := <-s.requests:
			if err := encoder.Encode(s.answer(r)); err != nil {
				return say.Errorf("answering: %w", err)
			}
		}
	}
}

// service is the far side of a link: the driver itself.
type service struct {
	protocol link.Protocol
	dev      device.Device
	env      link.Env
	driver   link.Driver
	polls    map[int]*served
	requests chan *request

	mu      sync.Mutex
	traffic []link.Traced
	current int    // the call that is under way
	stop    func() // and what ends it
	gone    bool   // the caller
}

// served is a plan with what was last told of it.
type served struct {
	poll   link.Poll
	points int
	values []value.Value
	blocks []link.Block
}

// receive hands requests on as they come; a cancel goes past the one that is
// under way.
func (s *service) receive(d *gob.Decoder) error {
	for {
		r := &request{}
		if err := d.Decode(r); err != nil {
			s.cancel(func() bool { s.gone = true; return true })
			if err == io.EOF {
				return nil
			}
			return say.Errorf("listening: %w", err)
		}
		if r.Verb == cancel {
			s.cancel(func() bool { return s.current == r.Number })
			continue
		}
		s.requests <- r
	}
}

func (s *service) cancel(which func() bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if which() && s.stop != nil {
		s.stop()
	}
}

func (s *service) answer(r *request) *reply {
	ctx, done := context.WithTimeout(context.Background(), r.Within)
	defer done()
	s.mu.Lock()
	s.current, s.stop = r.Number, done
	if s.gone {
		done()
	}
	s.mu.Unlock()
	out := &reply{}
	if err := link.Safely(func() error { return s.do(ctx, r, out) }); err != nil {
		out.Fault = faultOf(err, s.protocol.Explain(err, s.dev))
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	out.Traffic, s.traffic = s.traffic, nil
	return out
}

func (s *service) do(ctx context.Context, r *request, out *reply) (err error) {
	if r.Verb == hello {
		s.begin(r)
		return nil
	}
	if s.driver == nil {
		return say.Errorf("%w: no device was named", link.ErrNotSent)
	}
	switch r.Verb {
	case connect:
		return s.driver.Connect(ctx)
	case read:
		return s.read(ctx, r, out)
	case drop:
		if p := s.polls[r.Poll]; p != nil {
			delete(s.polls, r.Poll)
			p.poll.Close()
		}
		return nil
	case write:
		return s.driver.Write(ctx, r.Device, r.Points[0], r.Value.unpack())
	case readBack:
		var v value.Value
		v, err = s.driver.ReadBack(ctx, r.Device, r.Points[0])
		out.Value = pack(v)
		return err
	case writeAll:
		return link.WriteAll(ctx, s.driver, r.Device, r.Points, unpackAll(r.Values))
	case readAll:
		var list []value.Value
		list, err = link.ReadAll(ctx, s.driver, r.Device, r.Points)
		out.Values = packAll(list)
		return err
	case ask:
		asked, ok := s.driver.(link.Asked)
		if !ok {
			return say.Errorf("%w: this protocol answers no questions", link.ErrNotSent)
		}
		out.Answer, err = asked.Ask(ctx, r.About, r.With)
		return err
	}
	return say.Errorf("%w: no such request (%d)", link.ErrNotSent, r.Verb)
}

func (s *service) begin(r *request) {
	s.dev = r.Device
	s.env = link.Env{Secret: func(name, _ string) (link.Secret, error) {
		e, ok := r.Secrets[name]
		if !ok {
			return link.Secret{}, say.Errorf("%w: the link was not given %q", link.ErrNotSent, name)
		}
		return e.Secret, e.Fault.err()
	}}
	s.driver = s.protocol.New(s.dev, s.env, link.NewTracedMeters(s.trace))
}

func (s *service) trace(t link.Traced) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.traffic = append(s.traffic, t)
}

func (s *service) read(ctx context.Context, r *request, out *reply) error {
	p := s.polls[r.Poll]
	if p == nil {
		p = &served{poll: s.driver.Plan(r.Points, r.Device), points: len(r.Points)}
		s.polls[r.Poll] = p
	}
	values := make([]value.Value, p.points)
	if err := p.poll.Read(ctx, values, func() {}); err != nil {
		return err
	}
	for i, v := range values {
		if p.values == nil || p.values[i] != v {
			out.Changed = append(out.Changed, change{i, pack(v)})
		}
	}
	p.values = values
	if blocks := p.poll.Blocks(); !reflect.DeepEqual(blocks, p.blocks) {
		p.blocks, out.Blocks, out.Told = blocks, blocks, true
	}
	return nil
}

// farewell is how long a session has to end when its caller is gone.
const farewell = 2 * time.Second

func (s *service) close() {
	if s.driver == nil {
		return
	}
	done := make(chan struct{})
	go func() {
		defer close(done)
		_ = link.Safely(s.driver.Close) // the process ends in any case
	}()
	select {
	case <-done:
	case <-time.After(farewell):
	}
}
