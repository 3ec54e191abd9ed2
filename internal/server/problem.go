package server

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/host"
)

// Problem is every answer that is not a success (RFC 9457): a sentence that
// says what, where, why and the mend, and what it is about.
type Problem struct {
	Status  int              `json:"status"`
	Title   string           `json:"title"`
	Detail  string           `json:"detail"`
	Refusal *project.Refusal `json:"refusal,omitempty" doc:"where an edit was refused"`
	Right   string           `json:"right,omitempty" doc:"the right that is missing"`
	Roles   []string         `json:"roles,omitempty" doc:"roles that have it"`

	why error // what Detail says, so that it can be said in another language
}

func (p *Problem) Error() string { return p.Detail }

// GetStatus is the HTTP status.
func (p *Problem) GetStatus() int { return p.Status }

// ContentType is application/problem+json.
func (p *Problem) ContentType(string) string { return "application/problem+json" }

// mostDetails is how many mistakes of one request are told.
const mostDetails = 10

func init() {
	// Lists are empty, never null.
	huma.DefaultArrayNullable = false
	// Refusals by the API library (a field of the wrong type) look like ours.
	huma.NewError = func(status int, msg string, errs ...error) huma.StatusError {
		var why error = say.Errorf("%v", say.Term(msg))
		for i, err := range errs {
			var d *huma.ErrorDetail
			switch {
			case i >= mostDetails || err == nil:
			case errors.As(err, &d):
				// What was sent is not sent back: it may be long, or a password.
				why = say.Errorf("%v: %v (%s)", why, say.Term(d.Message), d.Location[:min(len(d.Location), 100)])
			default:
				why = say.Errorf("%v: %v", why, err)
			}
		}
		return because(status, why)
	}
}

// problem turns an error of the host into an answer.
func problem(err error) error {
	if err == nil {
		return nil
	}
	p := because(http.StatusInternalServerError, err)
	var denied *access.Denied
	var refusal *project.Refusal
	var refused *host.Refused
	switch {
	case errors.As(err, &p):
		return p
	case errors.As(err, &denied):
		p.Status, p.Right, p.Roles = http.StatusForbidden, string(denied.Right), denied.Roles
	case errors.As(err, &refusal):
		p.Status, p.Refusal = http.StatusUnprocessableEntity, refusal
		if refusal.Stale {
			p.Status = http.StatusConflict
		}
	case errors.As(err, &refused):
		p.Status = http.StatusUnprocessableEntity
	case errors.Is(err, host.ErrFull):
		p.Status = http.StatusInsufficientStorage
	case errors.Is(err, host.ErrNotFound):
		p = because(http.StatusNotFound, say.New("there is no such thing here"))
	case errors.Is(err, context.Canceled):
		p.Status = 499
	}
	p.Title = http.StatusText(p.Status)
	return p
}

var errSignIn = say.New("sign in first")

func unauthorized() error {
	return because(http.StatusUnauthorized, errSignIn)
}
