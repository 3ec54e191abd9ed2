package device

import (
	"fmt"
	"strings"
	"time"

	"readyrail/internal/core/tag"
)

// ModbusTCP is the protocol of this version (Modbus Messaging on TCP/IP
// Implementation Guide 1.0b).
const ModbusTCP = "modbus-tcp"

// Order names the order in which the bytes A (most significant) to D of a
// 32-bit value arrive in two registers.
type Order string

// The orders. ABCD is the protocol's own: high word first, high byte first.
const (
	ABCD Order = "ABCD"
	CDAB Order = "CDAB" // low word first
	BADC Order = "BADC" // bytes swapped in each register
	DCBA Order = "DCBA" // both
)

// SwapsWords and SwapsBytes take an order apart.
func (o Order) SwapsWords() bool { return o == CDAB || o == DCBA }

// SwapsBytes tells whether the two bytes of a register are exchanged.
func (o Order) SwapsBytes() bool { return o == BADC || o == DCBA }

// Known tells whether o is one of the four.
func (o Order) Known() bool { return o == ABCD || o == CDAB || o == BADC || o == DCBA }

// Device is the definition of one controller.
type Device struct {
	ID          string `json:"id"`
	Name        string `json:"name"`
	Description string `json:"description,omitempty"`
	Protocol    string `json:"protocol"`
	Host        string `json:"host"`
	Port        int    `json:"port"`
	Unit        int    `json:"unit"` // 0 to 255
	Order       Order  `json:"order"`
	// Numbering is the first number of each space as this device's papers
	// count, 0 or 1. It changes what is shown beside an address, never the
	// address.
	Numbering int  `json:"numbering"`
	Poll      int  `json:"poll"`     // milliseconds between reads
	Timeout   int  `json:"timeout"`  // milliseconds until a request counts as unanswered
	MaxGap    int  `json:"maxGap"`   // registers that may be read in vain to save a request
	MaxBlock  int  `json:"maxBlock"` // registers in one request, at most 125
	Off       bool `json:"off,omitempty"`
}

// New returns a device with the usual settings.
func New() Device {
	return Device{Protocol: ModbusTCP, Host: "127.0.0.1", Port: 502, Unit: 1, Order: ABCD, Poll: 250, Timeout: 1000, MaxGap: 16, MaxBlock: 125}
}

// Check refuses settings that cannot work; field names the JSON field.
func (d *Device) Check() (field string, err error) {
	if err := tag.CheckSegment(d.Name); err != nil {
		return "name", err
	}
	switch {
	case d.Protocol != ModbusTCP:
		return "protocol", fmt.Errorf("protocol %q is not known: use %s", d.Protocol, ModbusTCP)
	case d.Host == "" || strings.ContainsAny(d.Host, " /\\@?#"):
		return "host", fmt.Errorf("host %q: give a name or an IP address, without a port", d.Host)
	case d.Port < 1 || d.Port > 65535:
		return "port", fmt.Errorf("port %d: use 1 to 65535; Modbus TCP's own is 502", d.Port)
	case d.Unit < 0 || d.Unit > 255:
		return "unit", fmt.Errorf("unit id %d: use 0 to 255", d.Unit)
	case !d.Order.Known():
		return "order", fmt.Errorf("byte order %q: use ABCD, CDAB, BADC or DCBA", d.Order)
	case d.Numbering != 0 && d.Numbering != 1:
		return "numbering", fmt.Errorf("registers count from 0 or from 1, not from %d", d.Numbering)
	case d.Poll < 50 || d.Poll > 86_400_000:
		return "poll", fmt.Errorf("a poll rate is 50 ms to one day, not %d ms", d.Poll)
	case d.Timeout < 50 || d.Timeout > 60_000:
		return "timeout", fmt.Errorf("a time-out is 50 ms to one minute, not %d ms", d.Timeout)
	case d.MaxGap < 0 || d.MaxGap > 124:
		return "maxGap", fmt.Errorf("a gap is 0 to 124 registers, not %d", d.MaxGap)
	case d.MaxBlock < 1 || d.MaxBlock > 125:
		return "maxBlock", fmt.Errorf("a block is 1 to 125 registers (Modbus 1.1b3, 6.3), not %d", d.MaxBlock)
	}
	return "", nil
}

// Endpoint is the connection the device shares with others at the same place.
func (d *Device) Endpoint() string { return fmt.Sprintf("%s:%d", d.Host, d.Port) }

// PollEvery is the rate of a tag on this device.
func (d *Device) PollEvery(t *tag.Tag) time.Duration {
	ms := d.Poll
	if t.Poll > 0 {
		ms = t.Poll
	}
	return time.Duration(ms) * time.Millisecond
}

// TagOrder is the byte order of a tag on this device.
func (d *Device) TagOrder(t *tag.Tag) Order {
	if o := Order(t.Order); o.Known() {
		return o
	}
	return d.Order
}

// CheckTag refuses a tag that the device cannot serve; field names the tag's
// JSON field.
func (d *Device) CheckTag(t *tag.Tag) (field string, err error) {
	a, err := ParseAddress(t.Address)
	if err != nil {
		return "address", err
	}
	if err := a.Fit(t.Type); err != nil {
		return "address", err
	}
	if t.Access == tag.ReadWrite && !a.Space.Writable() {
		return "access", fmt.Errorf("%s can only be read: %s is not written by Modbus", a, a.Space)
	}
	if t.Order != "" && !Order(t.Order).Known() {
		return "order", fmt.Errorf("byte order %q: use ABCD, CDAB, BADC or DCBA", t.Order)
	}
	return "", nil
}
