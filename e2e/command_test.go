package e2e

import (
	"database/sql"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	_ "modernc.org/sqlite"
)

// refusal runs the program, which has to end with one line and exit code 1.
func refusal(t *testing.T, args ...string) string {
	t.Helper()
	out, err := exec.Command(binary, args...).CombinedOutput()
	exit, ok := err.(*exec.ExitError)
	if !ok || exit.ExitCode() != 1 {
		t.Fatalf("%v: %v\n%s", args, err, out)
	}
	if n := strings.Count(strings.TrimSpace(string(out)), "\n"); n != 0 {
		t.Errorf("%v said more than one line:\n%s", args, out)
	}
	return string(out)
}

func TestStartsThatCannotBe(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	empty := filepath.Join(t.TempDir(), "data")
	if out := refusal(t, "serve", "--addr", l.Addr().String(), "--data", empty); !strings.Contains(out, "address already in use") {
		t.Errorf("a port in use: %s", out)
	}
	if _, err := os.Stat(empty); err == nil {
		t.Error("a port in use touched the data")
	}
	file := filepath.Join(t.TempDir(), "file")
	os.WriteFile(file, nil, 0o600)
	if out := refusal(t, "serve", "--addr", "127.0.0.1:0", "--data", filepath.Join(file, "x")); !strings.Contains(out, file) {
		t.Errorf("a folder that cannot be: %s", out)
	}
	newer := t.TempDir()
	p := start(t, "Ready Rail on", "serve", "--addr", freeAddr(t), "--data", newer)
	p.end()
	db, err := sql.Open("sqlite", filepath.Join(newer, "server.db"))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, 1)"); err != nil {
		t.Fatal(err)
	}
	db.Close()
	if out := refusal(t, "serve", "--addr", "127.0.0.1:0", "--data", newer); !strings.Contains(out, "newer Ready Rail (version 99") {
		t.Errorf("a newer database: %s", out)
	}
	busy := t.TempDir()
	start(t, "Ready Rail on", "serve", "--addr", freeAddr(t), "--data", busy)
	if out := refusal(t, "serve", "--addr", "127.0.0.1:0", "--data", busy); !strings.Contains(out, "in use by another") {
		t.Errorf("a folder in use: %s", out)
	}
	if out := refusal(t, "bench", "moon"); !strings.Contains(out, "use one of formula, engine, alarms, edit, poll, scene") {
		t.Errorf("%s", out)
	}
}
