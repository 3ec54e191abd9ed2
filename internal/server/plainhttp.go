package server

import (
	"bufio"
	"bytes"
	"crypto/tls"
	"fmt"
	"io"
	"net"
	"net/http"
	"time"
)

// SecureListener speaks TLS on a listener. Who comes in the clear is shown the way to
// HTTPS, and told nothing else.
func (s *Server) SecureListener(l net.Listener) net.Listener {
	return &secure{l, s, s.options.Certificate.Config()}
}

type secure struct {
	net.Listener
	s      *Server
	config *tls.Config
}

// Accept returns at once: what a client sends is read by whoever serves it.
func (l *secure) Accept() (net.Conn, error) {
	c, err := l.Listener.Accept()
	if err != nil {
		return nil, err
	}
	return tls.Server(&perhapsPlain{Conn: c, s: l.s}, l.config), nil
}

// perhapsPlain looks at the first byte of a connection: a handshake goes on to TLS, and
// a request in the clear is answered with the way to HTTPS.
type perhapsPlain struct {
	net.Conn
	s      *Server
	looked bool
}

// handshake is the first byte of a TLS record that begins one (RFC 8446, 5.1).
const handshake = 22

// plainPatience is how long a request in the clear may take to come.
const plainPatience = 5 * time.Second

func (c *perhapsPlain) Read(b []byte) (int, error) {
	if c.looked || len(b) == 0 {
		return c.Conn.Read(b)
	}
	c.looked = true
	n, err := c.Conn.Read(b[:1])
	if n == 0 || b[0] == handshake {
		return n, err
	}
	c.answer(b[0])
	return 0, io.EOF
}

func (c *perhapsPlain) answer(first byte) {
	_ = c.Conn.SetDeadline(time.Now().Add(plainPatience)) // one that is gone is not answered
	in := io.MultiReader(bytes.NewReader([]byte{first}), io.LimitReader(c.Conn, 8<<10))
	r, err := http.ReadRequest(bufio.NewReader(in))
	if err != nil {
		return
	}
	const head = "HTTP/1.1 %s\r\nContent-Type: text/plain; charset=utf-8\r\nConnection: close\r\n%s\r\n%s\n"
	if (r.Method != http.MethodGet && r.Method != http.MethodHead) || !c.s.allowedHost(r.Host) {
		fmt.Fprintf(c.Conn, head, "400 Bad Request", "", "This server speaks HTTPS: ask it at https://")
		return
	}
	to := "https://" + r.Host + r.URL.EscapedPath()
	fmt.Fprintf(c.Conn, head, "308 Permanent Redirect", "Location: "+to+"\r\n", "This server speaks HTTPS: "+to)
}
