package broker

import (
	"net"
	"testing"
	"time"

	"github.com/mochi-mqtt/server/v2/hooks/auth"
)

// A connection that never says a word does not keep the broker from closing,
// and is cut by it.
func TestCloseEndsEveryConnection(t *testing.T) {
	for range 20 {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			t.Fatal(err)
		}
		b, err := Serve(l, new(auth.AllowHook), nil)
		if err != nil {
			t.Fatal(err)
		}
		c, err := net.Dial("tcp", l.Addr().String())
		if err != nil {
			t.Fatal(err)
		}
		b.Close()
		c.SetReadDeadline(time.Now().Add(5 * time.Second))
		if n, err := c.Read(make([]byte, 1)); n != 0 || err == nil {
			t.Fatalf("still connected: %d, %v", n, err)
		} else if e, ok := err.(net.Error); ok && e.Timeout() {
			t.Fatal("still connected after the broker closed")
		}
		c.Close()
		if c, err := net.Dial("tcp", l.Addr().String()); err == nil {
			c.Close()
			t.Fatal("the broker still listens")
		}
	}
}

func TestSettingsThatDoNotFit(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := Serve(l, new(auth.Hook), "not rules"); err == nil {
		t.Fatal("rules of the wrong type were taken")
	}
	if c, err := net.Dial("tcp", l.Addr().String()); err == nil {
		c.Close()
		t.Fatal("the listener was left open")
	}
}
