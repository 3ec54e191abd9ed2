package server

import (
	"bytes"
	"compress/gzip"
	"io"
	"net/http"
	"net/http/httptest"
	"testing"
	"testing/fstest"
)

// TestTheFrontEndIsSentShort: its texts go out compressed to who takes them so, and
// are the same; nothing of the API is.
func TestTheFrontEndIsSentShort(t *testing.T) {
	t.Parallel()
	much := func(text string) *fstest.MapFile { return &fstest.MapFile{Data: bytes.Repeat([]byte(text), 500)} }
	files := fstest.MapFS{"index.html": much("<p>one</p>"), "assets/a.js": much("let a;"), "assets/a.woff2": much("x"),
		"assets/tiny.js": {Data: []byte("1")}}
	s := &shortened{of: files}
	ask := func(path, takes string) (*httptest.ResponseRecorder, bool) {
		r := httptest.NewRequest(http.MethodGet, path, nil)
		r.Header.Set("Accept-Encoding", takes)
		w := httptest.NewRecorder()
		return w, s.serve(w, r)
	}
	for path, name := range map[string]string{"/": "index.html", "/assets/a.js": "assets/a.js"} {
		w, ok := ask(path, "br, gzip")
		if !ok || w.Code != http.StatusOK || w.Header().Get("Content-Encoding") != "gzip" || w.Body.Len() > 200 {
			t.Fatalf("%s: %v %d %v", path, ok, w.Code, w.Header())
		}
		z, err := gzip.NewReader(w.Body)
		if err != nil {
			t.Fatal(err)
		}
		if back, err := io.ReadAll(z); err != nil || !bytes.Equal(back, files[name].Data) {
			t.Errorf("%s: %d bytes came back, %v", path, len(back), err)
		}
	}
	for _, c := range [][2]string{{"/assets/a.js", ""}, {"/assets/tiny.js", "gzip"}, {"/assets/a.woff2", "gzip"},
		{"/assets/gone.js", "gzip"}, {"/../x.js", "gzip"}} {
		if w, ok := ask(c[0], c[1]); ok || w.Body.Len() > 0 {
			t.Errorf("%s is sent compressed to who takes %q", c[0], c[1])
		}
	}
	if len(s.made) != 3 {
		t.Errorf("%d are kept: what is not there is not", len(s.made))
	}
}
