package server

import (
	"net/http"
	"readyrail/internal/core/say"
	"sync/atomic"

	"github.com/gin-gonic/gin"
)

// How large a request may be.
const (
	strangerBody = 16 << 10  // before sign-in
	usualBody    = 2 << 20   // of an operation that says nothing else
	maxBody      = 72 << 20  // of any; the import of a tag list is the largest
	largeBodies  = 160 << 20 // of all that are larger than usual and read at once
)

// bodyLimits are the operations that take more than the usual.
var bodyLimits = map[string]int64{
	"post-projects-project-imports":                 maxBody,
	"post-projects-project-edits":                   32 << 20,
	"post-projects-project-effects":                 32 << 20,
	"post-projects-project-plans-equipment":         16 << 20,
	"post-projects-project-drawings":                16 << 20,
	"post-projects-project-words-language-sheet":    17 << 20,
	"post-projects-project-alarm-definitions-sheet": 17 << 20,
	"post-projects-project-pictures":                3 << 20,
	"post-projects-project-books-book-recipes":      32 << 20,
	"post-projects-project-books-book-sheet":        17 << 20,
	"post-vault-import":                             6 << 20,
}

func bodyLimit(operation string) int64 {
	if n, ok := bodyLimits[operation]; ok {
		return n
	}
	return usualBody
}

// bodyBudget bounds what large requests take together.
type bodyBudget struct{ left atomic.Int64 }

// take reserves what a request announces; it is given back with the function
// that it returns. nil means that others take too much at present.
func (b *bodyBudget) take(n int64) (giveBack func()) {
	if b.left.Add(-n) < 0 {
		b.left.Add(n)
		return nil
	}
	return func() { b.left.Add(n) }
}

// bodies bounds what a request may bring: little before sign-in, and together
// no more than the server can hold.
func (s *Server) bodies(c *gin.Context) {
	most := int64(maxBody)
	if s.sessions.GetString(c.Request.Context(), personKey) == "" {
		most = strangerBody
	} else if c.Request.ContentLength < 0 {
		most = usualBody // larger ones say how large they are
	}
	if c.Request.ContentLength > most {
		refuse(c, http.StatusRequestEntityTooLarge, say.New("this is more than is taken here"))
		return
	}
	if n := c.Request.ContentLength; n > usualBody {
		giveBack := s.budget.take(n)
		if giveBack == nil {
			c.Header("Retry-After", "5")
			refuse(c, http.StatusServiceUnavailable, say.New("other large files are being read: try again in a moment"))
			return
		}
		defer giveBack()
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most)
	c.Next()
}
