package main

import (
	"bytes"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// TestWhatTheServerIsToldByFiles: a notice is a text of a bounded length; the log is in
// the form and of the level that is asked for.
func TestWhatTheServerIsToldByFiles(t *testing.T) {
	dir := t.TempDir()
	files := map[string]string{"good": " Only people of the yard.\n", "empty": " \n", "long": strings.Repeat("é", 1001), "raw": "\xff\xfe"}
	for name, text := range files {
		file := filepath.Join(dir, name)
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		notice, err := noticeOf(file)
		if (err == nil) != (name == "good") || name == "good" && notice != "Only people of the yard." {
			t.Errorf("%s: %q %v", name, notice, err)
		}
	}
	if notice, err := noticeOf(""); notice != "" || err != nil {
		t.Errorf("none: %q %v", notice, err)
	}
	if _, err := noticeOf(filepath.Join(dir, "gone")); err == nil {
		t.Error("a file that is not there")
	}
	for _, c := range []struct{ format, level, want string }{
		{"text", "info", "level=WARN msg=low disk=1\n"}, {"json", "warn", `"level":"WARN","msg":"low","disk":1}` + "\n"}, {"text", "error", ""},
	} {
		var out bytes.Buffer
		log, err := (&settings{logFormat: c.format, logLevel: c.level}).logger(&out)
		if err != nil {
			t.Fatal(err)
		}
		log.Warn("low", slog.Int("disk", 1))
		if !strings.HasSuffix(out.String(), c.want) || c.want == "" && out.Len() > 0 {
			t.Errorf("%v: %s", c, out.String())
		}
	}
	for _, o := range []settings{{logFormat: "xml", logLevel: "info"}, {logFormat: "text", logLevel: "loud"}} {
		if _, err := o.logger(&bytes.Buffer{}); err == nil {
			t.Errorf("%+v was taken", o)
		}
	}
}
