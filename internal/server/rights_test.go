package server

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/demo"
	"readyrail/internal/host"
)

// A need is what operations ask of a person: one of some rights. Those of everywhere
// count in the whole plant alone, those of anywhere in any area at all. Who is signed in
// needs none for what has neither; what the server's managers do, no right gives.
type need struct {
	everywhere, anywhere, also []access.Right
	operations                 []string
}

func rights(r ...access.Right) []access.Right { return r }

const inProject = "-projects-project"

// of names operations of a project by method and the rest of the path.
func of(method string, paths ...string) (out []string) {
	for _, p := range paths {
		out = append(out, method+inProject+strings.TrimSuffix("-"+p, "-"))
	}
	return out
}

// Who proves points and who holds tags, in whatever area, looks at the draft, as who builds it does.
var (
	building = rights(access.Engineer)
	proving  = rights(access.Commission, access.Override)
)

// needs is the rule of every operation that needs a session. It is written from what
// each right lets people do, and is held against every role.
var needs = []need{
	{operations: []string{"get-session-own", "delete-session-own-id", "delete-session-as", "post-session-presence",
		"delete-session-visit", "post-session-second", "put-session-second", "post-session-second-end", "get-catalogue",
		"get-schemas"}},
	{everywhere: building, anywhere: rights(access.View, access.Commission, access.Override),
		operations: of("get", "pictures-id")},

	{anywhere: rights(access.View), operations: slices.Concat(
		of("get", "desk", "control", "handovers", "points-id", "points-id-course", "alarms", "alarm-limits", "alarm-performance",
			"links", "devices-id-diagnosis", "devices-id-report", "logs", "logs-id-spans", "file-folders", "storage",
			"journal", "journal-export", "journal-occurrences", "journal-id-comments",
			"trend", "trend-between", "trend-views", "trend-find", "trend-find-search", "trend-pairs", "trend-marks", "trend-table",
			"trend-export", "replay-id", "replay-id-step",
			"books", "books-book-recipes", "books-book-targets", "books-book-deliveries", "books-book-sheet", "recipes-id-versions",
			"deliveries-seq"),
		of("post", "books-book-sheets", "books-book-plans", "screen-errors"),
		of("put", "trend-own-views"), of("delete", "trend-own-views-id"))},
	{anywhere: rights(access.Operate), operations: of("post", "control-area", "handovers", "handovers-seq-taken")},
	// In another area than the one that is tried.
	{everywhere: rights(access.Operate), also: rights(access.View), operations: of("post", "writes")},
	{anywhere: rights(access.Acknowledge), operations: of("post", "alarms-acts", "journal-id-comments")},
	{everywhere: rights(access.Acknowledge),
		operations: of("post", "trend-notes", "logs-id-notes")}, // of no area, so of the whole plant
	{anywhere: rights(access.Limits), operations: of("put", "alarm-limits-id")},
	{everywhere: rights(access.Logs),
		operations: slices.Concat(of("post", "logs-id-acts", "logs-id-values"), of("delete", "logs-id"))},
	{anywhere: rights(access.Recipes), also: rights(access.View),
		operations: of("post", "books-book-recipes", "books-book-sheet")},
	{anywhere: rights(access.Recipes), operations: of("post", "books-book-deletions", "recipes-id-name")},
	{anywhere: rights(access.Approve), operations: of("post", "recipes-id-judgements")},
	{anywhere: rights(access.Deliver), operations: of("post", "books-book-deliveries", "deliveries-seq-acts")},

	{everywhere: rights(access.Archive),
		operations: slices.Concat(of("get", "journal-archives", "journal-archives-id"),
			of("post", "journal-archives", "audit-archives"))},
	{everywhere: rights(access.Audit),
		operations: slices.Concat(of("get", "audit", "audit-seal", "audit-export", "audit-id-comments", "audit-archives", "audit-archives-id"),
			of("post", "audit-id-comments", "audit-seal"))},

	{everywhere: building, anywhere: proving,
		operations: of("get", "", "address", "alarm-definitions", "alarm-definitions-sheet", "array", "asked", "books-book-point",
			"commissioning", "devices", "devices-id-map", "differences", "equipment", "equipment-id", "find", "findings", "folder-uses-id",
			"folders", "looks", "loop-checks", "loop-checks-export", "pictures", "protocols", "releases", "releases-open", "roles", "rules",
			"screen-map", "screens", "screens-id", "screen-checks-export", "screens-id-checks", "screens-id-points",
			"styles", "tag-ids", "tags", "tags-id", "tags-id-kept", "trend-plan", "types", "types-id", "types-id-points",
			"uses-id", "watch-sets", "words-language", "words-language-sheet", "workshop")},
	{anywhere: rights(access.Override), operations: slices.Concat(of("put", "overrides-id"), of("delete", "overrides-id"))},
	{everywhere: rights(access.Commission), operations: slices.Concat(of("put", "turn"), of("delete", "turn"),
		of("post", "draft-writes", "loop-checks", "screens-id-checks"))},
	{everywhere: rights(access.Commission), also: rights(access.View), operations: of("post", "trend-pairs-proofs")},
	{everywhere: rights(access.Engineer), operations: slices.Concat(
		of("get", "archive", "carried-recipes", "export", "imports-id-lines", "devices-id-probe", "devices-id-browse", "devices-id-hear"),
		of("post", "alarm-definitions-id-plays", "alarm-definitions-sheet", "books-book-fields", "books-book-fields-sheet",
			"devices-endpoints", "devices-test", "draft-taken", "drawings", "edits", "redo", "undo", "effects",
			"equipment-id-detach", "formulas", "imports", "imports-id-apply", "look-as", "pictures", "plans-block", "plans-duplicates",
			"plans-equipment", "plans-open-recipe", "plans-retype", "plans-substitution", "plans-symbol", "plans-type", "tags-copies",
			"tags-many", "tags-moves", "words-language-sheet"),
		of("put", "imports-id", "try", "watch-sets", "words-language"), of("delete", "try", "watch-sets-id"))},
	{anywhere: rights(access.Engineer), operations: []string{"get-vault"}},
	{everywhere: rights(access.Release), operations: of("post", "releases", "releases-number-return")},
	{everywhere: rights(access.People), operations: slices.Concat(of("get", "people"), of("post", "people"),
		of("put", "people-id", "people-id-badge", "people-id-grants"), of("delete", "people-id-lock", "people-id-second"))},
	{everywhere: rights(access.Panels),
		operations: slices.Concat(of("get", "panels"), of("post", "panels"), of("put", "panels-id"), of("delete", "panels-id"))},
}

// managers are the operations of who manages the server.
var managers = []string{"get-backups", "put-backups", "post-backups", "get-certificate", "post-certificate", "get-directory",
	"put-directory", "post-directory-ask", "post-directory-try", "get-failed-sign-ins", "put-vault", "delete-vault-name", "post-vault-export",
	"post-vault-import", "post-projects", "post-archives"}

// needOf is the rule of an operation; false where it is of the server's managers.
func needOf(t *testing.T, id string) (need, bool) {
	t.Helper()
	for _, n := range needs {
		if slices.Contains(n.operations, id) {
			return n, true
		}
	}
	if !slices.Contains(managers, id) {
		t.Errorf("%s has no rule: name what it needs", id)
	}
	return need{}, false
}

// may tells whether somebody with a role in the whole plant, or in one area, meets a need.
func (n need) may(role *access.Role, wholePlant bool) bool {
	if n.everywhere == nil && n.anywhere == nil {
		return true
	}
	if !slices.ContainsFunc(n.also, role.Has) && n.also != nil {
		return false
	}
	return slices.ContainsFunc(n.anywhere, role.Has) || wholePlant && slices.ContainsFunc(n.everywhere, role.Has)
}

// with makes a client of a person who has one role in one area, or none at all.
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
	var grants []access.Grant
	if role != "" {
		grants = append(grants, access.Grant{Role: role, Area: area})
	}
	if err := p.SetGrants(t.Context(), host.Actor{Owner: true}, a.ID, grants); err != nil {
		t.Fatal(err)
	}
	c := &client{t: t, s: s}
	if w := c.do("POST", "/api/session", `{"name":"`+name+`","password":"larch-and-fir"}`); w.Code != http.StatusOK {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	return c
}

// singleRoles releases a role for each right that has this right alone.
func singleRoles(t *testing.T, p *host.Project) {
	t.Helper()
	owner := host.Actor{ID: "x", Name: "x", Owner: true}
	var ops []project.Op
	for _, r := range access.Rights {
		role := access.Role{ID: "r-only-" + string(r.Right), Name: "Only " + string(r.Right), Rights: rights(r.Right)}
		value, err := json.Marshal(role)
		if err != nil {
			t.Fatal(err)
		}
		ops = append(ops, project.Op{Kind: project.KindRole, ID: role.ID, Value: value})
	}
	if _, err := p.Edit(t.Context(), owner, "single roles", ops); err != nil {
		t.Fatal(err)
	}
	if _, err := p.Publish(t.Context(), owner, host.ReleaseOrder{Note: "single roles"}); err != nil {
		t.Fatal(err)
	}
}

// TestWhoMayDoWhat holds every operation against every role: nobody's, each right alone,
// and those that a new project has; each in the whole plant, and in one area.
func TestWhoMayDoWhat(t *testing.T) {
	s := newServer(t)
	p, err := s.host.Project(demo.ID)
	if err != nil {
		t.Fatal(err)
	}
	singleRoles(t, p)
	area := p.Draft().Site().Areas[0].ID
	roles := maps.Clone(p.Draft().Roles)
	roles[""] = &access.Role{}
	for _, id := range slices.Sorted(maps.Keys(roles)) {
		for _, in := range []string{"", area} {
			name := triedName(id, in)
			t.Run(name, func(t *testing.T) { s.tryEverything(t, p, s.with(t, name, id, in), roles[id], in == "") })
		}
	}
}

// realThings stand where one that there is not would be answered before any right.
var realThings = map[string]string{"replay-id": "s-chamber1", "replay-id-step": "s-chamber1",
	"logs-id": "l-drying", "logs-id-acts": "l-drying", "logs-id-notes": "l-drying", "logs-id-values": "l-drying", "logs-id-spans": "l-drying"}

func real(id, path string) string {
	_, rest, _ := strings.Cut(id, inProject+"-")
	return strings.Replace(path, "t-001", cmp.Or(realThings[rest], "t-001"), 1)
}

// elementNamed is the id of an element of the rail car's screen.
func elementNamed(p *host.Project, name string) string {
	for id, e := range p.Draft().Screens["s-car"].Elements {
		if e.Name == name {
			return id
		}
	}
	return ""
}

// jogSpeed writes the speed of the rail car, which is in its own area.
func jogSpeed(p *host.Project) string {
	return fmt.Sprintf(`{"screen":"s-car","element":"%s","value":"1","seen":"","key":"12345678","at":%d}`,
		elementNamed(p, "Jog speed"), time.Now().UnixMilli())
}

// jogs writes the speed of the rail car; anew where the machine was so slow that the
// command was too old.
func (c *client) jogs(p *host.Project) (w *httptest.ResponseRecorder) {
	for range 5 {
		w = c.do("POST", yard+"/writes", jogSpeed(p))
		if !strings.Contains(w.Body.String(), "s old and was not carried out") {
			break
		}
	}
	return w
}

// triedName names somebody by their role and the area where they have it.
func triedName(role, area string) string {
	return strings.TrimPrefix(cmp.Or(role, "nobody"), "r-") + strings.TrimPrefix(area, "a")
}

// takenBack are what would stand in the way of what comes after it, and of who does.
var takenBack = map[string]string{"post-projects-project-look-as": "/api/session/as", "put-projects-project-turn": yard + "/turn",
	"put-projects-project-try": yard + "/try"}

// ofRelease are read of the draft where nothing else is asked for.
var ofRelease = []string{"-diagnosis", "-report", "-links", "-trend-views", "-project-logs"}

func (s *Server) tryEverything(t *testing.T, p *host.Project, who *client, role *access.Role, wholePlant bool) {
	s.operations(func(id, method, path string) {
		if open[id] {
			return
		}
		if slices.ContainsFunc(ofRelease, func(end string) bool { return strings.HasSuffix(id, end) }) {
			path += "?program=release"
		}
		w := who.do(method, real(id, path), bodies[id])
		if id == "post-projects-project-writes" {
			w = who.jogs(p)
		}
		if back := takenBack[id]; back != "" {
			who.do("DELETE", back, "")
		}
		says := w.Body.String()
		if strings.Contains(says, "validation failed") || strings.Contains(says, "expected ") {
			t.Errorf("%s: the body of the test does not pass validation, so nothing is proved: %s", id, says)
		}
		n, ofProject := needOf(t, id)
		may := ofProject && n.may(role, wholePlant)
		denied := w.Code == http.StatusForbidden || strings.Contains(says, "only who manages the server")
		if denied == may {
			t.Errorf("%s %s: %d %.200s", method, path, w.Code, says)
		}
	})
}

// A rule is of an operation that there is, and no operation has two.
func TestEveryRuleIsOfAnOperation(t *testing.T) {
	s := New(nil, Options{})
	known := map[string]bool{}
	s.operations(func(id, _, _ string) { known[id] = true })
	seen := map[string]bool{}
	for _, n := range append([]need{{operations: managers}}, needs...) {
		for _, id := range n.operations {
			if !known[id] || seen[id] || open[id] {
				t.Errorf("%s: there is none, it is open, or it has two rules", id)
			}
			seen[id] = true
		}
	}
}
