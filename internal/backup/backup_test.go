package backup

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"filippo.io/age"
)

// folder is a data folder of a made-up server.
func folder(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	for path, text := range map[string]string{
		"vault.key": "a key", "audit.sign": "another", "audit.pub": "its public half", "lock": "", "reserve": "room",
		"projects/yard/heads.txt": "head 1\n", "projects/yard/archive/trail-1.trail": "{}\n",
		"backups/ready-rail-20200101-000000/server.db": "old",
		"vault.key.next": "half", "projects/yard/x.part": "half"} {
		put(t, filepath.Join(dir, path), text)
	}
	for _, path := range []string{"server.db", "projects/yard/audit.db", "projects/yard/project.db"} {
		database(t, filepath.Join(dir, path)).Close()
	}
	return dir
}

func put(t *testing.T, path, text string) {
	t.Helper()
	if err := errors.Join(os.MkdirAll(filepath.Dir(path), 0o700), os.WriteFile(path, []byte(text), 0o600)); err != nil {
		t.Fatal(err)
	}
}

func database(t *testing.T, path string) *sql.DB {
	t.Helper()
	db, err := sql.Open("sqlite", "file:"+path+"?_pragma=journal_mode(WAL)&_pragma=busy_timeout(5000)")
	if err == nil {
		_, err = db.Exec("CREATE TABLE IF NOT EXISTS row (n INTEGER PRIMARY KEY, text TEXT)")
	}
	if err == nil {
		_, err = db.Exec("INSERT INTO row (text) VALUES ('larch'), ('spruce')")
	}
	if err != nil {
		t.Fatal(err)
	}
	return db
}

func paths(m *Manifest) (out []string) {
	for _, f := range m.Files {
		out = append(out, f.Path)
	}
	return out
}

func TestABackupComesBack(t *testing.T) {
	ctx := t.Context()
	id, err := age.GenerateX25519Identity()
	if err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		to  age.Recipient
		key Identity
	}{"plain": {}, "encrypted": {id.Recipient(), id}} {
		t.Run(name, func(t *testing.T) {
			data, into := folder(t), t.TempDir()
			m, err := Take(ctx, data, into, Options{To: c.to, Keys: true, Skip: []string{"backups"}})
			if err != nil {
				t.Fatal(err)
			}
			want := []string{"audit.pub", "audit.sign", "projects/yard/archive/trail-1.trail", "projects/yard/audit.db", "projects/yard/heads.txt",
				"projects/yard/project.db", "server.db", "vault.key"}
			if !slices.Equal(paths(m), want) {
				t.Errorf("it has %q", paths(m))
			}
			list, err := List(into)
			if err != nil || len(list) != 1 || list[0].Name != m.Name() || list[0].Sealed != (c.to != nil) || list[0].Bytes < m.Bytes() {
				t.Errorf("%+v %v", list, err)
			}
			back := filepath.Join(t.TempDir(), "data")
			if _, err := Restore(ctx, filepath.Join(into, m.Name()), back, c.key); err != nil {
				t.Fatal(err)
			}
			db := database(t, filepath.Join(back, "projects/yard/project.db"))
			defer db.Close()
			var n int
			if err := db.QueryRow("SELECT count(*) FROM row WHERE text = 'larch'").Scan(&n); err != nil || n != 2 {
				t.Errorf("%d rows, %v", n, err)
			}
			if text, err := os.ReadFile(filepath.Join(back, "vault.key")); err != nil || string(text) != "a key" {
				t.Errorf("%s %v", text, err)
			}
			one := filepath.Join(t.TempDir(), "again")
			if m, err := RestoreProject(ctx, filepath.Join(into, list[0].Name), "yard", one, c.key); err != nil || len(m.Files) != 4 {
				t.Errorf("the project alone: %v %v", m, err)
			}
			if _, err := os.Stat(filepath.Join(one, "audit.db")); err != nil {
				t.Error(err)
			}
		})
	}
}

func TestKeysStayOut(t *testing.T) {
	m, err := Take(t.Context(), folder(t), t.TempDir(), Options{Skip: []string{"backups"}})
	if err != nil {
		t.Fatal(err)
	}
	for _, path := range paths(m) {
		if path == "vault.key" || path == "audit.sign" {
			t.Errorf("%s is in it", path)
		}
	}
}

// TestNothingAnsweredIsMissing: what was written before a backup begins is in it, whatever
// is written meanwhile; and rows that were written together are there together.
func TestNothingAnsweredIsMissing(t *testing.T) {
	data, into := folder(t), t.TempDir()
	ctx, stop := context.WithCancel(t.Context())
	var written atomic.Int64
	var working sync.WaitGroup
	db := database(t, filepath.Join(data, "projects/yard/project.db"))
	defer db.Close()
	working.Go(func() {
		for ctx.Err() == nil {
			if _, err := db.Exec("INSERT INTO row (text) VALUES (?), (?)", strings.Repeat("x", 5000), "its pair"); err != nil {
				t.Error(err)
				return
			}
			written.Add(1)
		}
	})
	for written.Load() < 200 {
		time.Sleep(time.Millisecond)
	}
	before := written.Load()
	m, err := Take(t.Context(), data, into, Options{Keys: true, Skip: []string{"backups"}})
	later := written.Load()
	stop()
	working.Wait()
	if err != nil {
		t.Fatal(err)
	}
	if later == before {
		t.Error("nothing was written while the backup was taken")
	}
	back := filepath.Join(t.TempDir(), "data")
	if _, err := Restore(t.Context(), filepath.Join(into, m.Name()), back, nil); err != nil {
		t.Fatal(err)
	}
	kept, err := sql.Open("sqlite", "file:"+filepath.Join(back, "projects/yard/project.db"))
	if err != nil {
		t.Fatal(err)
	}
	defer kept.Close()
	var all, pairs int64
	if err := kept.QueryRow("SELECT count(*), count(CASE WHEN text = 'its pair' THEN 1 END) FROM row").Scan(&all, &pairs); err != nil {
		t.Fatal(err)
	}
	if pairs < before || all != 2*pairs+4 {
		t.Errorf("%d pairs in %d rows; %d were written before it began", pairs, all, before)
	}
}

// TestABackupThatWasAltered: nothing is brought back of one that is not as it was taken.
func TestABackupThatWasAltered(t *testing.T) {
	list := func(change func(m *Manifest)) func(t *testing.T, dir string) {
		return func(t *testing.T, dir string) {
			m, err := Read(t.Context(), dir, nil)
			if err != nil {
				t.Fatal(err)
			}
			change(m)
			text, err := json.Marshal(m)
			if err != nil {
				t.Fatal(err)
			}
			put(t, filepath.Join(dir, listFile), string(text))
		}
	}
	at := func(m *Manifest, path string) *File {
		return &m.Files[slices.IndexFunc(m.Files, func(f File) bool { return f.Path == path })]
	}
	for name, c := range map[string]struct {
		change func(t *testing.T, dir string)
		says   string
	}{
		"a file altered":      {func(t *testing.T, dir string) { put(t, filepath.Join(dir, "vault.key"), "a kez") }, "not as it was"},
		"a file longer":       {func(t *testing.T, dir string) { put(t, filepath.Join(dir, "vault.key"), "a key more") }, "not as it was"},
		"a file gone":         {func(t *testing.T, dir string) { os.Remove(filepath.Join(dir, "server.db")) }, "the backup has no server.db"},
		"rows miscounted":     {list(func(m *Manifest) { at(m, "server.db").Rows["row"]++ }), "as many rows"},
		"a way out":           {list(func(m *Manifest) { m.Files[0].Path = "../evil" }), "outside of it"},
		"a way from the root": {list(func(m *Manifest) { m.Files[0].Path = "/etc/evil" }), "outside of it"},
		"of a newer form":     {list(func(m *Manifest) { m.Format = "ready-rail-backup-2" }), "a newer Ready Rail"},
		"no list":             {func(t *testing.T, dir string) { put(t, filepath.Join(dir, listFile), "[]") }, "cannot be read"},
	} {
		t.Run(name, func(t *testing.T) {
			into := t.TempDir()
			m, err := Take(t.Context(), folder(t), into, Options{Keys: true, Skip: []string{"backups"}})
			if err != nil {
				t.Fatal(err)
			}
			c.change(t, filepath.Join(into, m.Name()))
			beside := t.TempDir()
			_, err = Restore(t.Context(), filepath.Join(into, m.Name()), filepath.Join(beside, "data")+"/", nil)
			if err == nil || !strings.Contains(err.Error(), c.says) {
				t.Errorf("%v", err)
			}
			if left, err := os.ReadDir(beside); err != nil || len(left) > 0 {
				t.Errorf("%v is left, %v", left, err)
			}
		})
	}
}

func TestWhereNothingIsBroughtBack(t *testing.T) {
	into, full := t.TempDir(), t.TempDir()
	put(t, filepath.Join(full, "something"), "")
	id, _ := age.GenerateX25519Identity()
	other, _ := age.GenerateX25519Identity()
	m, err := Take(t.Context(), folder(t), into, Options{To: id.Recipient(), Skip: []string{"backups"}})
	if err != nil {
		t.Fatal(err)
	}
	from := filepath.Join(into, m.Name())
	for says, try := range map[string]func() error{
		"is not empty": func() error { _, err := Restore(t.Context(), from, full, id); return err },
		"give the identity that opens it": func() error {
			_, err := Restore(t.Context(), from, filepath.Join(t.TempDir(), "x"), nil)
			return err
		},
		"encrypted for somebody else": func() error {
			_, err := Restore(t.Context(), from, filepath.Join(t.TempDir(), "x"), other)
			return err
		},
		"there is already a project": func() error { _, err := RestoreProject(t.Context(), from, "yard", full, id); return err },
		"has no project mill": func() error {
			_, err := RestoreProject(t.Context(), from, "mill", filepath.Join(t.TempDir(), "x"), id)
			return err
		},
		"the backup has no backup.json": func() error {
			_, err := Restore(t.Context(), full, filepath.Join(t.TempDir(), "x"), nil)
			return err
		},
	} {
		if err := try(); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", says, err)
		}
	}
}

// TestFewAreKept: the oldest go first, and nothing else in the folder is touched.
func TestFewAreKept(t *testing.T) {
	dir := t.TempDir()
	for _, name := range []string{"ready-rail-20261201-010000", "ready-rail-20261203-010000", "ready-rail-20261202-010000", "photographs",
		time.Now().UTC().Format("ready-rail-20060102-150405.part"), "ready-rail-20200101-010000.part", "ready-rail-then"} {
		put(t, filepath.Join(dir, name, "x"), "")
	}
	if err := Prune(dir, 2); err != nil {
		t.Fatal(err)
	}
	entries, err := os.ReadDir(dir)
	var names []string
	for _, e := range entries {
		names = append(names, e.Name())
	}
	names = slices.DeleteFunc(names, func(n string) bool { return strings.HasSuffix(n, partEnding) && !strings.Contains(n, "20200101") })
	want := []string{"photographs", "ready-rail-20261202-010000", "ready-rail-20261203-010000", "ready-rail-then"}
	if err != nil || len(entries) != len(want)+1 || !slices.Equal(names, want) {
		t.Errorf("%q %v", names, err)
	}
}

// TestABackupWithinItsFolder leaves the backups out, and a database that went meanwhile
// is made by nobody.
func TestABackupWithinItsFolder(t *testing.T) {
	data := folder(t)
	into := filepath.Join(data, "kept", "here")
	for range 2 {
		m, err := Take(t.Context(), data, into, Options{Skip: []string{"backups"}})
		if err != nil {
			t.Fatal(err)
		}
		for _, path := range paths(m) {
			if strings.HasPrefix(path, "kept/") {
				t.Errorf("it has %s", path)
			}
		}
		time.Sleep(1100 * time.Millisecond) // names are of a second
	}
	if _, err := Take(t.Context(), data, data, Options{}); err == nil || !strings.Contains(err.Error(), "a folder of their own") {
		t.Errorf("into the data folder itself: %v", err)
	}
	gone := filepath.Join(data, "projects", "yard", "202601.db")
	if _, err := snap(t.Context(), gone); !errors.Is(err, os.ErrNotExist) {
		t.Errorf("%v", err)
	}
	if _, err := os.Stat(gone); err == nil {
		t.Error("the database was made")
	}
}

// TestABackupThatIsBrokenOff leaves nothing.
func TestABackupThatIsBrokenOff(t *testing.T) {
	ctx, stop := context.WithCancel(t.Context())
	into := t.TempDir()
	if _, err := Take(ctx, folder(t), into, Options{Taken: stop, Skip: []string{"backups"}}); !errors.Is(err, context.Canceled) {
		t.Errorf("%v", err)
	}
	if left, err := os.ReadDir(into); err != nil || len(left) > 0 {
		t.Errorf("%v is left, %v", left, err)
	}
}
