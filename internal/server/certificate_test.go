package server

import (
	"crypto/tls"
	"crypto/x509"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// TestTheServersOwnCertificate is made once, outlives a start, and is made anew once it
// has ended or when asked to; its key is for nobody else.
func TestTheServersOwnCertificate(t *testing.T) {
	dir, now := t.TempDir(), time.Now()
	own := func(at time.Time) *Certificate {
		t.Helper()
		c, err := OwnCertificate(dir, []string{"yard.example", "10.1.2.3"}, at)
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	first := own(now).Info()
	if !first.Own || len(first.Fingerprint) != 32*3-1 || !first.Until.After(now.AddDate(2, 0, 0)) ||
		!strings.Contains(strings.Join(first.Names, " "), "yard.example") || !strings.Contains(strings.Join(first.Names, " "), "10.1.2.3") {
		t.Errorf("%+v", first)
	}
	if info, err := os.Stat(filepath.Join(dir, ownKey)); err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("the key: %v %v", info, err)
	}
	if again := own(now.AddDate(1, 0, 0)).Info(); again.Fingerprint != first.Fingerprint {
		t.Error("another start made another certificate")
	}
	c := own(now.AddDate(3, 0, 0))
	third := c.Info()
	if third.Fingerprint == first.Fingerprint || !third.Until.After(now.AddDate(5, 0, 0)) {
		t.Errorf("one that has ended goes on: %+v", third)
	}
	if err := c.Renew(now); err != nil || c.Info().Fingerprint == third.Fingerprint {
		t.Errorf("renewed: %v", err)
	}
	// A start that was cut off in the middle of making one makes it anew.
	if err := os.Remove(filepath.Join(dir, ownCertificate)); err != nil {
		t.Fatal(err)
	}
	own(now)
	if err := os.WriteFile(filepath.Join(dir, ownCertificate), []byte("damaged"), 0o644); err != nil {
		t.Fatal(err)
	}
	if _, err := OwnCertificate(dir, nil, now); err == nil || !strings.Contains(err.Error(), "take tls.pem and tls.key away") {
		t.Errorf("a damaged one: %v", err)
	}
	if err := (&Certificate{}).Renew(now); err == nil {
		t.Error("one that was given was renewed")
	}
}

// secured is a server at a port of its own, over TLS.
func secured(t *testing.T) (address string, s *Server, trust *x509.CertPool) {
	t.Helper()
	c, err := OwnCertificate(t.TempDir(), nil, time.Now())
	if err != nil {
		t.Fatal(err)
	}
	s = New(newServer(t).host, Options{Certificate: c})
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	web := &http.Server{Handler: s, ReadHeaderTimeout: time.Second}
	go web.Serve(s.SecureListener(l))
	t.Cleanup(func() { web.Close() })
	trust = x509.NewCertPool()
	trust.AddCert(c.pair.Leaf)
	return l.Addr().String(), s, trust
}

// TestInTheClear: over TLS the server answers; in the clear it shows the way there and
// nothing else, and a client that sends rubbish or nothing gets nothing.
func TestInTheClear(t *testing.T) {
	at, s, trust := secured(t)
	web := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: trust}},
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	r, err := web.Get("https://" + at + "/api/health")
	if err != nil || r.StatusCode != http.StatusOK || r.Header.Get("Strict-Transport-Security") != "" {
		t.Fatalf("%v %v", r, err)
	}
	r.Body.Close()
	raw := func(text string) string {
		t.Helper()
		c, err := net.Dial("tcp", at)
		if err != nil {
			t.Fatal(err)
		}
		defer c.Close()
		_ = c.SetDeadline(time.Now().Add(10 * time.Second))
		if _, err := io.WriteString(c, text); err != nil {
			t.Fatal(err)
		}
		b, _ := io.ReadAll(c)
		return string(b)
	}
	for text, want := range map[string]string{
		"GET /desk/larchmoor HTTP/1.1\r\nHost: " + at + "\r\n\r\n": "Location: https://" + at + "/desk/larchmoor\r\n",
		"GET /a%0d%0aX:y HTTP/1.1\r\nHost: " + at + "\r\n\r\n":     "Location: https://" + at + "/a%0d%0aX:y\r\n",
		"GET / HTTP/1.1\r\nHost: evil.example\r\n\r\n":             "400 Bad Request",
		"POST /api/session HTTP/1.1\r\nHost: " + at + "\r\n\r\n":   "400 Bad Request",
		"rubbish\r\n\r\n": "",
		"\x16\x03\x01rubbish that is no handshake of anybody at all.......": "",
	} {
		got := raw(text)
		if want == "" && strings.Contains(got, "HTTP") || !strings.Contains(got, want) {
			t.Errorf("%q is answered %q, want %q", text, got, want)
		}
	}
	if cookie := s.sessions.Cookie; !cookie.Secure {
		t.Error("the session's cookie goes in the clear")
	}
}

// TestTheCertificateIsShownAndRenewed by who manages the server, and the next connection
// is shown the new one.
func TestTheCertificateIsShownAndRenewed(t *testing.T) {
	at, s, trust := secured(t)
	ada, tom := s.as(t, "ada"), s.as(t, "tom")
	before := s.options.Certificate.Info().Fingerprint
	if w := ada.do("GET", "/api/certificate", ""); !strings.Contains(w.Body.String(), before) {
		t.Errorf("%d %s", w.Code, w.Body)
	}
	for _, method := range []string{"GET", "POST"} {
		if w := tom.do(method, "/api/certificate", ""); w.Code != http.StatusForbidden {
			t.Errorf("%s by an operator: %d", method, w.Code)
		}
	}
	if w := ada.do("POST", "/api/certificate", ""); w.Code != http.StatusOK || strings.Contains(w.Body.String(), before) {
		t.Errorf("%d %s", w.Code, w.Body)
	}
	if c, err := tls.Dial("tcp", at, &tls.Config{RootCAs: trust}); err == nil {
		c.Close()
		t.Error("a new connection is shown the old certificate")
	}
	if w := New(s.host, Options{}).as(t, "ada").do("GET", "/api/certificate", ""); w.Code != http.StatusNotFound {
		t.Errorf("a server without one: %d", w.Code)
	}
}
