package server

import (
	"net/http"
	"strings"
	"testing"

	"readyrail/internal/demo"
)

// A trend shows what a person may see, and a question that cannot be is refused.
func TestATrendShowsWhatAPersonMaySee(t *testing.T) {
	s := newServer(t)
	p, err := s.host.Project(demo.ID)
	if err != nil {
		t.Fatal(err)
	}
	dry, _ := p.Draft().FindPath("Kiln1.DryBulb")
	car, _ := p.Draft().FindPath("Car.Position")
	tag, _ := p.Draft().Tag(dry)
	other := p.Draft().AreaOf(tag)
	one := s.with(t, "one", "r-viewer", other)
	all := s.as(t, "ada")
	const trend = "/api/projects/larchmoor/trend"
	for _, c := range []struct {
		what  string
		by    *client
		query string
		code  int
		says  string
	}{
		{"both, by somebody who sees both", all, "?tags=" + dry + "," + car, http.StatusOK, `"path":"Car.Position"`},
		{"one's own area", one, "?tags=" + dry, http.StatusOK, `"path":"Kiln1.DryBulb"`},
		{"another's area", one, "?tags=" + dry + "," + car, http.StatusForbidden, "is missing in Rail car"},
		{"another's area, measured", one, "/between?a=1000&b=2000&tags=" + car, http.StatusForbidden, "is missing in Rail car"},
		{"tags that are not there", all, "?tags=nobody,,", http.StatusOK, `"lines":[]`},
		{"an end before the beginning", all, "?from=2000&to=1000", http.StatusUnprocessableEntity, "ends before it begins"},
		{"too long", all, "?from=1000&to=99999999999999", http.StatusUnprocessableEntity, "400 days"},
		{"too many", all, "?tags=" + strings.Repeat("x,", 41), http.StatusUnprocessableEntity, "40 tags"},
		{"too many points", all, "?points=99999", http.StatusUnprocessableEntity, "points"},
		{"a moment that is none", all, "/between?a=-5&b=x", http.StatusUnprocessableEntity, ""},
	} {
		w := c.by.do("GET", trend+c.query, "")
		if w.Code != c.code || !strings.Contains(w.Body.String(), c.says) {
			t.Errorf("%s: %d %.300s", c.what, w.Code, w.Body)
		}
	}
}
