// Package directory asks a company's directory who somebody is: by LDAP with a name and a
// password, and by OpenID Connect with a visit to the provider. It knows nothing of
// accounts and roles here.
package directory

import (
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/say"
)

// Member is a person as the directory knows one.
type Member struct {
	Subject  string // never changes and is given to nobody else: what the person is known by for good
	Name     string // that the person signs in with
	FullName string
	Groups   []string
	Renewal  string // with what the directory is asked again, where it gives something
}

// Credential is with what the server itself is known to the directory.
type Credential struct{ User, Password string }

// Asker is a directory that can be asked again who somebody is.
type Asker interface {
	// Again asks for a member anew: ErrGone where the directory no longer has the person,
	// or no longer lets them in, and *Down where it doesn't answer.
	Again(ctx context.Context, known Member) (Member, error)
	// Reach tries whether the directory answers this server.
	Reach(ctx context.Context) error
}

// ErrWrong says that name and password don't belong together there.
var ErrWrong = errors.New("the directory does not know this name with this password")

// ErrGone says that the directory no longer has a person, or lets them in no longer.
var ErrGone = errors.New("the directory no longer has this person")

// Down says that the directory doesn't answer, or not as one does.
type Down struct{ Why error }

// Error implements error.
func (d *Down) Error() string { return d.Why.Error() }

// Unwrap returns why.
func (d *Down) Unwrap() error { return d.Why }

// patience is how long one question may take.
const patience = 5 * time.Second

// trust are the certificates that a directory is taken by.
func trust(of access.Directory) (*tls.Config, error) {
	c := &tls.Config{MinVersion: tls.VersionTLS12, ServerName: of.Host()}
	if strings.TrimSpace(of.Authority) == "" {
		return c, nil
	}
	c.RootCAs = x509.NewCertPool()
	if !c.RootCAs.AppendCertsFromPEM([]byte(of.Authority)) {
		return nil, say.New("the authority is no certificate in PEM")
	}
	return c, nil
}
