package server

import (
	"strings"
	"testing"

	"readyrail/internal/exchange"
)

// What goes out as a spreadsheet comes in again and changes nothing; the
// journal goes out in either form.
func TestAlarmListsAndJournalGoOut(t *testing.T) {
	s := newServer(t)
	c := s.as(t, "ada")
	for _, format := range []string{"csv", "xlsx"} {
		w := c.do("GET", "/api/projects/larchmoor/alarm-definitions/sheet?format="+format, "")
		if w.Code != 200 || !strings.Contains(w.Header().Get("Content-Disposition"), "alarms."+format) {
			t.Fatalf("%s: %d %s", format, w.Code, w.Header())
		}
		in := c.do("POST", "/api/projects/larchmoor/alarm-definitions/sheet?apply=true", w.Body.String())
		if body := in.Body.String(); in.Code != 200 || !strings.Contains(body, `"total":54`) || !strings.Contains(body, `"problems":0`) ||
			strings.Count(body, `"from":"same"`) != 54 {
			t.Errorf("%s came in again as %d %.400s", format, in.Code, body)
		}
		w = c.do("GET", "/api/projects/larchmoor/journal/export?format="+format, "")
		read := exchange.ReadText
		if format == "xlsx" {
			read = exchange.ReadXLSX
		}
		table, err := read(w.Body.Bytes())
		if err != nil || len(table.Cells) < 3 || table.Cells[0][3] != "what" {
			t.Errorf("the journal as %s: %v", format, err)
		}
	}
	if w := c.do("POST", "/api/projects/larchmoor/alarm-definitions/sheet", "name,colour\n"); w.Code != 422 && w.Code != 400 &&
		w.Code != 409 || !strings.Contains(w.Body.String(), "is no column") {
		t.Errorf("an unknown column: %d %s", w.Code, w.Body)
	}
}
