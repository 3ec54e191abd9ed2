package opcua

import (
	"context"
	"time"

	"github.com/gopcua/opcua/id"
	"github.com/gopcua/opcua/ua"

	"readyrail/internal/link"
)

// ServerStatus is what a server tells of itself (IEC 62541-5, 12.10). What it
// does not tell is empty.
type ServerStatus struct {
	State    int       `json:"state"` // ServerState, IEC 62541-5, 12.6; 7 where it does not tell
	Started  time.Time `json:"started"`
	Clock    time.Time `json:"clock"` // of the server
	Product  string    `json:"product"`
	Maker    string    `json:"maker"`
	Version  string    `json:"version"`
	Shutdown int       `json:"shutdown"` // seconds until it ends; 0 for not
}

// StateUnknown is the ServerState of a server that does not tell it.
const StateUnknown = 7

// Status asks a server how it is.
func Status(ctx context.Context, drv link.Driver) (ServerStatus, error) {
	var s ServerStatus
	return s, link.Ask(ctx, drv, status, nil, &s)
}

func (d *Driver) status(ctx context.Context) (ServerStatus, error) {
	s := ServerStatus{State: StateUnknown}
	into := []struct {
		node uint32
		take func(v any)
	}{
		{id.Server_ServerStatus_State, func(v any) {
			if n, ok := v.(int32); ok {
				s.State = int(n)
			}
		}},
		{id.Server_ServerStatus_StartTime, func(v any) { s.Started, _ = v.(time.Time) }},
		{id.Server_ServerStatus_CurrentTime, func(v any) { s.Clock, _ = v.(time.Time) }},
		{id.Server_ServerStatus_BuildInfo_ProductName, func(v any) { s.Product, _ = v.(string) }},
		{id.Server_ServerStatus_BuildInfo_ManufacturerName, func(v any) { s.Maker, _ = v.(string) }},
		{id.Server_ServerStatus_BuildInfo_SoftwareVersion, func(v any) { s.Version, _ = v.(string) }},
		{id.Server_ServerStatus_SecondsTillShutdown, func(v any) {
			if n, ok := v.(uint32); ok {
				s.Shutdown = int(n)
			}
		}},
	}
	ask := &ua.ReadRequest{TimestampsToReturn: ua.TimestampsToReturnNeither}
	for _, x := range into {
		ask.NodesToRead = append(ask.NodesToRead, &ua.ReadValueID{NodeID: ua.NewNumericNodeID(0, x.node), AttributeID: ua.AttributeIDValue,
			DataEncoding: &ua.QualifiedName{}})
	}
	err := d.timed(ctx, func(ctx context.Context) error {
		res, err := d.client.Read(ctx, ask)
		if err != nil {
			return err
		}
		for i, v := range res.Results {
			if i < len(into) && v != nil && v.Value != nil {
				into[i].take(v.Value.Value())
			}
		}
		return nil
	})
	return s, err
}
