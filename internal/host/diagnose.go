package host

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	"readyrail/internal/link/modbus"
	"readyrail/internal/link/mqtt"
	"readyrail/internal/link/opcua"
	"readyrail/internal/run"
)

// PollInfo is how one poll of a device fares.
type PollInfo struct {
	EveryMs int64        `json:"everyMs"`
	Points  int          `json:"points"`
	Kept    int          `json:"kept" doc:"rounds that began in time"`
	Missed  int          `json:"missed"`
	TookMs  float64      `json:"tookMs" doc:"by the last round"`
	Blocks  []link.Block `json:"blocks"`
}

// TrafficWindow is five seconds of traffic.
type TrafficWindow struct {
	AtMs     int64   `json:"atMs"`
	Requests int     `json:"requests"`
	Errors   int     `json:"errors"`
	P50      float64 `json:"p50Ms"`
	P95      float64 `json:"p95Ms"`
	Max      float64 `json:"maxMs"`
}

// Diagnosis is all that is known of a device's link.
type Diagnosis struct {
	run.LinkStatus
	Endpoint   string           `json:"endpoint"`
	Protocol   string           `json:"protocol" enum:"modbus-tcp,opcua,mqtt,standin"`
	PerSecond  float64          `json:"perSecond" doc:"requests"`
	P50        float64          `json:"p50Ms" doc:"of the round trip, over the last five minutes"`
	P95        float64          `json:"p95Ms"`
	Max        float64          `json:"maxMs"`
	Sent       int64            `json:"sent" doc:"bytes"`
	Got        int64            `json:"got" doc:"bytes"`
	Reconnects int              `json:"reconnects"`
	Heartbeat  string           `json:"heartbeat" doc:"heard, lost or none" enum:"heard,lost,none"`
	Kinds      []link.ErrorKind `json:"errorKinds"`
	Windows    []TrafficWindow  `json:"windows"`
	Polls      []PollInfo       `json:"polls"`
	Resting    int              `json:"resting" doc:"tags that are not read as nobody needs them"`
	Conditions []ConditionInfo  `json:"conditions" doc:"how the parts of the controller are"`
}

func ms(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }

// Diagnose tells all that is known of a device and its link in a program, in a
// language.
func (p *Project) Diagnose(name run.Program, id, language string) (*Diagnosis, error) {
	version := p.runs.Version(name)
	if version == nil || version.Devices[id] == nil {
		return nil, ErrNotFound
	}
	d := version.Devices[id]
	s, t, groups := p.host.hub.Diagnose(*d)
	out := &Diagnosis{LinkStatus: p.runs.LinkStatus(id, d, s), Endpoint: d.Address(), Protocol: d.Protocol, PerSecond: t.PerSecond,
		P50: ms(t.P50), P95: ms(t.P95), Max: ms(t.Max),
		Sent: t.Sent, Got: t.Got, Reconnects: t.Reconnects, Kinds: t.Kinds, Windows: []TrafficWindow{}, Polls: []PollInfo{}, Heartbeat: "none"}
	if d.Heartbeat != nil && d.Heartbeat.In != "" && name == run.Release {
		out.Heartbeat = "lost"
		if p.runs.Heard(id) {
			out.Heartbeat = "heard"
		}
	}
	out.Conditions = p.conditions(name, version, d, s.State, language)
	for _, w := range t.Windows {
		out.Windows = append(out.Windows, TrafficWindow{w.At.UnixMilli(), w.Requests, w.Errors, ms(w.P50), ms(w.P95), ms(w.Max)})
	}
	for _, g := range groups {
		out.Polls = append(out.Polls, PollInfo{g.Every.Milliseconds(), g.Points, g.Kept, g.Missed, ms(g.Took), g.Blocks})
	}
	var ids []string
	for tid, tg := range version.Tags {
		if tg.Source == tag.Device && tg.Device == id {
			ids = append(ids, tid)
		}
	}
	for _, r := range p.ReadTags(name, ids) {
		if r.Value.Quality == value.BadResting {
			out.Resting++
		}
	}
	return out, nil
}

// Report writes a diagnosis as text, for a ticket or a mail.
func (d *Diagnosis) Report(now time.Time) string {
	var b strings.Builder
	line := func(format string, args ...any) { fmt.Fprintf(&b, format+"\n", args...) }
	line("Device %s, %s, %s", d.Name, d.Protocol, d.Endpoint)
	line("Report of %s", now.Format("2006-01-02 15:04:05"))
	line("State      %s since %s", d.State, d.Since.Format("2006-01-02 15:04:05"))
	if !d.Problem.IsZero() {
		line("Last failure %s: %s", d.ProblemAt.Format("15:04:05"), d.Problem)
	}
	line("Requests   %d, %.1f a second, %d failed, %d reconnects", d.Requests, d.PerSecond, d.Errors, d.Reconnects)
	line("Round trip p50 %.2f ms, p95 %.2f ms, longest %.2f ms", d.P50, d.P95, d.Max)
	line("Bytes      %d sent, %d received", d.Sent, d.Got)
	line("Heartbeat  %s", d.Heartbeat)
	for _, k := range d.Kinds {
		line("Errors     %d × %s, last %s: %s", k.Count, k.Kind, k.Last.Format("15:04:05"), k.Text)
	}
	for _, g := range d.Polls {
		line("Poll       every %d ms: %d points, %d blocks, %d rounds in time, %d late, the last took %.1f ms", g.EveryMs, g.Points,
			len(g.Blocks), g.Kept, g.Missed, g.TookMs)
		for _, bl := range g.Blocks {
			refused := ""
			if bl.Refused {
				refused = ", refused"
			}
			line("  %s: %d points%s", bl.Name, bl.Points, refused)
		}
	}
	for _, c := range d.Conditions {
		line("%-10s %s: %s %s%s", c.Key, c.Level, c.Code, c.Text, c.Reason)
		for _, f := range c.Facts {
			line("  %s: %s", f.Name, f.Text)
		}
	}
	if d.Resting > 0 {
		line("At rest    %d points that nobody needs now", d.Resting)
	}
	return b.String()
}

// TestDevice tries a device's settings with a connection of its own.
func (h *Host) TestDevice(ctx context.Context, d device.Device) (roundTrip time.Duration, err error) {
	if field, err := d.Check(); err != nil {
		return 0, refused("%s: %v", field, err)
	}
	if d.Nowhere() {
		return 0, refused("host: give a name or an IP address, without a port")
	}
	env := h.hub.Env()
	switch d.Protocol {
	case device.ModbusTCP:
		roundTrip, err = modbus.Test(ctx, d, env)
	case device.OPCUA:
		err = h.alone(d, func(drv link.Driver) error {
			roundTrip, err = opcua.Test(ctx, drv)
			return err
		})
	case device.MQTT:
		roundTrip, err = mqtt.Test(ctx, d, env)
	default:
		return 0, refused("a stand-in has no link to test")
	}
	var u *opcua.Untrusted
	if errors.As(err, &u) {
		return 0, u
	}
	if err != nil {
		return 0, refused("%v", err)
	}
	return roundTrip, nil
}

// alone runs f with a driver that no program shares, and explains its error.
func (h *Host) alone(d device.Device, f func(link.Driver) error) error {
	p := h.protocols[d.Protocol]
	drv := p.New(d, h.hub.Env(), link.NewMeters())
	defer drv.Close()
	err := f(drv)
	var u *opcua.Untrusted
	if err == nil || errors.As(err, &u) {
		return err
	}
	return p.Explain(err, d)
}

// device finds a device of the draft that speaks a protocol.
func (p *Project) device(id, protocol string) (device.Device, error) {
	d := p.Draft().Devices[id]
	if d == nil {
		return device.Device{}, ErrNotFound
	}
	if d.Protocol != protocol {
		return device.Device{}, refused("%s does not speak this protocol", d.Name)
	}
	return *d, nil
}

// MaxProbe is how many registers a probe shows.
const MaxProbe = 125

// Probe reads a range of registers of a Modbus device, before any tag is there.
func (p *Project) Probe(ctx context.Context, id, space string, start, count int) ([]modbus.Register, time.Duration, error) {
	d, err := p.device(id, device.ModbusTCP)
	if err != nil {
		return nil, 0, err
	}
	a, err := device.ParseAddress(fmt.Sprintf("%s:%d", space, start))
	if err != nil {
		return nil, 0, refused("%v", err)
	}
	if count < 1 || count > MaxProbe || start+count > 65536 {
		return nil, 0, refused("a probe shows 1 to %d registers, and none past 65535", MaxProbe)
	}
	var list []modbus.Register
	var took time.Duration
	ctx, cancel := context.WithTimeout(ctx, 10*time.Second)
	defer cancel()
	err = p.host.hub.Use(ctx, d, func(drv link.Driver) error {
		var err error
		list, took, err = modbus.Probe(ctx, drv, d, a.Space, start, count)
		return err
	})
	if err != nil {
		return nil, 0, refused("%v", err)
	}
	return list, took, nil
}

// Browse lists what lies in a node of an OPC UA device.
func (p *Project) Browse(ctx context.Context, id, node string) ([]opcua.Item, error) {
	d, err := p.device(id, device.OPCUA)
	if err != nil {
		return nil, err
	}
	var list []opcua.Item
	ctx, cancel := context.WithTimeout(ctx, 20*time.Second)
	defer cancel()
	err = p.host.hub.Use(ctx, d, func(drv link.Driver) error {
		var err error
		list, err = opcua.Browse(ctx, drv, node)
		return err
	})
	if err != nil {
		return nil, refused("%v", err)
	}
	return list, nil
}

// Endpoints asks an OPC UA server for the ways into it.
func (h *Host) Endpoints(ctx context.Context, d device.Device) ([]opcua.Endpoint, error) {
	if d.Nowhere() {
		return nil, refused("host: give a name or an IP address, without a port")
	}
	var list []opcua.Endpoint
	err := h.alone(d, func(drv link.Driver) (err error) {
		list, err = opcua.Endpoints(ctx, drv)
		return err
	})
	if err != nil {
		return nil, refused("%v", err)
	}
	return list, nil
}

// Hear notes for some seconds what comes for a filter of topics.
func (p *Project) Hear(ctx context.Context, id, filter string, long time.Duration) ([]mqtt.Heard, error) {
	d, err := p.device(id, device.MQTT)
	if err != nil {
		return nil, err
	}
	list, err := mqtt.Listen(ctx, d, p.host.hub.Env(), filter, min(long, 20*time.Second))
	if err != nil {
		return nil, refused("%v", err)
	}
	return list, nil
}

// Span is a run of addresses in one space of a device.
type Span struct {
	Space string   `json:"space"`
	From  int      `json:"from"`
	To    int      `json:"to"`
	Use   string   `json:"use" enum:"used,shared,overlapping,free" doc:"used, shared, overlapping or free"`
	Tags  []string `json:"tags" doc:"paths; at most 20"`
	IDs   []string `json:"ids"`
}

// AddressMap tells what of a Modbus device's spaces is used: by one tag, by
// several of the same type, by several that clash, or free in between.
func (p *Project) AddressMap(id string) ([]Span, error) {
	d, err := p.device(id, device.ModbusTCP)
	if err != nil {
		return nil, err
	}
	return addressMap(p.Draft(), d), nil
}

type placed struct {
	id         string
	start, end int
	bit        int8
	typ        value.Type
}

func addressMap(p *project.Project, d device.Device) []Span {
	by := map[device.Space][]placed{}
	for id, t := range p.Tags {
		if t.Source != tag.Device || t.Device != d.ID {
			continue
		}
		for _, text := range []string{t.Address, t.WriteAddress} {
			if a, err := device.ParseAddress(text); err == nil {
				by[a.Space] = append(by[a.Space], placed{id, int(a.Offset), int(a.Offset) + device.Registers(t.Type), a.Bit, t.Type})
			}
		}
	}
	out := []Span{}
	for space := device.Coil; space <= device.Holding; space++ {
		list := by[space]
		slices.SortFunc(list, func(a, b placed) int {
			if a.start != b.start {
				return a.start - b.start
			}
			return strings.Compare(a.id, b.id)
		})
		last := 0
		for i := 0; i < len(list); {
			j, end := i+1, list[i].end
			for j < len(list) && list[j].start < end {
				end = max(end, list[j].end)
				j++
			}
			if list[i].start > last {
				out = append(out, Span{space.String(), last, list[i].start - 1, "free", []string{}, []string{}})
			}
			out = append(out, spanOf(p, space, list[i:j], end))
			last, i = end, j
		}
		if len(list) > 0 && last < 65536 {
			out = append(out, Span{space.String(), last, 65535, "free", []string{}, []string{}})
		}
	}
	return out
}

func spanOf(p *project.Project, space device.Space, list []placed, end int) Span {
	s := Span{Space: space.String(), From: list[0].start, To: end - 1, Use: "used", Tags: []string{}, IDs: []string{}}
	for i, a := range list {
		if path, _ := p.Path(a.id); len(s.Tags) < 20 && !slices.Contains(s.IDs, a.id) {
			s.Tags, s.IDs = append(s.Tags, path), append(s.IDs, a.id)
		}
		for _, b := range list[:i] {
			switch {
			case a.bit >= 0 && b.bit >= 0 && a.bit != b.bit:
				if s.Use == "used" {
					s.Use = "shared"
				}
			case a.start == b.start && a.typ == b.typ && a.bit == b.bit:
				if s.Use == "used" {
					s.Use = "shared"
				}
			default:
				s.Use = "overlapping"
			}
		}
		if s.Use == "overlapping" && i > 200 {
			break
		}
	}
	return s
}
