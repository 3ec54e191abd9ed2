package opcua

import (
	"context"
	"errors"
	"io"
	"net"
	"syscall"

	"github.com/gopcua/opcua/ua"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/link"
)

// Explain puts a failure of the link into plain words, with a way to mend it.
func Explain(err error, dev device.Device) error {
	var dns *net.DNSError
	var u *Untrusted
	var code ua.StatusCode
	switch {
	case errors.As(err, &u), errors.Is(err, link.ErrForbidden):
		return err
	case errors.As(err, &dns):
		return say.Errorf("no host is known by the name %s: check the spelling, or give an IP address", dev.Host)
	case errors.Is(err, syscall.ECONNREFUSED):
		return say.Errorf("%s refused the connection: nothing listens on port %d there", dev.Host, dev.Port)
	case errors.Is(err, syscall.EHOSTUNREACH), errors.Is(err, syscall.ENETUNREACH):
		return say.Errorf("there is no way to %s from this server: check the network", dev.Host)
	case errors.Is(err, link.ErrNoAnswer), errors.Is(err, context.DeadlineExceeded):
		return say.Errorf("no answer from %s within %d ms: check the host, the network and the firewall", dev.Host, dev.Timeout)
	case errors.As(err, &code):
		switch code {
		case ua.StatusBadIdentityTokenRejected, ua.StatusBadUserAccessDenied, ua.StatusBadIdentityTokenInvalid:
			return say.New("the server does not take this user: check the credential in the vault")
		case ua.StatusBadSecurityChecksFailed, ua.StatusBadCertificateUntrusted:
			return say.New("the server does not trust this client's certificate: accept it there")
		}
		return say.Errorf("%s", statusText(code))
	case errors.Is(err, io.EOF), errors.Is(err, syscall.ECONNRESET), errors.Is(err, syscall.EPIPE), errors.Is(err, net.ErrClosed):
		return say.Errorf("%s closed the connection: does it speak OPC UA?", dev.Host)
	}
	return say.Errorf("the link failed: %v", err)
}
