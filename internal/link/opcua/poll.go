package opcua

import (
	"context"
	"fmt"
	"sync"
	"time"

	"github.com/gopcua/opcua"
	"github.com/gopcua/opcua/ua"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// poll is one subscription with an item for each node. The server sends what
// changes; Read hands out the newest.
type poll struct {
	d      *Driver
	points []link.Point
	nodes  []node
	items  []item // one for each different node
	every  time.Duration

	made   int // the connection that the subscription was made on
	sub    *opcua.Subscription
	cancel context.CancelFunc

	mu     sync.Mutex
	broken error
}

// item is a monitored node; points that are members of one value share it.
type item struct {
	id      *ua.NodeID
	text    string
	points  []int
	status  ua.StatusCode // of making it
	newest  *ua.DataValue
	members bool
	retry   time.Time
}

// retryRefused is how long a node that the server refused is left alone.
const retryRefused = 10 * time.Second

// Plan prepares a subscription; it is made at the first Read.
func (d *Driver) Plan(points []link.Point, dev device.Device) link.Poll {
	p := &poll{d: d, points: points, nodes: make([]node, len(points)), every: time.Duration(dev.Poll) * time.Millisecond}
	by := map[string]int{}
	for i, pt := range points {
		n, err := parse(pt.Text)
		if err != nil {
			continue
		}
		p.nodes[i] = n
		k, ok := by[n.text]
		if !ok {
			k = len(p.items)
			by[n.text] = k
			p.items = append(p.items, item{id: n.id, text: n.text})
		}
		p.items[k].points = append(p.items[k].points, i)
		p.items[k].members = p.items[k].members || len(n.members) > 0
	}
	return p
}

// Read hands out the newest values, making the subscription where there is
// none on this connection.
func (p *poll) Read(ctx context.Context, out []value.Value, yield func()) error {
	if err := p.d.alive(ctx); err != nil {
		return err
	}
	yield()
	if p.made != p.d.made {
		if err := p.subscribe(ctx); err != nil {
			return err
		}
	}
	p.retryRefused(ctx)
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.broken != nil {
		return p.broken
	}
	for i := range out {
		out[i] = value.Bad(p.points[i].Type.Kind, value.BadConfig)
	}
	for k := range p.items {
		it := &p.items[k]
		for _, i := range it.points {
			switch {
			case it.status != ua.StatusOK:
				out[i] = value.Bad(p.points[i].Type.Kind, value.BadRefused)
			case it.newest == nil:
				out[i] = value.Bad(p.points[i].Type.Kind, value.BadWaiting)
			default:
				out[i] = p.d.convert(it.newest, p.nodes[i], p.points[i].Type)
			}
		}
	}
	return nil
}

// itemsAtOnce is how many items one request makes.
const itemsAtOnce = 500

func (p *poll) subscribe(ctx context.Context) error {
	p.Close()
	notify := make(chan *opcua.PublishNotificationData, 256)
	var sub *opcua.Subscription
	err := p.d.timed(ctx, func(ctx context.Context) (err error) {
		sub, err = p.d.client.Subscribe(ctx, &opcua.SubscriptionParameters{Interval: p.every, LifetimeCount: 100, MaxKeepAliveCount: 20}, notify)
		return err
	})
	if err != nil {
		return err
	}
	p.mu.Lock()
	p.broken = nil
	for k := range p.items {
		p.items[k].newest, p.items[k].status, p.items[k].retry = nil, ua.StatusOK, time.Time{}
	}
	p.mu.Unlock()
	follow, cancel := context.WithCancel(context.Background())
	p.sub, p.cancel, p.made = sub, cancel, p.d.made
	go p.follow(follow, notify)
	all := make([]int, len(p.items))
	for k := range all {
		all[k] = k
		if p.items[k].members {
			p.d.learn(ctx, p.items[k].id)
		}
	}
	return p.monitor(ctx, all)
}

// monitor makes the items with the given numbers.
func (p *poll) monitor(ctx context.Context, which []int) error {
	for len(which) > 0 {
		part := which[:min(len(which), itemsAtOnce)]
		which = which[len(part):]
		requests := make([]*ua.MonitoredItemCreateRequest, len(part))
		for i, k := range part {
			r := opcua.NewMonitoredItemCreateRequestWithDefaults(p.items[k].id, ua.AttributeIDValue, uint32(k))
			r.RequestedParameters.SamplingInterval = float64(p.every.Milliseconds())
			r.RequestedParameters.QueueSize = 1
			requests[i] = r
		}
		var res *ua.CreateMonitoredItemsResponse
		if err := p.d.timed(ctx, func(ctx context.Context) (err error) {
			res, err = p.sub.Monitor(ctx, ua.TimestampsToReturnBoth, requests...)
			return err
		}); err != nil {
			return err
		}
		p.mu.Lock()
		for i, k := range part {
			if i < len(res.Results) {
				p.items[k].status = res.Results[i].StatusCode
			}
			if p.items[k].status != ua.StatusOK {
				p.items[k].retry = time.Now().Add(retryRefused)
			}
		}
		p.mu.Unlock()
	}
	return nil
}

// retryRefused asks again, now and then, for the nodes that the server did not
// have.
func (p *poll) retryRefused(ctx context.Context) {
	var due []int
	p.mu.Lock()
	for k := range p.items {
		if it := &p.items[k]; it.status != ua.StatusOK && time.Now().After(it.retry) {
			due = append(due, k)
		}
	}
	p.mu.Unlock()
	if len(due) > 0 && p.sub != nil {
		_ = p.monitor(ctx, due) // what is still refused stays so; a broken link shows at the next read
	}
}

// follow takes what the server sends.
func (p *poll) follow(ctx context.Context, notify <-chan *opcua.PublishNotificationData) {
	for {
		select {
		case <-ctx.Done():
			return
		case n := <-notify:
			p.take(n)
		}
	}
}

func (p *poll) take(n *opcua.PublishNotificationData) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if n.Error != nil {
		p.broken = say.Errorf("the subscription ended: %w", n.Error)
		return
	}
	switch change := n.Value.(type) {
	case *ua.DataChangeNotification:
		for _, m := range change.MonitoredItems {
			if m == nil || m.Value == nil {
				continue
			}
			if k := int(m.ClientHandle); k < len(p.items) {
				p.items[k].newest = m.Value
			}
		}
		p.d.meter.Bytes(0, 64*len(change.MonitoredItems))
	case *ua.StatusChangeNotification:
		p.broken = say.Errorf("the server ended the subscription: %s", statusText(change.Status))
	}
}

// Blocks names the one subscription, and each node that is refused.
func (p *poll) Blocks() []link.Block {
	p.mu.Lock()
	defer p.mu.Unlock()
	out := []link.Block{{Name: fmt.Sprintf("subscription, %d ms", p.every.Milliseconds()), Points: len(p.points)}}
	for k := range p.items {
		if it := &p.items[k]; it.status != ua.StatusOK {
			out = append(out, link.Block{Name: it.text + ": " + statusText(it.status), Points: len(it.points), Refused: true})
			out[0].Points -= len(it.points)
		}
	}
	return out
}

// Close ends the subscription.
func (p *poll) Close() {
	if p.cancel == nil {
		return
	}
	p.cancel()
	if p.made == p.d.made && p.d.client != nil {
		ctx, cancel := context.WithTimeout(context.Background(), 500*time.Millisecond)
		defer cancel()
		_ = p.sub.Cancel(ctx) // a server that is gone has forgotten it already
	}
	p.sub, p.cancel, p.made = nil, nil, 0
}
