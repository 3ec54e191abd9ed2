package device

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
)

// The protocols.
const (
	ModbusTCP = "modbus-tcp" // Modbus Messaging on TCP/IP Implementation Guide 1.0b
	OPCUA     = "opcua"      // IEC 62541, by subscription over UA-TCP
	MQTT      = "mqtt"       // MQTT 3.1.1
	StandIn   = "standin"    // no hardware: each tag does what its behaviour says
)

// Protocols lists them in the order in which they are offered.
var Protocols = []string{ModbusTCP, OPCUA, MQTT, StandIn}

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

// Group is a poll rate by name.
type Group struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Every int    `json:"every"` // milliseconds
	// Needed reads its tags only while one is shown, alarmed, logged or used in
	// a formula.
	Needed bool `json:"needed,omitempty"`
}

// Device is the definition of one controller. What belongs to one protocol
// alone is read for that protocol alone.
type Device struct {
	ID          string `json:"id"`
	Name        string `json:"name"`
	Description string `json:"description,omitempty"`
	Protocol    string `json:"protocol" enum:"modbus-tcp,opcua,mqtt,standin"`
	Host        string `json:"host"` // empty until it is known: nothing is connected then
	Port        int    `json:"port"`
	Poll        int    `json:"poll"`    // milliseconds between reads
	Timeout     int    `json:"timeout"` // milliseconds until a request counts as unanswered
	Off         bool   `json:"off,omitempty"`
	// Credential is the name of an entry in the server's vault.
	Credential string     `json:"credential,omitempty"`
	Groups     []Group    `json:"groups,omitempty"`
	Heartbeat  *Heartbeat `json:"heartbeat,omitempty"`
	Clock      *Clock     `json:"clock,omitempty"`
	// Conditions are the parts of the controller that tell how they are.
	Conditions []Condition `json:"conditions,omitempty"`
	// Locate maps located variables (IEC 61131-3, 6.5.5.2) to addresses.
	Locate []Location `json:"locate,omitempty"`

	// Modbus TCP.
	Unit  int   `json:"unit"` // 0 to 255
	Order Order `json:"order" enum:",ABCD,CDAB,BADC,DCBA"`
	// Numbering is the first number of each space as this device's papers
	// count, 0 or 1. It changes what is shown beside an address, never the
	// address.
	Numbering int `json:"numbering"`
	MaxGap    int `json:"maxGap"`             // registers that may be read in vain to save a request
	MaxBlock  int `json:"maxBlock"`           // registers in one request, at most 125
	InFlight  int `json:"inFlight,omitempty"` // requests on their way at once; 0 is 1
	// BitWrite is how one bit of a register is written.
	BitWrite string `json:"bitWrite,omitempty"`
	// Together writes registers and reads them back in one request, by function
	// 23.
	Together bool `json:"together,omitempty"`

	// OPC UA.
	Security string `json:"security,omitempty"` // policy, "None" where empty
	Mode     string `json:"mode,omitempty"`     // "none", "sign" or "encrypt"
	Path     string `json:"path,omitempty"`     // of the endpoint's URL
	// Trusted is the SHA-256 of the server certificate that an engineer
	// accepted, in hex.
	Trusted string `json:"trusted,omitempty"`

	// MQTT.
	TLS      bool   `json:"tls,omitempty"`
	ClientID string `json:"clientId,omitempty"`
	// Will is the topic on which the far side says whether it is there, and
	// WillGone what it says when it is not.
	Will     string `json:"will,omitempty"`
	WillGone string `json:"willGone,omitempty"`
	QoS      int    `json:"qos,omitempty"` // of subscribing and publishing, 0 to 2
	Retain   bool   `json:"retain,omitempty"`
	// MaxSilence is how old a value may be until it is bad, in seconds; 0 for
	// any age, as values come when they change.
	MaxSilence int `json:"maxSilence,omitempty"`
}

// How a bit of a register is written.
const (
	ByMask = "mask" // by function 22; refused where the device does not know it
	ByWord = "word" // by reading the word, changing the bit and writing it back
)

// Heartbeat lets a device and this server know of each other.
type Heartbeat struct {
	Out     string `json:"out,omitempty"` // id of the tag that we count up
	Every   int    `json:"every"`         // milliseconds
	In      string `json:"in,omitempty"`  // id of the tag that must change
	Timeout int    `json:"timeout"`       // milliseconds until it counts as lost
}

// Clock sets a device's clock through tags. A tag that is not given is left
// out.
type Clock struct {
	Unix   string `json:"unix,omitempty"` // seconds since 1970, UTC
	Year   string `json:"year,omitempty"`
	Month  string `json:"month,omitempty"`
	Day    string `json:"day,omitempty"`
	Hour   string `json:"hour,omitempty"`
	Minute string `json:"minute,omitempty"`
	Second string `json:"second,omitempty"`
	Set    string `json:"set,omitempty"` // BOOL that is written true when the others are
	Hours  int    `json:"hours"`         // between two settings; it is set on connecting too
	UTC    bool   `json:"utc,omitempty"` // the parts are UTC and not local time
}

// Location maps one kind of located variable to a space: %MW12 with
// {Prefix: "MW", Space: "holding", Base: 100} is holding:112. For bits, Base is
// added to 8 times the byte plus the bit in a bit space, and to byte/2 in a
// register space.
type Location struct {
	Prefix string `json:"prefix"` // such as MW, IX, QD
	Space  string `json:"space"`
	Base   int    `json:"base"`
}

// New returns a Modbus TCP device with the usual settings.
func New() Device {
	return Device{Protocol: ModbusTCP, Host: "127.0.0.1", Port: 502, Unit: 1, Order: ABCD, Poll: 250, Timeout: 1000, MaxGap: 16,
		MaxBlock: 125, InFlight: 1, BitWrite: ByMask}
}

// NewOf returns a device of a protocol with its usual settings.
func NewOf(protocol string) Device {
	switch protocol {
	case OPCUA:
		return Device{Protocol: OPCUA, Host: "127.0.0.1", Port: 4840, Poll: 500, Timeout: 3000, Security: "None", Mode: "none"}
	case MQTT:
		return Device{Protocol: MQTT, Host: "127.0.0.1", Port: 1883, Poll: 250, Timeout: 3000}
	case StandIn:
		return Device{Protocol: StandIn, Poll: 250, Timeout: 1000}
	}
	return New()
}

// Limits of poll rates, in milliseconds.
const (
	fastest = 50
	slowest = 86_400_000
)

// Nowhere tells whether nobody has said yet where the device is.
func (d *Device) Nowhere() bool { return d.Protocol != StandIn && d.Host == "" }

// Check refuses settings that cannot work; field names the JSON field.
func (d *Device) Check() (field string, err error) {
	if err := tag.CheckSegment(d.Name); err != nil {
		return "name", err
	}
	if !slices.Contains(Protocols, d.Protocol) {
		return "protocol", say.Errorf("protocol %q is not known: use %s", d.Protocol, strings.Join(Protocols, ", "))
	}
	switch {
	case d.Protocol != StandIn && (len(d.Host) > 253 || strings.ContainsAny(d.Host, " /\\@?#")):
		return "host", say.Errorf("host %q: give a name or an IP address, without a port", d.Host)
	case d.Protocol != StandIn && (d.Port < 1 || d.Port > 65535):
		return "port", say.Errorf("port %d: use 1 to 65535; the usual one is %d", d.Port, NewOf(d.Protocol).Port)
	case d.Poll < fastest || d.Poll > slowest:
		return "poll", say.Errorf("a poll rate is 50 ms to one day, not %d ms", d.Poll)
	case d.Timeout < 50 || d.Timeout > 60_000:
		return "timeout", say.Errorf("a time-out is 50 ms to one minute, not %d ms", d.Timeout)
	}
	if field, err := d.checkProtocol(); err != nil {
		return field, err
	}
	return d.checkCommon()
}

func (d *Device) checkProtocol() (field string, err error) {
	switch d.Protocol {
	case ModbusTCP:
		return d.checkModbus()
	case OPCUA:
		if !slices.Contains(Policies, d.policy()) {
			return "security", say.Errorf("security policy %q is not known: use %s", d.Security, strings.Join(Policies, ", "))
		}
		if !slices.Contains(Modes, d.mode()) {
			return "mode", say.Errorf("security mode %q is not known: use none, sign or encrypt", d.Mode)
		}
		if (d.policy() == "None") != (d.mode() == "none") {
			return "mode", say.New("policy None goes with mode none, and every other policy with sign or encrypt")
		}
		if _, err := url.Parse("opc.tcp://h/" + strings.TrimPrefix(d.Path, "/")); err != nil {
			return "path", say.Errorf("%q is no path of an endpoint", d.Path)
		}
	case MQTT:
		if d.QoS < 0 || d.QoS > 2 {
			return "qos", say.Errorf("quality of service %d: use 0, 1 or 2 (MQTT 3.1.1, 4.3)", d.QoS)
		}
		if d.Will != "" {
			if err := checkTopic(d.Will, false); err != nil {
				return "will", err
			}
		}
		if d.MaxSilence < 0 {
			return "maxSilence", say.New("an age is not negative")
		}
	}
	return "", nil
}

func (d *Device) checkModbus() (field string, err error) {
	switch {
	case d.Unit < 0 || d.Unit > 255:
		return "unit", say.Errorf("unit id %d: use 0 to 255", d.Unit)
	case !d.Order.Known():
		return "order", say.Errorf("byte order %q: use ABCD, CDAB, BADC or DCBA", d.Order)
	case d.Numbering != 0 && d.Numbering != 1:
		return "numbering", say.Errorf("registers count from 0 or from 1, not from %d", d.Numbering)
	case d.MaxGap < 0 || d.MaxGap > 124:
		return "maxGap", say.Errorf("a gap is 0 to 124 registers, not %d", d.MaxGap)
	case d.MaxBlock < 1 || d.MaxBlock > 125:
		return "maxBlock", say.Errorf("a block is 1 to 125 registers (Modbus 1.1b3, 6.3), not %d", d.MaxBlock)
	case d.InFlight < 0 || d.InFlight > 16:
		return "inFlight", say.Errorf("%d requests at once: use 1 to 16", d.InFlight)
	case d.BitWrite != "" && d.BitWrite != ByMask && d.BitWrite != ByWord:
		return "bitWrite", say.Errorf("a bit is written by mask or by word, not by %q", d.BitWrite)
	}
	return "", nil
}

func (d *Device) checkCommon() (field string, err error) {
	seen := map[string]bool{}
	for _, g := range d.Groups {
		switch {
		case g.ID == "" || strings.TrimSpace(g.Name) == "" || len(g.Name) > 40:
			return "groups", say.New("a poll group needs a name of at most 40 characters")
		case strings.Trim(g.Name, "0123456789") == "":
			return "groups", say.Errorf("the poll group %s: a name that is not a number", g.Name)
		case g.Every < fastest || g.Every > slowest:
			return "groups", say.Errorf("the poll group %s: a rate is 50 ms to one day, not %d ms", g.Name, g.Every)
		case seen[strings.ToLower(g.Name)] || seen[g.ID]:
			return "groups", say.Errorf("there are two poll groups %s", g.Name)
		}
		seen[strings.ToLower(g.Name)], seen[g.ID] = true, true
	}
	if h := d.Heartbeat; h != nil {
		switch {
		case h.Out == "" && h.In == "":
			return "heartbeat", say.New("a heartbeat needs the tag that is written, the tag that is watched, or both")
		case h.Out != "" && (h.Every < 100 || h.Every > 60_000):
			return "heartbeat", say.Errorf("a heartbeat is sent every 100 ms to one minute, not every %d ms", h.Every)
		case h.In != "" && (h.Timeout < 200 || h.Timeout > 600_000):
			return "heartbeat", say.Errorf("a heartbeat counts as lost after 200 ms to ten minutes, not %d ms", h.Timeout)
		}
	}
	if c := d.Clock; c != nil && (c.Hours < 1 || c.Hours > 8760) {
		return "clock", say.Errorf("the clock is set every 1 to 8760 hours, not every %d", c.Hours)
	}
	if err := d.checkConditions(); err != nil {
		return "conditions", err
	}
	return d.checkLocate()
}

// InFlightLimit is how many requests may be on their way at once.
func (d *Device) InFlightLimit() int { return max(1, d.InFlight) }

// Endpoint is the connection the device shares with others at the same place.
func (d *Device) Endpoint() string {
	at := fmt.Sprintf("%s:%d", d.Host, d.Port)
	switch d.Protocol {
	case OPCUA:
		// A session is made with one user and one security.
		return strings.Join([]string{d.Address(), d.policy(), d.mode(), d.Credential, d.Trusted}, "|")
	case MQTT:
		return strings.Join([]string{"mqtt://" + at, d.ClientID, d.Credential, fmt.Sprint(d.TLS), d.Trusted}, "|")
	case StandIn:
		return "standin://" + d.ID
	}
	return at
}

// Address is where the device is, as people read it.
func (d *Device) Address() string {
	switch d.Protocol {
	case OPCUA:
		url := fmt.Sprintf("opc.tcp://%s:%d", d.Host, d.Port)
		if path := strings.TrimPrefix(d.Path, "/"); path != "" {
			url += "/" + path
		}
		return url
	case StandIn:
		return ""
	}
	return fmt.Sprintf("%s:%d", d.Host, d.Port)
}

// Group finds a poll group by id.
func (d *Device) Group(id string) (Group, bool) {
	for _, g := range d.Groups {
		if g.ID == id {
			return g, true
		}
	}
	return Group{}, false
}

// PollEvery is the rate of a tag on this device: its own, its group's, or the
// device's.
func (d *Device) PollEvery(t *tag.Tag) time.Duration {
	ms := d.Poll
	if g, ok := d.Group(t.Group); ok {
		ms = g.Every
	}
	if t.Poll > 0 {
		ms = t.Poll
	}
	return time.Duration(ms) * time.Millisecond
}

// OnlyNeeded tells whether a tag is read only while something needs it.
func (d *Device) OnlyNeeded(t *tag.Tag) bool {
	g, ok := d.Group(t.Group)
	return ok && g.Needed
}

// MaxAge is how old a tag's value may be until it is bad: three polls and a
// little. A message of MQTT comes when its sender likes, so its age is bounded
// by the device's own setting; 0 is any age.
func (d *Device) MaxAge(t *tag.Tag) time.Duration {
	if d.Protocol == StandIn {
		return 0
	}
	return 3*d.PollEvery(t) + 250*time.Millisecond
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
	if t.Group != "" {
		if _, ok := d.Group(t.Group); !ok {
			return "group", say.New("the device has no such poll group: choose another")
		}
	}
	switch d.Protocol {
	case OPCUA:
		if _, err := ParseNode(t.Address); err != nil {
			return "address", err
		}
		if t.WriteAddress != "" {
			if _, err := ParseNode(t.WriteAddress); err != nil {
				return "writeAddress", err
			}
		}
		return "", nil
	case MQTT:
		return d.checkTopicTag(t)
	case StandIn:
		return "", nil
	}
	return d.checkModbusTag(t)
}

func (d *Device) checkModbusTag(t *tag.Tag) (field string, err error) {
	a, err := ParseAddress(t.Address)
	if err != nil {
		return "address", err
	}
	if err := a.Fit(t.Type); err != nil {
		return "address", err
	}
	w := a
	if t.WriteAddress != "" {
		if w, err = ParseAddress(t.WriteAddress); err != nil {
			return "writeAddress", err
		}
		if err := w.Fit(t.Type); err != nil {
			return "writeAddress", err
		}
		if !w.Space.Writable() {
			return "writeAddress", say.Errorf("%s can only be read: %s is not written by Modbus", w, w.Space)
		}
	}
	if t.Access == tag.ReadWrite && !w.Space.Writable() {
		return "access", say.Errorf("%s can only be read: %s is not written by Modbus; give a write address of its own", w, w.Space)
	}
	if t.Order != "" && !Order(t.Order).Known() {
		return "order", say.Errorf("byte order %q: use ABCD, CDAB, BADC or DCBA", t.Order)
	}
	return "", nil
}

// Canonical brings a tag's addresses to the form that is stored.
func (d *Device) Canonical(t *tag.Tag) {
	if d.Protocol != ModbusTCP {
		t.Address, t.WriteAddress = strings.TrimSpace(t.Address), strings.TrimSpace(t.WriteAddress)
		return
	}
	if a, err := ParseAddress(t.Address); err == nil {
		t.Address = a.String()
	}
	if a, err := ParseAddress(t.WriteAddress); err == nil && t.WriteAddress != "" {
		t.WriteAddress = a.String()
	}
}
