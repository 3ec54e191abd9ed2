package plant

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"net"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/gopcua/opcua/id"
	"github.com/gopcua/opcua/server"
	"github.com/gopcua/opcua/ua"
)

// MeterNamespace is the namespace of the meter's variables; the server gives it
// index 1.
const MeterNamespace = "urn:larchmoor:meter"

// meter is the energy meter and the weighbridge.
type meter struct {
	noise  *rand.Rand
	power  float64    // kW
	phases [3]float32 // A
	energy float64    // kWh
	onto   float64    // kg on the bridge
	until  float64    // seconds to the next change of what stands on it
	moving float64    // seconds since it last changed
	tare   float64    // kg, set from outside
}

func newMeter(noise *rand.Rand) *meter { return &meter{noise: noise, energy: 18_240, until: 12} }

// advance moves by dt seconds; load is what the yard draws, in kW.
func (m *meter) advance(dt, load float64) {
	m.power += (load + m.noise.NormFloat64()*0.4 - m.power) * math.Min(1, dt/2)
	m.energy += m.power * dt / 3600
	for i := range m.phases {
		m.phases[i] = float32(m.power * 1000 / 3 / 230 * (1 + 0.02*float64(i-1)))
	}
	m.moving += dt
	if m.until -= dt; m.until <= 0 {
		m.until, m.moving = 20+20*m.noise.Float64(), 0
		if m.onto == 0 {
			m.onto = 14_000 + 9_000*m.noise.Float64()
		} else {
			m.onto = 0
		}
	}
}

// gross settles for three seconds after what stands on the bridge changed.
func (m *meter) gross() float64 {
	swing := 0.0
	if m.moving < 3 {
		swing = 400 * math.Exp(-m.moving) * math.Sin(8*m.moving)
	}
	return math.Round((m.onto+swing-m.tare)/20) * 20
}

func (m *meter) stable() bool { return m.moving >= 3 }

// load is what the chambers draw, in kW.
func (p *Plant) load() float64 {
	sum := 2.1
	for _, c := range p.chambers {
		for _, f := range c.fans {
			sum += f.current * 0.4 * 1.73 * 0.85
		}
		if c.burner.purgeFan {
			sum += 1.5
		}
	}
	return sum
}

// serveMeter serves the meter by OPC UA until the context ends. Where any free port will
// do, somebody else may take the one that was found before the server does: then another.
func (p *Plant) serveMeter(ctx context.Context, addr string, ready func(string, net.Addr)) error {
	const tries = 10
	_, port, _ := net.SplitHostPort(addr)
	for try := 1; ; try++ {
		err := p.meterAt(ctx, addr, ready)
		if !errors.Is(err, syscall.EADDRINUSE) || port != "0" || try == tries {
			return err
		}
	}
}

func (p *Plant) meterAt(ctx context.Context, addr string, ready func(string, net.Addr)) error {
	host, portText, err := net.SplitHostPort(addr)
	if err != nil {
		return fmt.Errorf("the meter cannot listen on %s: %w", addr, err)
	}
	port, _ := strconv.Atoi(portText)
	if port == 0 {
		// The server takes a port by number only: find a free one for it.
		l, err := net.Listen("tcp", addr)
		if err != nil {
			return fmt.Errorf("the meter cannot listen on %s: %w", addr, err)
		}
		port = l.Addr().(*net.TCPAddr).Port
		l.Close()
	}
	s := server.New(server.EndPoint(host, port), server.EnableSecurity("None", ua.MessageSecurityModeNone),
		server.EnableAuthMode(ua.UserTokenTypeAnonymous),
		server.ServerName("Larchmoor meter"), server.ProductName("Larchmoor stand-in plant"))
	space := server.NewNodeNameSpace(s, MeterNamespace)
	s.Namespaces()[space.ID()] = &meterSpace{space, p}
	folder := meterNode(space.ID(), "Meter", ua.NodeClassObject, id.FolderType, nil)
	space.AddNode(folder)
	root, err := s.Namespace(0)
	if err != nil {
		return err
	}
	root.Objects().AddRef(folder, id.Organizes, true)
	nodes := []*ua.NodeID{}
	for _, v := range meterValues {
		n := meterNode(space.ID(), "Meter."+v.name, ua.NodeClassVariable, v.typ, func() *ua.DataValue {
			p.mu.Lock()
			defer p.mu.Unlock()
			return server.DataValueFromValue(v.read(p.meter))
		})
		space.AddNode(n)
		folder.AddRef(n, id.HasComponent, true)
		nodes = append(nodes, n.ID())
	}
	if err := s.Start(ctx); err != nil {
		return fmt.Errorf("the meter cannot listen on %s: %w", addr, err)
	}
	if ready != nil {
		ready("OPC UA", &net.TCPAddr{IP: net.ParseIP(host), Port: port})
	}
	defer s.Close()
	tick := time.NewTicker(250 * time.Millisecond)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-tick.C:
		}
		for _, n := range nodes {
			space.ChangeNotification(n)
		}
	}
}

// meterSpace is the meter's namespace. The library's nodes guard nothing: a value
// put into one is seen half by whoever reads it meanwhile. So the nodes ask the
// plant for their values, and what a client writes goes to the plant.
type meterSpace struct {
	*server.NodeNameSpace
	plant *Plant
}

// SetAttribute takes what a client writes: the tare, in kg.
func (s *meterSpace) SetAttribute(node *ua.NodeID, attr ua.AttributeID, val *ua.DataValue) ua.StatusCode {
	n := s.Node(node)
	switch {
	case n == nil:
		return ua.StatusBadNodeIDUnknown
	case attr != ua.AttributeIDValue || !n.Access(ua.AccessLevelTypeCurrentWrite):
		return ua.StatusBadUserAccessDenied
	case val == nil || val.Value == nil:
		return ua.StatusBadTypeMismatch
	}
	tare, ok := val.Value.Value().(float64)
	if !ok {
		return ua.StatusBadTypeMismatch
	}
	s.plant.mu.Lock()
	s.plant.meter.tare = tare
	s.plant.mu.Unlock()
	s.ChangeNotification(node)
	return ua.StatusOK
}

// meterNode makes a node of the meter's namespace; its name is the last part of
// its id.
func meterNode(space uint16, name string, class ua.NodeClass, typ uint32, value server.ValueFunc) *server.Node {
	short := name[strings.LastIndexByte(name, '.')+1:]
	access, rank := byte(ua.AccessLevelTypeCurrentRead), int32(-1)
	if short == "Tare" {
		access |= byte(ua.AccessLevelTypeCurrentWrite)
	}
	if short == "Phases" {
		rank = 1
	}
	return server.NewNode(ua.NewStringNodeID(space, name), map[ua.AttributeID]*ua.DataValue{
		ua.AttributeIDNodeClass:   server.DataValueFromValue(uint32(class)),
		ua.AttributeIDBrowseName:  server.DataValueFromValue(&ua.QualifiedName{NamespaceIndex: space, Name: short}),
		ua.AttributeIDDisplayName: server.DataValueFromValue(&ua.LocalizedText{EncodingMask: ua.LocalizedTextText, Text: short}),
		ua.AttributeIDDataType:    server.DataValueFromValue(ua.NewNumericExpandedNodeID(0, typ)),
		ua.AttributeIDValueRank:   server.DataValueFromValue(rank),
		ua.AttributeIDAccessLevel: server.DataValueFromValue(access), ua.AttributeIDUserAccessLevel: server.DataValueFromValue(access),
	}, nil, value)
}

// meterValues are the meter's variables; typ is of namespace 0.
var meterValues = []struct {
	name string
	typ  uint32
	read func(m *meter) any
}{
	{"Power", id.Double, func(m *meter) any { return math.Round(m.power*100) / 100 }},
	{"Energy", id.Double, func(m *meter) any { return math.Round(m.energy*1000) / 1000 }},
	{"Gross", id.Double, func(m *meter) any { return m.gross() }},
	{"Stable", id.Boolean, func(m *meter) any { return m.stable() }},
	{"Phases", id.Float, func(m *meter) any { return slices.Clone(m.phases[:]) }},
	{"Tare", id.Double, func(m *meter) any { return m.tare }},
}
