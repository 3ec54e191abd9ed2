// Package server is the HTTP side: REST, the WebSocket of live values,
// sessions, and the embedded front end. It holds no rules of the job.
package server

import (
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"readyrail/internal/core/say"
	"readyrail/internal/demo"
	"readyrail/internal/host"
)

// Options are what the command line says.
type Options struct {
	Hosts []string // names under which the server may be asked, beside loopback
	// Certificate is what the server shows of itself; nil speaks HTTP.
	Certificate *Certificate
	Demo        []demo.Person // accounts that the sign-in page shows
	// Notice is what the site says to who signs in; empty for nothing.
	Notice string
	// MetricsToken shows the figures to who is not signed in; empty shows them to nobody else.
	MetricsToken string
}

// Server answers requests for a host.
type Server struct {
	host     *host.Host
	options  Options
	sessions *scs.SessionManager
	api      huma.API
	handler  http.Handler
	live     *liveSessions
	metrics  *metrics
	build    string // of the pages
	budget   bodyBudget
	rests    rests
}

// New builds the server.
func New(h *host.Host, o Options) *Server {
	gin.SetMode(gin.ReleaseMode)
	s := &Server{host: h, options: o, sessions: scs.New(), live: newLiveSessions(), build: build()}
	if h != nil {
		s.sessions.Store = h.Sessions()
	}
	s.budget.left.Store(largeBodies)
	s.sessions.Lifetime = 30 * 24 * time.Hour
	s.sessions.IdleTimeout = 12 * time.Hour
	s.sessions.Cookie.Name = "rr_session"
	s.sessions.Cookie.SameSite = http.SameSiteStrictMode
	s.sessions.Cookie.Secure = o.Certificate != nil

	r := gin.New()
	s.metrics = newMetrics(h, s.live, o.MetricsToken)
	r.Use(gin.Recovery(), s.metrics.count, listen, s.guard, s.bodies)
	config := huma.DefaultConfig("Ready Rail", Version)
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath = ""
	config.SchemasPath = "/api/schemas"
	config.CreateHooks = nil
	config.Transformers = []huma.Transformer{speak}
	s.api = humagin.New(r, config)
	s.routes()
	describeLive(s.api)
	r.GET("/api/metrics", s.metricsOf)
	r.NoRoute(s.frontEnd())
	s.handler = s.sessions.LoadAndSave(r)
	return s
}

// Version is the product's version.
const Version = "0.1.0"

// ServeHTTP answers a request. The session library buffers what it saves,
// which an upgrade to a WebSocket cannot have: a socket loads its session once
// and is ended with it.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	r = s.withFrom(r)
	if r.URL.Path != "/api/live" {
		s.handler.ServeHTTP(w, r)
		return
	}
	ctx, err := s.sessions.Load(r.Context(), cookie(r, s.sessions.Cookie.Name))
	if err != nil {
		http.Error(w, "the session cannot be read", http.StatusInternalServerError)
		return
	}
	if !s.allowedHost(r.Host) || !sameOrigin(r) {
		http.Error(w, "not asked from this server's own pages", http.StatusForbidden)
		return
	}
	s.serveLive(w, r.WithContext(ctx))
}

func cookie(r *http.Request, name string) string {
	c, err := r.Cookie(name)
	if err != nil {
		return ""
	}
	return c.Value
}

// guard refuses foreign hosts and origins and sets the headers that every
// answer carries.
func (s *Server) guard(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(), geolocation=(), microphone=(), payment=(), usb=()")
	// What a person was answered is in no cache once they are gone. Pictures of a
	// project are drawn again and again, and say nothing of the plant's state.
	if path := c.Request.URL.Path; strings.HasPrefix(path, "/api/") && !strings.Contains(path, "/pictures/") {
		h.Set("Cache-Control", "no-store")
	}
	// Of a certificate of its own nobody can say that the next one will be trusted, too.
	if c := s.options.Certificate; c != nil && c.dir == "" {
		h.Set("Strict-Transport-Security", "max-age=31536000")
	}
	if !s.allowedHost(c.Request.Host) {
		refuse(c, http.StatusForbidden, say.New("this server is not asked under that name: start it with --host to allow it"))
		return
	}
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead && !sameOrigin(c.Request) {
		refuse(c, http.StatusForbidden, say.New("changes are taken from this server's own pages only"))
		return
	}
}

func (s *Server) allowedHost(host string) bool {
	name := host
	if h, _, err := net.SplitHostPort(host); err == nil {
		name = h
	}
	if name == "localhost" {
		return true
	}
	if ip := net.ParseIP(strings.Trim(name, "[]")); ip != nil && ip.IsLoopback() {
		return true
	}
	for _, a := range s.options.Hosts {
		if strings.EqualFold(a, name) {
			return true
		}
	}
	return false
}

// sameOrigin tells whether a browser sent the request from our own pages.
// Programs that are no browsers send no Origin; a session cookie is not sent
// along by a browser from elsewhere, as it is SameSite=Strict.
func sameOrigin(r *http.Request) bool {
	origin := r.Header.Get("Origin")
	if origin == "" {
		return true
	}
	_, rest, ok := strings.Cut(origin, "://")
	return ok && rest == r.Host
}

// OpenAPI returns the description of the API.
func (s *Server) OpenAPI() *huma.OpenAPI { return s.api.OpenAPI() }
