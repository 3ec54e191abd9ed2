package server

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
)

// A list stays open over many requests: what they carry does not get into it.
func TestAnOpenListKeepsItsContent(t *testing.T) {
	c := newServer(t).as(t, "ada")
	const at = "/api/projects/larchmoor/imports"
	w := c.do("POST", at+"?name=other.txt", "Symbol\tKind\tReg\nBulk/A\tWORD\t400301\nBulk/B\tWORD\t400302\n", "Content-Type",
		"application/octet-stream")
	var info struct {
		ID     string
		Needs  bool
		Counts map[string]int
	}
	if err := json.Unmarshal(w.Body.Bytes(), &info); err != nil || !info.Needs {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	match := fmt.Sprintf(`{"match":{"source":"other","header":true,"columns":{"path":"Symbol","type":"Kind","address":"Reg"},"separators":"/","device":%q},"options":{}}`, "d-car")
	for range 3 {
		c.do("POST", "/api/projects/larchmoor/formulas", `{"formula":"`+strings.Repeat("1 + ", 100)+`1"}`)
		w := c.do("PUT", at+"/"+info.ID, match)
		if err := json.Unmarshal(w.Body.Bytes(), &info); err != nil || w.Code != 200 || info.Counts["new"] != 2 {
			t.Fatalf("%d %s", w.Code, w.Body)
		}
	}
}
