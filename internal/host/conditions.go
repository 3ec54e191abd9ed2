package host

import (
	"context"
	"sync"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/link"
	"readyrail/internal/link/opcua"
	"readyrail/internal/run"
)

// ConditionInfo is how a part of a controller is.
type ConditionInfo struct {
	Name   string        `json:"name"`
	Key    string        `json:"key" doc:"its name in the project's first language, by which buttons open it"`
	Level  device.Level  `json:"level" enum:"good,attention,fault,unknown"`
	Code   string        `json:"code"`
	Text   string        `json:"text" doc:"the code's meaning; empty where the list has none"`
	Listed bool          `json:"listed"`
	Reason say.Text      `json:"reason,omitzero" doc:"why it is unknown"`
	Tag    string        `json:"tag,omitempty" doc:"path"`
	Codes  []device.Code `json:"codes" doc:"all that it can say"`
	Facts  []ServerFact  `json:"facts" doc:"what else it tells"`
}

// ServerFact is something that a controller tells of itself.
type ServerFact struct {
	Name string `json:"name" enum:"product,maker,version,started,clock,shutdown"`
	Text string `json:"text"`
}

// serverStates are the meanings of ServerState, IEC 62541-5, 12.6.
var serverStates = []device.Code{
	{Code: "0", Level: device.LevelGood, Text: "running"}, {Code: "1", Level: device.LevelFault, Text: "failed"},
	{Code: "2", Level: device.LevelFault, Text: "no configuration"}, {Code: "3", Level: device.LevelAttention, Text: "suspended"},
	{Code: "4", Level: device.LevelFault, Text: "shutting down"}, {Code: "5", Level: device.LevelAttention, Text: "test"},
	{Code: "6", Level: device.LevelFault, Text: "communication fault"}, {Code: "7", Level: device.LevelUnknown, Text: "unknown"},
}

// conditions tells how the parts of a controller are, in a language.
func (p *Project) conditions(name run.Program, version *project.Project, d *device.Device, state link.State,
	language string) []ConditionInfo {
	out := []ConditionInfo{}
	if d.Protocol == device.OPCUA {
		out = append(out, p.serverCondition(d, state))
	}
	ids := make([]string, len(d.Conditions))
	for i, c := range d.Conditions {
		ids[i] = c.Tag
	}
	for i, r := range p.ReadTags(name, ids) {
		c := &d.Conditions[i]
		info := ConditionInfo{Name: version.Word(language, c.Name), Key: c.Name, Level: device.LevelUnknown, Codes: []device.Code{},
			Facts: []ServerFact{}}
		info.Tag, _ = version.Path(c.Tag)
		for _, code := range c.Codes {
			code.Text = version.Word(language, code.Text)
			info.Codes = append(info.Codes, code)
		}
		t, known := version.Tag(c.Tag)
		switch {
		case !known:
			info.Reason.Why = say.New("its tag no longer exists")
		case !r.Known || r.Value.Quality.IsBad():
			info.Reason.Why = say.Errorf("%v", r.Value.Quality.Reason())
		default:
			info.Code = device.CodeOf(r.Value)
			found, listed := c.Judge(info.Code)
			info.Level, info.Listed, info.Text = found.Level, listed, version.Word(language, found.Text)
			if info.Text == "" && len(t.States) > 0 {
				info.Text = version.StateWord(language, t, r.Value.Int())
			}
		}
		out = append(out, info)
	}
	return out
}

// serverPatience bounds the question to a server how it is, and serverFresh
// how long its answer serves everybody who looks.
const (
	serverPatience = 2 * time.Second
	serverFresh    = 900 * time.Millisecond
)

func (p *Project) serverCondition(d *device.Device, state link.State) ConditionInfo {
	info := ConditionInfo{Name: device.ServerName, Key: device.ServerName, Level: device.LevelUnknown, Codes: serverStates,
		Facts: []ServerFact{}}
	if state != link.Up {
		info.Reason.Why = say.New("the link is down")
		return info
	}
	s, err := p.host.servers.ask(d, func(ctx context.Context) (s opcua.ServerStatus, err error) {
		err = p.host.hub.Use(ctx, *d, func(drv link.Driver) error {
			s, err = opcua.Status(ctx, drv)
			return err
		})
		return s, err
	})
	if err != nil {
		info.Reason.Why = err
		return info
	}
	said := serverStates[min(max(0, s.State), len(serverStates)-1)]
	info.Code, info.Level, info.Text, info.Listed = said.Code, said.Level, said.Text, true
	fact := func(name, text string) {
		if text != "" {
			info.Facts = append(info.Facts, ServerFact{name, text})
		}
	}
	when := func(t time.Time) string {
		if t.IsZero() {
			return ""
		}
		return t.UTC().Format(time.RFC3339)
	}
	fact("product", s.Product)
	fact("maker", s.Maker)
	fact("version", s.Version)
	fact("started", when(s.Started))
	fact("clock", when(s.Clock))
	if s.Shutdown > 0 {
		fact("shutdown", (time.Duration(s.Shutdown) * time.Second).String())
	}
	return info
}

// serverStatuses keeps what servers said of themselves for a moment, so that
// ten who look ask once.
type serverStatuses struct {
	mu   sync.Mutex
	last map[string]*serverAnswer
}

type serverAnswer struct {
	mu     sync.Mutex
	at     time.Time
	status opcua.ServerStatus
	err    error
}

func (c *serverStatuses) ask(d *device.Device, f func(context.Context) (opcua.ServerStatus, error)) (opcua.ServerStatus, error) {
	c.mu.Lock()
	if c.last == nil {
		c.last = map[string]*serverAnswer{}
	}
	a := c.last[d.Endpoint()]
	if a == nil {
		a = &serverAnswer{}
		c.last[d.Endpoint()] = a
	}
	c.mu.Unlock()
	a.mu.Lock()
	defer a.mu.Unlock()
	if time.Since(a.at) > serverFresh {
		ctx, cancel := context.WithTimeout(context.Background(), serverPatience)
		defer cancel()
		a.status, a.err = f(ctx)
		a.at = time.Now()
	}
	return a.status, a.err
}
