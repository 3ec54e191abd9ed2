package host

import (
	"io"
	"maps"
	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/link"
	"readyrail/internal/link/apart"
	"readyrail/internal/link/modbus"
	"readyrail/internal/link/mqtt"
	"readyrail/internal/link/opcua"
	"slices"
)

// protocols are what devices can speak.
var protocols = map[string]link.Protocol{device.ModbusTCP: modbus.Protocol, device.OPCUA: opcua.Protocol, device.MQTT: mqtt.Protocol}

// protocolsOf gives the protocols, those apart that rest on a library whose own
// goroutines read what a device sends.
func protocolsOf(command []string) map[string]link.Protocol {
	out := maps.Clone(protocols)
	if len(command) > 0 {
		out[device.OPCUA] = apart.Wrap(opcua.Protocol, append(slices.Clip(command), device.OPCUA), opcua.Secrets)
	}
	return out
}

// ServeLink runs one link of a protocol for the server that started this
// process, until in ends.
func ServeLink(protocol string, in io.Reader, out io.Writer) error {
	p, ok := protocols[protocol]
	if !ok {
		return say.Errorf("there is no protocol %q", protocol)
	}
	return apart.Serve(p, in, out)
}
