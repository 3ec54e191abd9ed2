package plant

import (
	"context"
	"fmt"
	"net"
	"sync"
	"testing"
	"time"

	"github.com/gopcua/opcua"
	"github.com/gopcua/opcua/ua"
)

// TestTheMeterIsReadWhileItIsWritten by several clients at once; under the race
// detector a value seen half fails it.
func TestTheMeterIsReadWhileItIsWritten(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	defer stop()
	p := New(1, 1)
	at := make(chan net.Addr, 1)
	go p.serveMeter(ctx, "127.0.0.1:0", func(_ string, a net.Addr) { at <- a })
	addr := <-at
	tare := ua.NewStringNodeID(1, "Meter.Tare")
	var wait sync.WaitGroup
	for k := range 4 {
		wait.Add(1)
		go func() {
			defer wait.Done()
			c, err := opcua.NewClient(fmt.Sprintf("opc.tcp://%s", addr), opcua.SecurityMode(ua.MessageSecurityModeNone))
			if err != nil {
				t.Error(err)
				return
			}
			if err := c.Connect(ctx); err != nil {
				t.Error(err)
				return
			}
			defer c.Close(ctx)
			told := make(chan *opcua.PublishNotificationData, 1000)
			sub, err := c.Subscribe(ctx, &opcua.SubscriptionParameters{Interval: 10 * time.Millisecond}, told)
			if err != nil {
				t.Error(err)
				return
			}
			for i := range 30 {
				item := opcua.NewMonitoredItemCreateRequestWithDefaults(tare, ua.AttributeIDValue, uint32(i))
				if _, err := sub.Monitor(ctx, ua.TimestampsToReturnBoth, item); err != nil {
					t.Error(err)
					return
				}
				wrote, err := c.Write(ctx, &ua.WriteRequest{NodesToWrite: []*ua.WriteValue{{NodeID: tare, AttributeID: ua.AttributeIDValue,
					Value: &ua.DataValue{EncodingMask: ua.DataValueValue, Value: ua.MustVariant(float64(100*k + i))}}}})
				if err != nil || wrote.Results[0] != ua.StatusOK {
					t.Error(wrote, err)
					return
				}
			}
		}()
	}
	wait.Wait()
	p.mu.Lock()
	defer p.mu.Unlock()
	if last := int(p.meter.tare) % 100; last != 29 {
		t.Errorf("the tare is %v, somebody's last was x29", p.meter.tare)
	}
}
