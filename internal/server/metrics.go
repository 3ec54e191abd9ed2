package server

import (
	"crypto/subtle"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"readyrail/internal/host"
	"readyrail/internal/link"
)

// metrics are the server's figures in the text format of Prometheus.
type metrics struct {
	token    string
	requests *prometheus.HistogramVec
	handler  http.Handler
}

func newMetrics(h *host.Host, live *liveSessions, token string) *metrics {
	m := &metrics{token: token, requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "readyrail_http_request_seconds",
		Help: "Time that requests took, but for the live connection.", Buckets: []float64{.005, .02, .1, .5, 2, 10}},
		[]string{"method", "status"})}
	r := prometheus.NewRegistry()
	r.MustRegister(collectors.NewGoCollector(), m.requests, newFigures(h, live))
	m.handler = promhttp.HandlerFor(r, promhttp.HandlerOpts{MaxRequestsInFlight: 4})
	return m
}

// count measures a request.
func (m *metrics) count(c *gin.Context) {
	from := time.Now()
	c.Next()
	m.requests.WithLabelValues(c.Request.Method, strconv.Itoa(c.Writer.Status()/100)+"xx").Observe(time.Since(from).Seconds())
}

// metricsOf answers with the figures whoever manages the server, and who shows the token
// that the server was started with.
func (s *Server) metricsOf(c *gin.Context) {
	given, bearer := strings.CutPrefix(c.GetHeader("Authorization"), "Bearer ")
	known := bearer && s.metrics.token != "" && subtle.ConstantTimeCompare([]byte(given), []byte(s.metrics.token)) == 1
	if !known {
		if who, err := s.signedIn(c.Request.Context(), ""); err != nil || !who.Server {
			c.Header("WWW-Authenticate", "Bearer")
			c.String(http.StatusUnauthorized, "the figures are for who manages the server, or shows the token that it was started with\n")
			return
		}
	}
	s.metrics.handler.ServeHTTP(c.Writer, c.Request)
}

// figures collects what the host tells of itself at the moment it is asked.
type figures struct {
	host      *host.Host
	live      *liveSessions
	described map[string]*prometheus.Desc // by name
}

var (
	ofProject = []string{"project"}
	ofProgram = []string{"project", "program"}
	ofLink    = []string{"project", "program", "device"}

	// told are the figures beside those of requests and of Go.
	told = []struct {
		name, help string
		labels     []string
	}{
		{"readyrail_disk_free_bytes", "Bytes that are left where the data lies.", nil},
		{"readyrail_backup_age_hours", "Hours since the last backup; -1 for never.", nil},
		{"readyrail_backup_failed", "1 where the last backup failed.", nil},
		{"readyrail_memory_megabytes", "Memory of the server.", nil},
		{"readyrail_load_percent", "Processor time of the server, of one core.", nil},
		{"readyrail_sockets", "Live connections of pages.", nil},
		{"readyrail_projects_broken", "Projects that could not be opened.", nil},
		{"readyrail_release", "Number of the release that runs; 0 for none.", ofProject},
		{"readyrail_desks", "Desks and workshops that are open.", ofProject},
		{"readyrail_tags", "Tags of a program.", ofProgram},
		{"readyrail_engine_late_seconds", "By how much the engine's last tick came later than it was due.", ofProgram},
		{"readyrail_engine_waiting", "Batches of values that the engine has not taken yet.", ofProgram},
		{"readyrail_link_up", "1 where the device is connected.", ofLink},
		{"readyrail_link_round_trip_seconds", "The device's last round trip.", ofLink},
		{"readyrail_link_requests_total", "Requests to the device.", ofLink},
		{"readyrail_link_errors_total", "Requests to the device that failed.", ofLink},
		{"readyrail_link_missed", "Polls of the device that were left out, as it was too slow.", ofLink},
	}
)

func newFigures(h *host.Host, live *liveSessions) *figures {
	f := &figures{h, live, map[string]*prometheus.Desc{}}
	for _, x := range told {
		f.described[x.name] = prometheus.NewDesc(x.name, x.help, x.labels, nil)
	}
	return f
}

// Describe and Collect are the collector's.
func (f *figures) Describe(to chan<- *prometheus.Desc) {
	for _, d := range f.described {
		to <- d
	}
}

func (f *figures) Collect(to chan<- prometheus.Metric) {
	tell := func(name string, value float64, labels ...string) {
		kind := prometheus.GaugeValue
		if strings.HasSuffix(name, "_total") {
			kind = prometheus.CounterValue
		}
		to <- prometheus.MustNewConstMetric(f.described[name], kind, value, labels...)
	}
	now := f.host.Figures(time.Now())
	tell("readyrail_disk_free_bytes", float64(now.DiskFree))
	tell("readyrail_backup_age_hours", now.BackupAge)
	tell("readyrail_backup_failed", one(now.BackupFailed))
	tell("readyrail_memory_megabytes", now.Memory)
	tell("readyrail_load_percent", now.Load)
	tell("readyrail_sockets", float64(f.live.count()))
	tell("readyrail_projects_broken", float64(now.Broken))
	for _, p := range now.Projects {
		tell("readyrail_release", float64(p.Release), p.ID)
		tell("readyrail_desks", float64(p.Desks), p.ID)
		for _, x := range p.Programs {
			in := []string{p.ID, string(x.Program)}
			tell("readyrail_tags", float64(x.Tags), in...)
			tell("readyrail_engine_late_seconds", x.Late.Seconds(), in...)
			tell("readyrail_engine_waiting", float64(x.Waiting), in...)
			for _, l := range x.Links {
				of := []string{p.ID, string(x.Program), l.Name}
				tell("readyrail_link_up", one(l.State == link.Up), of...)
				tell("readyrail_link_round_trip_seconds", l.RoundTrip/1000, of...)
				tell("readyrail_link_requests_total", float64(l.Requests), of...)
				tell("readyrail_link_errors_total", float64(l.Errors), of...)
				tell("readyrail_link_missed", float64(l.Missed), of...)
			}
		}
	}
}

// one is 1 for what holds.
func one(holds bool) float64 {
	if holds {
		return 1
	}
	return 0
}
