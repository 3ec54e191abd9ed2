package server

import (
	"net/http"
	"slices"
	"strings"
	"testing"

	"readyrail/internal/core/access"
	"readyrail/internal/demo"
	"readyrail/internal/host"
)

// What each kind of person may do beside looking at the Desk, by operation.
// Everything that is not named here is refused.
var (
	atTheDesk = []string{"get-session-own", "delete-session-own-id", "delete-session-as",
		"post-session-presence", "delete-session-visit", "post-session-second", "put-session-second", "post-session-second-end",
		"get-projects-project-handovers", "get-projects-project-control", "get-catalogue",
		"get-projects-project-desk", "get-projects-project-points-id",
		"get-projects-project-points-id-course", "get-projects-project-pictures-id",
		"get-projects-project-alarms", "get-projects-project-alarm-limits", "post-projects-project-screen-errors",
		"get-projects-project-alarm-performance", "get-projects-project-trend", "get-projects-project-trend-between",
		"get-projects-project-trend-views", "put-projects-project-trend-own-views", "delete-projects-project-trend-own-views-id",
		"get-projects-project-trend-find", "get-projects-project-trend-find-search",
		"get-projects-project-trend-pairs",
		"get-projects-project-replay-id", "get-projects-project-replay-id-step",
		"get-projects-project-trend-marks", "get-projects-project-trend-table", "get-projects-project-trend-export",
		"get-projects-project-books", "get-projects-project-books-book-recipes", "get-projects-project-recipes-id-versions",
		"post-projects-project-books-book-sheets", "post-projects-project-books-book-plans", "get-projects-project-books-book-targets",
		"get-projects-project-books-book-deliveries", "get-projects-project-books-book-sheet", "get-projects-project-deliveries-seq",
		"get-projects-project-logs", "get-projects-project-logs-id-spans", "get-projects-project-file-folders", "get-projects-project-storage",
		"get-projects-project-journal", "get-projects-project-journal-export", "get-projects-project-journal-occurrences",
		"get-projects-project-journal-id-comments", "get-projects-project-links",
		"get-projects-project-devices-id-diagnosis", "get-projects-project-devices-id-report"}
	operating = []string{"post-projects-project-control-area", "post-projects-project-handovers", "post-projects-project-handovers-seq-taken",
		"post-projects-project-alarms-acts", "post-projects-project-journal-id-comments", "post-projects-project-writes",
		"post-projects-project-trend-notes", "post-projects-project-logs-id-notes",
		"post-projects-project-books-book-recipes", "post-projects-project-books-book-deletions",
		"post-projects-project-books-book-sheet", "post-projects-project-recipes-id-name",
		"post-projects-project-books-book-deliveries", "post-projects-project-deliveries-seq-acts"}
	// Maintenance reads the draft, proves points, holds tags, shelves and changes
	// limits.
	maintaining = []string{"post-projects-project-logs-id-acts", "post-projects-project-logs-id-values", "delete-projects-project-logs-id",
		"put-projects-project-alarm-limits-id", "put-projects-project-overrides-id",
		"delete-projects-project-overrides-id", "put-projects-project-turn", "delete-projects-project-turn",
		"post-projects-project-draft-writes", "post-projects-project-loop-checks", "post-projects-project-trend-pairs-proofs",
		"post-projects-project-screens-id-checks"}
	leading = []string{"post-projects-project-recipes-id-judgements", "post-projects-project-logs-id-acts",
		"post-projects-project-logs-id-values", "delete-projects-project-logs-id",
		"put-projects-project-alarm-limits-id", "get-projects-project-audit", "get-projects-project-audit-seal",
		"get-projects-project-audit-export", "get-projects-project-audit-id-comments", "post-projects-project-audit-id-comments",
		"get-projects-project-journal-archives", "post-projects-project-journal-archives", "get-projects-project-journal-archives-id",
		"get-projects-project-audit-archives", "post-projects-project-audit-archives", "get-projects-project-audit-archives-id"}
	// notLooking are the reads of the draft that go out to devices or take the
	// whole project along.
	notLooking = []string{"get-projects-project-archive", "get-projects-project-carried-recipes",
		"get-projects-project-export", "get-projects-project-imports-id-lines",
		"get-projects-project-devices-id-probe", "get-projects-project-devices-id-browse", "get-projects-project-devices-id-hear",
		"get-projects-project-people", "get-projects-project-panels", "get-projects-project-audit", "get-projects-project-audit-seal",
		"get-projects-project-audit-export", "get-projects-project-audit-id-comments", "post-projects-project-audit-id-comments",
		"get-projects-project-journal-archives", "get-projects-project-journal-archives-id",
		"get-projects-project-audit-archives", "get-projects-project-audit-archives-id"}
)

// with makes a client of a person who has one role in one area.
func (s *Server) with(t *testing.T, name, role, area string) *client {
	t.Helper()
	p, err := s.host.Project(demo.ID)
	if err != nil {
		t.Fatal(err)
	}
	owner := host.Actor{ID: "x", Owner: true, Server: true}
	full := strings.ToUpper(name[:1]) + name[1:] + " Hazel"
	a, err := s.host.PutAccount(t.Context(), owner, "", host.NewAccount{Name: name, FullName: full, Password: "larch-and-fir", Chosen: true})
	if err != nil {
		t.Fatal(err)
	}
	if err := p.SetGrants(t.Context(), host.Actor{Owner: true}, a.ID, []access.Grant{{Role: role, Area: area}}); err != nil {
		t.Fatal(err)
	}
	c := &client{t: t, s: s}
	if w := c.do("POST", "/api/session", `{"name":"`+name+`","password":"larch-and-fir"}`); w.Code != http.StatusOK {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	return c
}

func TestWhoMayDoWhat(t *testing.T) {
	s := newServer(t)
	p, err := s.host.Project(demo.ID)
	if err != nil {
		t.Fatal(err)
	}
	area := p.Draft().Site().Areas[0].ID
	for name, c := range map[string]struct {
		role, area string
		may        func(id string) bool
	}{
		"viewer":   {"r-viewer", "", func(id string) bool { return slices.Contains(atTheDesk, id) }},
		"operator": {"r-operator", "", func(id string) bool { return slices.Contains(atTheDesk, id) || slices.Contains(operating, id) }},
		"one":      {"r-operator", area, func(id string) bool { return slices.Contains(atTheDesk, id) || slices.Contains(operating, id) }},
		"lead": {"r-lead", "", func(id string) bool {
			return slices.Contains(atTheDesk, id) || slices.Contains(operating, id) || slices.Contains(leading, id)
		}},
		"maintenance": {"r-maint", "", func(id string) bool {
			return slices.Contains(atTheDesk, id) || slices.Contains(operating, id) || slices.Contains(maintaining,
				id) || strings.HasPrefix(id, "get-projects-project") && !slices.Contains(notLooking, id)
		}},
	} {
		t.Run(name, func(t *testing.T) {
			who := s.with(t, name, c.role, c.area)
			s.operations(func(id, method, path string) {
				if open[id] {
					return
				}
				if strings.HasSuffix(id, "-diagnosis") || strings.HasSuffix(id, "-report") || strings.HasSuffix(id, "-links") ||
					strings.HasSuffix(id, "-trend-views") || strings.HasSuffix(id, "-project-logs") {
					path += "?program=release"
				}
				w := who.do(method, path, bodies[id])
				if strings.Contains(w.Body.String(), "validation failed") || strings.Contains(w.Body.String(), "expected ") {
					t.Errorf("%s: the body of the test does not pass validation, so nothing is proved: %s", id, w.Body)
				}
				// Writes are refused at the one door, with the right that is missing.
				denied := w.Code == http.StatusForbidden || strings.Contains(w.Body.String(), "only who manages the server")
				if id == "post-projects-project-writes" {
					return
				}
				// Of one area's person some things are refused for their place.
				if c.area != "" && denied && c.may(id) && strings.Contains(w.Body.String(), "is missing") {
					return
				}
				if denied == c.may(id) {
					t.Errorf("%s %s: %d %s", method, path, w.Code, w.Body)
				}
			})
		})
	}
}
