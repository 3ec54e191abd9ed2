package server

import (
	"encoding/json"
	"net/http"
	"testing"
)

// A project that has nothing but one screen is at the Desk what any other is:
// lists are empty, never null.
func TestTheDeskOfANewProject(t *testing.T) {
	ada := newServer(t).as(t, "ada")
	w := ada.do("POST", "/api/projects", `{"name":"New yard"}`)
	var made struct {
		ID string `json:"id"`
	}
	if err := json.Unmarshal(w.Body.Bytes(), &made); err != nil || made.ID == "" {
		t.Fatalf("no project: %d %s", w.Code, w.Body)
	}
	at := "/api/projects/" + made.ID
	for _, step := range [][2]string{
		{"/edits", `{"label":"a screen","ops":[{"kind":"screen","id":"s","path":"","value":{"name":"First","width":1280,"height":676,"elements":{}}}]}`},
		{"/releases", `{"note":"the first"}`},
	} {
		if w := ada.do("POST", at+step[0], step[1]); w.Code >= http.StatusBadRequest {
			t.Fatalf("%s: %d %s", step[0], w.Code, w.Body)
		}
	}
	w = ada.do("GET", at+"/desk", "")
	var desk map[string]any
	if err := json.Unmarshal(w.Body.Bytes(), &desk); err != nil || w.Code != http.StatusOK {
		t.Fatalf("no Desk: %d %s", w.Code, w.Body)
	}
	for _, list := range []string{"screens", "rights", "languages", "areas"} {
		if _, ok := desk[list].([]any); !ok {
			t.Errorf("%s is %v, which no client can go through", list, desk[list])
		}
	}
}
