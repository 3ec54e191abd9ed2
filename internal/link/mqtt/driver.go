// Package mqtt is the driver for MQTT 3.1.1: values come when the broker sends
// them, most of them as members of a JSON payload.
package mqtt

import (
	"context"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"net/url"
	"strings"
	"sync"
	"syscall"
	"time"

	paho "github.com/eclipse/paho.mqtt.golang"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// Driver is one connection to a broker.
type Driver struct {
	dev    device.Device
	env    link.Env
	meters *link.Meters
	meter  *link.Meter
	client paho.Client
	made   int

	mu     sync.Mutex
	lost   error
	topics map[string]*topic // by filter
}

// topic is what has come for a filter.
type topic struct {
	users   int
	gone    bool // the far side said that it leaves
	payload []byte
	at      time.Time
	name    string // of the newest message
	count   int
}

// Protocol is what the hub needs to know of MQTT.
var Protocol = link.Protocol{New: func(d device.Device, env link.Env, m *link.Meters) link.Driver { return New(d, env, m) },
	Explain: Explain}

// New returns a driver that is not connected yet.
func New(d device.Device, env link.Env, m *link.Meters) *Driver {
	return &Driver{dev: d, env: env, meters: m, meter: m.Of(link.UnitKey(d)), topics: map[string]*topic{}}
}

func timeoutOf(d device.Device) time.Duration { return time.Duration(d.Timeout) * time.Millisecond }

// Connect opens the connection. A new one starts with nothing received but
// what the broker retains.
func (d *Driver) Connect(ctx context.Context) error {
	d.Close()
	if err := d.env.Check(d.dev); err != nil {
		return err
	}
	secret, err := d.env.Open(d.dev)
	if err != nil {
		return err
	}
	scheme := "tcp"
	o := paho.NewClientOptions()
	if d.dev.TLS {
		scheme = "ssl"
		if o.TLSConfig, err = d.tls(secret); err != nil {
			return err
		}
	} else if secret.Password != "" && !loopback(d.dev.Host) {
		return say.New("the password would go over the network in the clear: switch TLS on")
	}
	id := d.dev.ClientID
	if id == "" {
		id = "ready-rail-" + d.dev.ID
	}
	o.Servers = []*url.URL{{Scheme: scheme, Host: fmt.Sprintf("%s:%d", d.dev.Host, d.dev.Port)}}
	o.SetClientID(id).SetCleanSession(true).SetAutoReconnect(false).SetConnectRetry(false).SetOrderMatters(true).SetProtocolVersion(4)
	o.SetConnectTimeout(timeoutOf(d.dev)).SetWriteTimeout(timeoutOf(d.dev)).SetKeepAlive(5 * time.Second).SetPingTimeout(timeoutOf(d.dev))
	o.SetUsername(secret.User).SetPassword(secret.Password)
	o.SetConnectionLostHandler(func(_ paho.Client, err error) { d.drop(err) })
	c := paho.NewClient(o)
	if err := wait(ctx, c.Connect(), timeoutOf(d.dev)); err != nil {
		c.Disconnect(0)
		return err
	}
	d.mu.Lock()
	d.client, d.lost = c, nil
	d.made++
	for _, t := range d.topics {
		t.payload, t.at, t.gone = nil, time.Time{}, false
	}
	d.mu.Unlock()
	return nil
}

func (d *Driver) drop(err error) {
	d.mu.Lock()
	if err == nil {
		err = say.New("the broker closed the connection")
	}
	d.lost = err
	d.mu.Unlock()
}

func loopback(host string) bool {
	ip := net.ParseIP(host)
	return host == "localhost" || ip != nil && ip.IsLoopback()
}

// tls trusts the system's authorities, or the one certificate that an engineer
// trusted for the device.
func (d *Driver) tls(secret link.Secret) (*tls.Config, error) {
	c := &tls.Config{ServerName: d.dev.Host, MinVersion: tls.VersionTLS12}
	if len(secret.Certificate) > 0 {
		pair, err := tls.X509KeyPair(secret.Certificate, secret.Key)
		if err != nil {
			return nil, say.New("the certificate and its key do not belong together, or are not PEM")
		}
		c.Certificates = []tls.Certificate{pair}
	}
	if trusted := d.dev.Trusted; trusted != "" {
		c.InsecureSkipVerify = true // the certificate itself is compared instead
		c.VerifyPeerCertificate = func(raw [][]byte, _ [][]*x509.Certificate) error {
			if len(raw) == 0 || fingerprint(raw[0]) != trusted {
				return say.New("the broker shows another certificate than the one that was trusted")
			}
			return nil
		}
	}
	return c, nil
}

func fingerprint(der []byte) string {
	sum := sha256.Sum256(der)
	return hex.EncodeToString(sum[:])
}

// wait waits for a token as long as the context and the time-out allow.
func wait(ctx context.Context, t paho.Token, timeout time.Duration) error {
	select {
	case <-t.Done():
		return t.Error()
	case <-ctx.Done():
		return ctx.Err()
	case <-time.After(timeout):
		return say.Errorf("%w (%d ms)", link.ErrNoAnswer, timeout.Milliseconds())
	}
}

// Close ends the connection.
func (d *Driver) Close() error {
	if d.client == nil {
		return nil
	}
	d.client.Disconnect(20)
	d.client = nil
	return nil
}

// follow subscribes to a filter; several users share a subscription.
func (d *Driver) follow(ctx context.Context, filter string) error {
	d.mu.Lock()
	t := d.topics[filter]
	if t == nil {
		t = &topic{}
		d.topics[filter] = t
	}
	d.mu.Unlock()
	start := time.Now()
	err := wait(ctx, d.client.Subscribe(filter, byte(d.dev.QoS), func(_ paho.Client, m paho.Message) { d.take(filter, m) }), timeoutOf(d.dev))
	if err != nil {
		d.meter.Failed("not subscribed", err)
		return err
	}
	d.meter.Request(time.Since(start), len(filter), 0)
	return nil
}

func (d *Driver) take(filter string, m paho.Message) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if t := d.topics[filter]; t != nil {
		t.payload, t.at, t.name = m.Payload(), time.Now(), m.Topic()
		t.count++
		d.meter.Bytes(0, len(m.Payload())+len(m.Topic()))
	}
}

// alive tells whether the connection stands. The library asks the broker for
// an answer itself, every five seconds.
func (d *Driver) alive() error {
	d.mu.Lock()
	defer d.mu.Unlock()
	switch {
	case d.client == nil:
		return say.Errorf("%w: no connection", link.ErrNotSent)
	case d.lost != nil:
		return d.lost
	}
	return nil
}

// Write publishes a value: the payload itself, or for an address with a way
// into JSON an object with that member alone.
func (d *Driver) Write(ctx context.Context, dev device.Device, p link.Point, v value.Value) error {
	t, err := device.ParseTopic(p.WriteText)
	if err != nil {
		return say.Errorf("%w: %w", link.ErrNotSent, err)
	}
	if err := d.alive(); err != nil {
		return say.Errorf("%w: %w", link.ErrNotSent, err)
	}
	payload, err := encode(v, t.Path)
	if err != nil {
		return say.Errorf("%w: %w", link.ErrNotSent, err)
	}
	start := time.Now()
	// At QoS 0 nobody says that it arrived, so a value that a person writes goes
	// with at least QoS 1.
	err = wait(ctx, d.client.Publish(t.Name, byte(max(1, dev.QoS)), dev.Retain, payload), timeoutOf(dev))
	if err != nil {
		d.meter.Failed("not published", err)
		return err
	}
	d.meter.Request(time.Since(start), len(payload)+len(t.Name), 0)
	return nil
}

// ReadBack waits a little for the far side to tell the value that was written,
// where it tells it; what was published and taken by the broker is the answer
// otherwise.
func (d *Driver) ReadBack(ctx context.Context, _ device.Device, p link.Point) (value.Value, error) {
	t, err := device.ParseTopic(p.Text)
	if err != nil {
		return value.Value{}, err
	}
	d.mu.Lock()
	now := d.topics[t.Name]
	seen := -1
	if now != nil {
		seen = now.count
	}
	d.mu.Unlock()
	if now == nil {
		return value.Value{}, say.New("nothing is heard from where it is read")
	}
	for end := time.Now().Add(timeoutOf(d.dev)); time.Now().Before(end); time.Sleep(10 * time.Millisecond) {
		d.mu.Lock()
		fresh := now.count > seen || time.Since(now.at) < 50*time.Millisecond
		payload := now.payload
		d.mu.Unlock()
		if fresh {
			return decode(payload, t.Path, p.Type), nil
		}
		if ctx.Err() != nil {
			break
		}
	}
	return value.Value{}, say.New("the far side has not told the new value")
}

// Heard is a topic with its newest message.
type Heard struct {
	Topic   string          `json:"topic"`
	Payload string          `json:"payload"`
	Count   int             `json:"count"`
	Members []PayloadMember `json:"members" doc:"of a JSON payload"`
}

// PayloadMember is a place in a JSON payload.
type PayloadMember struct {
	Path  string `json:"path"`
	Type  string `json:"type" doc:"that a tag would have"`
	Value string `json:"value"`
}

// maxHeard bounds what one listening shows.
const maxHeard = 500

// Listen notes for some time what comes for a filter, over a connection of its
// own.
func Listen(ctx context.Context, dev device.Device, env link.Env, filter string, long time.Duration) ([]Heard, error) {
	if _, err := device.ParseTopic(filter); err != nil {
		return nil, err
	}
	dev.ClientID = fmt.Sprintf("ready-rail-ear-%d", time.Now().UnixNano())
	d := New(dev, env, link.NewMeters())
	dial, cancel := context.WithTimeout(ctx, timeoutOf(dev))
	defer cancel()
	if err := d.Connect(dial); err != nil {
		return nil, Explain(err, dev)
	}
	defer d.Close()
	var mu sync.Mutex
	found := map[string]*Heard{}
	err := wait(ctx, d.client.Subscribe(filter, 0, func(_ paho.Client, m paho.Message) {
		mu.Lock()
		defer mu.Unlock()
		h := found[m.Topic()]
		if h == nil {
			if len(found) >= maxHeard {
				return
			}
			h = &Heard{Topic: m.Topic()}
			found[m.Topic()] = h
		}
		h.Count++
		h.Payload = strings.ToValidUTF8(string(m.Payload()[:min(len(m.Payload()), 2000)]), "\uFFFD")
		h.Members = members(m.Payload())
	}), timeoutOf(dev))
	if err != nil {
		return nil, Explain(err, dev)
	}
	select {
	case <-ctx.Done():
	case <-time.After(long):
	}
	mu.Lock()
	defer mu.Unlock()
	out := []Heard{}
	for _, h := range found {
		out = append(out, *h)
	}
	return sorted(out), nil
}

// Test connects on its own and returns how long that took.
func Test(ctx context.Context, dev device.Device, env link.Env) (time.Duration, error) {
	dev.ClientID = fmt.Sprintf("ready-rail-test-%d", time.Now().UnixNano())
	d := New(dev, env, link.NewMeters())
	start := time.Now()
	if err := d.Connect(ctx); err != nil {
		return 0, Explain(err, dev)
	}
	took := time.Since(start)
	return took, d.Close()
}

// Explain puts a failure of the link into plain words, with a way to mend it.
func Explain(err error, dev device.Device) error {
	var dns *net.DNSError
	var unknown x509.UnknownAuthorityError
	var hostname x509.HostnameError
	text := err.Error()
	switch {
	case errors.Is(err, link.ErrForbidden):
		return err
	case errors.As(err, &dns):
		return say.Errorf("no host is known by the name %s: check the spelling, or give an IP address", dev.Host)
	case errors.Is(err, syscall.ECONNREFUSED), strings.Contains(text, "connection refused"):
		return say.Errorf("%s refused the connection: nothing listens on port %d there", dev.Host, dev.Port)
	case errors.As(err, &unknown), errors.As(err, &hostname), strings.Contains(text, "x509:"):
		return say.New("the broker's certificate is not trusted here: give its authority to this server, or trust the certificate itself by its fingerprint")
	case strings.Contains(text, "not Authorized"), strings.Contains(text, "bad user name or password"):
		return say.New("the broker does not take this user: check the credential in the vault")
	case strings.Contains(text, "identifier rejected"):
		return say.New("the broker does not take this client id: choose another")
	case errors.Is(err, link.ErrNoAnswer), errors.Is(err, context.DeadlineExceeded), strings.Contains(text, "i/o timeout"):
		return say.Errorf("no answer from %s within %d ms: check the host, the network and the firewall", dev.Host, dev.Timeout)
	case strings.Contains(text, "EOF"):
		return say.Errorf("%s closed the connection: does it speak MQTT?", dev.Host)
	}
	return say.Errorf("the link failed: %v", err)
}
