package server

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"net/url"
	"strings"
	"testing"
	"time"

	"readyrail/internal/host"
)

// TestRecordedValuesGoOut: what is recorded of tags as pages of a table and as
// files, wide and long.
func TestRecordedValuesGoOut(t *testing.T) {
	c := newServer(t).as(t, "ada")
	query := ""
	var page host.TablePage
	until := time.Now().Add(time.Minute)
	for len(page.Rows) < 4 && time.Now().Before(until) {
		time.Sleep(200 * time.Millisecond)
		from := time.Now().Add(-time.Minute).UnixMilli()
		query = fmt.Sprintf("tags=t-001,t-017,nothing&every=1000&from=%d&to=%d", from, from+90_000)
		page = asked[host.TablePage](c, "/trend/table?"+query)
	}
	if len(page.Columns) != 2 || page.Columns[0].Path != "Kiln1.DryBulb" || page.Columns[0].Unit != "°C" || len(page.Rows) < 4 {
		t.Fatalf("%+v", page)
	}
	for i, r := range page.Rows {
		if r.At%1000 != 0 || i > 0 && r.At != page.Rows[i-1].At+1000 {
			t.Errorf("a row at %d", r.At)
		}
	}
	first := asked[host.TablePage](c, "/trend/table?limit=2&"+query)
	if len(first.Rows) != 2 || first.Next != first.Rows[1].At+1000 {
		t.Errorf("a page of two: %+v", first)
	}
	newest := asked[host.TablePage](c, "/trend/table?limit=2&newest=true&"+query)
	n := len(page.Rows)
	if len(newest.Rows) != 2 || newest.Rows[0].At != page.Rows[n-1].At || newest.Next != page.Rows[n-2].At {
		t.Errorf("the newest two: %+v", newest)
	}

	get := func(more string) []byte {
		w := c.do("GET", "/api/projects/larchmoor/trend/export?"+query+more, "")
		if w.Code != 200 || !strings.Contains(w.Header().Get("Content-Disposition"), "recorded ") {
			t.Fatalf("%s: %d %s", more, w.Code, w.Body)
		}
		return w.Body.Bytes()
	}
	lines, err := csv.NewReader(bytes.NewReader(get(""))).ReadAll()
	if err != nil || len(lines) < 4 || lines[0][1] != "Kiln1.DryBulb [°C]" || len(lines[1]) != 3 {
		t.Fatalf("%v %v", lines, err)
	}
	last := lines[len(lines)-1]
	if _, err := time.Parse(time.RFC3339, last[0]); err != nil {
		t.Error(err)
	}
	long, err := csv.NewReader(bytes.NewReader(get("&form=long"))).ReadAll()
	if err != nil || strings.Join(long[0], ",") != "time,tag,value,unit,bad" || len(long) < 3 {
		t.Errorf("%v %v", long, err)
	}
	if xlsx := get("&format=xlsx"); !bytes.HasPrefix(xlsx, []byte("PK")) {
		t.Errorf("no workbook: %q", xlsx[:min(20, len(xlsx))])
	}
	// How the columns stand, in the page as in the file.
	looks := "&looks=" + url.QueryEscape(`[{"title":"Dry","decimals":3,"prefix":"T "},{"width":80}]`)
	lines, err = csv.NewReader(bytes.NewReader(get(looks))).ReadAll()
	if err != nil || lines[0][1] != "Dry [°C]" {
		t.Errorf("%v %v", lines, err)
	}
	for _, bad := range []string{`[{"decimals":9}]`, `[{"align":"top"}]`, `[{},{},{},{},{}]`, `{`, `[1]`} {
		if w := c.do("GET", "/api/projects/larchmoor/trend/table?"+query+"&looks="+url.QueryEscape(bad), ""); w.Code != 422 {
			t.Errorf("%s: %d %s", bad, w.Code, w.Body)
		}
	}
	if w := c.do("GET", "/api/projects/larchmoor/trend/export?tags=t-001&every=1&from=1&to=34560000000", ""); w.Code != 200 && w.Code != 422 {
		t.Errorf("every millisecond of 400 days: %d", w.Code)
	}
}
