package server

import (
	"context"
	"errors"
	"net/http"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/device"
	"readyrail/internal/host"
	"readyrail/internal/link/modbus"
	"readyrail/internal/link/mqtt"
	"readyrail/internal/link/opcua"
	"readyrail/internal/run"
)

// DeviceTest is how a try of a device's settings went.
type DeviceTest struct {
	OK          bool               `json:"ok"`
	RoundTrip   float64            `json:"roundTripMs"`
	Problem     string             `json:"problem"`
	Certificate *opcua.Certificate `json:"certificate,omitempty" doc:"of a server that nobody has trusted yet"`
}

// ProbeResult is a range of registers as it was read.
type ProbeResult struct {
	Registers []modbus.Register `json:"registers"`
	TookMs    float64           `json:"tookMs"`
	At        int64             `json:"at" doc:"milliseconds since 1970"`
}

// Protocols are the kinds of devices with their usual settings.
type Protocols struct {
	Devices  []device.Device   `json:"devices"`
	Policies []string          `json:"policies"`
	Modes    []string          `json:"modes" enum:"none,sign,encrypt"`
	Locate   []device.Location `json:"locate" doc:"the usual table of located variables"`
}

func (s *Server) deviceRoutes() {
	get(s, "/api/projects/{project}/protocols", "The kinds of devices with their usual settings",
		func(ctx context.Context, in *Scope) (*body[Protocols], error) {
			if _, _, err := s.enter(ctx, *in, looking); err != nil {
				return nil, err
			}
			out := Protocols{Policies: device.Policies, Modes: device.Modes, Locate: device.DefaultLocate}
			for _, p := range device.Protocols {
				out.Devices = append(out.Devices, device.NewOf(p))
			}
			return &body[Protocols]{out}, nil
		})
	send(s, http.MethodPost, "/api/projects/{project}/devices/test", "Try a device's settings", s.testDevice)
	send(s, http.MethodPost, "/api/projects/{project}/devices/endpoints", "Ask an OPC UA server for the ways into it",
		func(ctx context.Context, in *struct {
			Scope
			Body device.Device
		}) (*body[[]opcua.Endpoint], error) {
			if _, _, err := s.enter(ctx, in.Scope, access.Engineer); err != nil {
				return nil, err
			}
			list, err := s.host.Endpoints(ctx, in.Body)
			return &body[[]opcua.Endpoint]{list}, problem(err)
		})
	get(s, "/api/projects/{project}/devices/{id}/probe", "Read a range of registers", func(ctx context.Context, in *struct {
		ThingInput
		Space string `query:"space" enum:"coil,discrete,input,holding" default:"holding"`
		Start int    `query:"start" minimum:"0" maximum:"65535"`
		Count int    `query:"count" minimum:"1" maximum:"125" default:"16"`
	}) (*body[ProbeResult], error) {
		_, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		list, took, err := p.Probe(ctx, in.ID, in.Space, in.Start, in.Count)
		if err != nil {
			return nil, problem(err)
		}
		return &body[ProbeResult]{ProbeResult{list, float64(took.Microseconds()) / 1000, time.Now().UnixMilli()}}, nil
	})
	get(s, "/api/projects/{project}/devices/{id}/map", "Which addresses are used, shared, overlapping or free",
		func(ctx context.Context, in *ThingInput) (*body[[]host.Span], error) {
			_, p, err := s.enter(ctx, in.Scope, looking)
			if err != nil {
				return nil, err
			}
			list, err := p.AddressMap(in.ID)
			return &body[[]host.Span]{list}, problem(err)
		})
	get(s, "/api/projects/{project}/devices/{id}/browse", "What lies in a node of an OPC UA server", func(ctx context.Context, in *struct {
		ThingInput
		Node string `query:"node" maxLength:"1000" doc:"empty for the top"`
	}) (*body[[]opcua.Item], error) {
		_, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		list, err := p.Browse(ctx, in.ID, in.Node)
		return &body[[]opcua.Item]{list}, problem(err)
	})
	get(s, "/api/projects/{project}/devices/{id}/hear", "What comes for a filter of topics in some seconds",
		func(ctx context.Context, in *struct {
			ThingInput
			Filter  string `query:"filter" maxLength:"500" default:"#"`
			Seconds int    `query:"seconds" minimum:"1" maximum:"20" default:"3"`
		}) (*body[[]mqtt.Heard], error) {
			_, p, err := s.enter(ctx, in.Scope, access.Engineer)
			if err != nil {
				return nil, err
			}
			list, err := p.Hear(ctx, in.ID, in.Filter, time.Duration(in.Seconds)*time.Second)
			return &body[[]mqtt.Heard]{list}, problem(err)
		})
	get(s, "/api/projects/{project}/devices/{id}/diagnosis", "All that is known of a device's link",
		func(ctx context.Context, in *diagnosisInput) (*body[host.Diagnosis], error) {
			d, err := s.diagnose(ctx, in)
			if err != nil {
				return nil, err
			}
			return &body[host.Diagnosis]{*d}, nil
		})
	get(s, "/api/projects/{project}/devices/{id}/report", "The same as text",
		func(ctx context.Context, in *diagnosisInput) (*fileOutput, error) {
			d, err := s.diagnose(ctx, in)
			if err != nil {
				return nil, err
			}
			return &fileOutput{"text/plain; charset=utf-8", "inline", []byte(d.Report(time.Now()))}, nil
		})
}

type diagnosisInput struct {
	ThingInput
	Program  string `query:"program" enum:"draft,release" default:"draft"`
	Language string `query:"language" maxLength:"16" doc:"empty for the project's first"`
}

// diagnose looks at the draft's device with the engineer's right, and at the
// release's with the right to look.
func (s *Server) diagnose(ctx context.Context, in *diagnosisInput) (*host.Diagnosis, error) {
	who, p, err := s.enter(ctx, in.Scope, "")
	if err != nil {
		return nil, err
	}
	right := access.Engineer
	if in.Program == string(run.Release) {
		right = access.View
	}
	if !p.May(ctx, who, right, true) {
		return nil, problem(p.Require(ctx, who, right, ""))
	}
	d, err := p.Diagnose(run.Program(in.Program), in.ID, in.Language)
	return d, problem(err)
}

func (s *Server) testDevice(ctx context.Context, in *struct {
	Scope
	Body device.Device
}) (*body[DeviceTest], error) {
	who, p, err := s.enter(ctx, in.Scope, access.Engineer)
	if err != nil {
		return nil, err
	}
	if in.Body.Credential != "" {
		if err := p.MayUse(ctx, who, in.Body.Credential, in.Body.Host); err != nil {
			return nil, problem(err)
		}
	}
	rtt, err := s.host.TestDevice(ctx, in.Body)
	out := DeviceTest{OK: err == nil, RoundTrip: float64(rtt.Microseconds()) / 1000}
	if err != nil {
		out.Problem = said(ctx, err)
		var u *opcua.Untrusted
		if errors.As(err, &u) {
			out.Certificate = &u.Certificate
		}
	}
	return &body[DeviceTest]{out}, nil
}
