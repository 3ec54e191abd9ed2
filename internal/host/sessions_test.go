package host

import (
	"log/slog"
	"testing"
	"time"

	"readyrail/internal/store"
)

// TestTheDiskHasNoToken: what lies on disk, and so in every copy of it, goes on with no
// session; and a session that is known from the disk alone is listed and ended.
func TestTheDiskHasNoToken(t *testing.T) {
	server, err := store.OpenServer(t.TempDir(), nil)
	if err != nil {
		t.Fatal(err)
	}
	defer server.Close()
	const token = "what a browser shows"
	later := time.Now().Add(time.Hour)
	if err := newSessions(server.Sessions(), slog.Default()).Commit(token, []byte("tom"), later); err != nil {
		t.Fatal(err)
	}
	onlyDisk, err := server.Sessions().All()
	if err != nil || len(onlyDisk) != 1 || onlyDisk[token] != nil {
		t.Fatalf("the disk has %v, %v", onlyDisk, err)
	}
	again := newSessions(server.Sessions(), slog.Default()) // after a start
	for key := range onlyDisk {
		for _, shown := range []string{key, onDisk + key} {
			if _, found, _ := again.Find(shown); found {
				t.Errorf("%q goes on with it", shown)
			}
		}
	}
	list, err := again.All()
	if err != nil || len(list) != 1 {
		t.Fatalf("%v %v", list, err)
	}
	for known := range list {
		if SessionName(known) != SessionName(token) {
			t.Error("it has another name before it is gone on with")
		}
	}
	if data, found, _ := again.Find(token); !found || string(data) != "tom" {
		t.Errorf("%q %v", data, found)
	}
	// Changed and ended by what is known from the disk, as after one more start.
	again = newSessions(server.Sessions(), slog.Default())
	list, _ = again.All()
	for known := range list {
		if err := again.Commit(known, []byte("iris"), later); err != nil {
			t.Fatal(err)
		}
		if data, found, _ := again.Find(token); !found || string(data) != "iris" {
			t.Errorf("changed: %q %v", data, found)
		}
		if err := again.Delete(known); err != nil {
			t.Fatal(err)
		}
	}
	if left, err := newSessions(server.Sessions(), slog.Default()).All(); err != nil || len(left) > 0 {
		t.Errorf("ended: %v %v", left, err)
	}
}
