package server

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/hex"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strconv"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"

	"readyrail/internal/core/say"
	"readyrail/web"
)

// frontEnd serves the built application; paths that are no file are pages of
// it.
func (s *Server) frontEnd() gin.HandlerFunc {
	app, err := fs.Sub(web.Files, "dist/app")
	if err != nil {
		panic(err)
	}
	files := http.FileServerFS(app)
	short := &shortened{of: app}
	return func(c *gin.Context) {
		path := c.Request.URL.Path
		if strings.HasPrefix(path, "/api/") {
			refuse(c, http.StatusNotFound, say.Errorf("there is nothing at %s", path))
			return
		}
		if f, err := app.Open(strings.TrimPrefix(path, "/")); err == nil && path != "/" {
			f.Close()
			if strings.HasPrefix(path, "/assets/") {
				c.Header("Cache-Control", "public, max-age=31536000, immutable")
			}
		} else if strings.HasPrefix(path, "/assets/") {
			refuse(c, http.StatusNotFound, say.Errorf("there is nothing at %s", path))
			return
		} else {
			c.Request.URL.Path = "/"
			c.Header("Cache-Control", "no-cache")
		}
		if strings.HasSuffix(path, ".webmanifest") {
			c.Header("Content-Type", manifestType)
		}
		if !short.serve(c.Writer, c.Request) {
			files.ServeHTTP(c.Writer, c.Request)
		}
	}
}

// build names the built application: another one has other files.
func build() string {
	page, err := web.Files.ReadFile("dist/app/index.html")
	if err != nil {
		return ""
	}
	sum := sha256.Sum256(page)
	return hex.EncodeToString(sum[:6])
}

// shortened are the texts of the front end as they go out compressed; each is made
// once. Answers of the API are not compressed: what is secret in them does not lie
// beside what a stranger may have put there.
type shortened struct {
	of fs.FS

	mu   sync.Mutex
	made map[string][]byte // nil for what does not get shorter
}

// texts are the endings of files that get shorter.
var texts = map[string]bool{".js": true, ".css": true, ".html": true, ".svg": true, ".json": true}

// manifestType is the type of what makes an application of the pages (W3C Web Application
// Manifest).
const manifestType = "application/manifest+json"

// serve answers with a file where it is a text and whoever asks takes it compressed.
func (s *shortened) serve(w http.ResponseWriter, r *http.Request) bool {
	name := strings.TrimPrefix(r.URL.Path, "/")
	if name == "" {
		name = "index.html"
	}
	w.Header().Add("Vary", "Accept-Encoding")
	if r.Method != http.MethodGet || !texts[path.Ext(name)] || !strings.Contains(r.Header.Get("Accept-Encoding"), "gzip") {
		return false
	}
	data := s.file(name)
	if data == nil {
		return false
	}
	w.Header().Set("Content-Type", mime.TypeByExtension(path.Ext(name)))
	w.Header().Set("Content-Encoding", "gzip")
	w.Header().Set("Content-Length", strconv.Itoa(len(data)))
	w.WriteHeader(http.StatusOK)
	w.Write(data)
	return true
}

func (s *shortened) file(name string) []byte {
	s.mu.Lock()
	defer s.mu.Unlock()
	if data, ok := s.made[name]; ok {
		return data
	}
	if s.made == nil {
		s.made = map[string][]byte{}
	}
	whole, err := fs.ReadFile(s.of, name)
	if err != nil {
		return nil
	}
	var out bytes.Buffer
	z, err := gzip.NewWriterLevel(&out, gzip.DefaultCompression)
	if err == nil {
		_, err = z.Write(whole)
	}
	if err == nil {
		err = z.Close()
	}
	if err != nil || out.Len() >= len(whole) {
		s.made[name] = nil
		return nil
	}
	s.made[name] = out.Bytes()
	return s.made[name]
}
