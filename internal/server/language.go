package server

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"
	"golang.org/x/text/language"

	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
)

// The languages in which the server speaks; the first where none fits.
var spoken = []language.Tag{language.English, language.German}
var matcher = language.NewMatcher(spoken)

// languageOf chooses by what a client accepts (RFC 9110, 12.5.4).
func languageOf(accepted string) string {
	_, i := language.MatchStrings(matcher, accepted)
	base, _ := spoken[i].Base()
	return base.String()
}

type languageKey struct{}

// listen notes in which language who asks is answered.
func listen(c *gin.Context) {
	l := languageOf(c.GetHeader("Accept-Language"))
	c.Request = c.Request.WithContext(context.WithValue(c.Request.Context(), languageKey{}, l))
}

// heard is the language of a request.
func heard(ctx context.Context) string {
	if l, ok := ctx.Value(languageKey{}).(string); ok {
		return l
	}
	return say.English
}

// said puts an error into the language of who asks; empty for none.
func said(ctx context.Context, err error) string {
	if err == nil {
		return ""
	}
	return say.In(heard(ctx), err)
}

// in is the problem in the words of a language.
func (p *Problem) in(language string) *Problem {
	told := *p
	if p.why != nil {
		told.Detail = say.In(language, p.why)
	}
	if p.Refusal != nil {
		refusal := *p.Refusal
		refusal.Message = say.In(language, p.Refusal)
		told.Refusal = &refusal
	}
	return &told
}

// speak is what every answer goes through: a problem is told in the language of who
// asks.
func speak(ctx huma.Context, _ string, answer any) (any, error) {
	if p, ok := answer.(*Problem); ok {
		return p.in(heard(ctx.Context())), nil
	}
	return say.Tell(heard(ctx.Context()), answer), nil
}

// refuse ends a request that comes to no operation of the API.
func refuse(c *gin.Context, status int, why error) {
	c.AbortWithStatusJSON(status, because(status, why).in(heard(c.Request.Context())))
}

// because is a problem with this reason.
func because(status int, why error) *Problem {
	return &Problem{Status: status, Title: http.StatusText(status), Detail: why.Error(), why: why}
}

var _ say.Sayer = (*project.Refusal)(nil)
