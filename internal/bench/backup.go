package bench

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"sync/atomic"
	"time"

	_ "modernc.org/sqlite" // opens the databases

	"readyrail/internal/backup"
)

const (
	backupBlocks = 12_000
	blockBytes   = 100_000
	backupTimes  = 1.5 // as long as copying the files
	lateWithin   = 250 // ms
)

// backups measures a backup of a folder of 1.2 GB beside copying its files, each until it is
// on the disk, and how late a round of 100 ms is meanwhile.
func backups() ([]Figure, error) {
	dir, err := os.MkdirTemp("", "readyrail-bench")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	data := filepath.Join(dir, "data")
	if err := bigFolder(data); err != nil {
		return nil, err
	}
	copying, err := copyFolder(data, filepath.Join(dir, "copy"))
	if err != nil {
		return nil, err
	}
	ctx, stop := context.WithCancel(context.Background())
	defer stop()
	latest := rounds(ctx)
	from := time.Now()
	m, err := backup.Take(ctx, data, filepath.Join(dir, "backups"), backup.Options{})
	if err != nil {
		return nil, err
	}
	took := time.Since(from)
	name := fmt.Sprintf("backup/of %.1f GB beside copying", float64(m.Bytes())/1e9)
	return []Figure{ratio(name, "s", took.Seconds(), copying.Seconds(), backupTimes),
		below("backup/a round of 100 ms late", "ms", float64(latest.Load())/1e6, lateWithin)}, nil
}

// rounds goes round each 100 ms and keeps by how much the latest was late.
func rounds(ctx context.Context) *atomic.Int64 {
	var latest atomic.Int64
	go func() {
		const every = 100 * time.Millisecond
		for due := time.Now().Add(every); ctx.Err() == nil; due = due.Add(every) {
			time.Sleep(time.Until(due))
			latest.Store(max(latest.Load(), int64(time.Since(due))))
		}
	}()
	return &latest
}

func bigFolder(dir string) (err error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	db, err := sql.Open("sqlite", "file:"+filepath.Join(dir, "samples.db")+"?_pragma=journal_mode(WAL)&_pragma=synchronous(OFF)")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, db.Close()) }()
	if _, err := db.Exec("CREATE TABLE block (key INTEGER PRIMARY KEY, data BLOB)"); err != nil {
		return err
	}
	_, err = db.Exec(`WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?)
		INSERT INTO block SELECT i, randomblob(?) FROM n`, backupBlocks, blockBytes)
	return err
}

// copyFolder copies the files of a folder until they are on the disk.
func copyFolder(from, into string) (took time.Duration, err error) {
	began := time.Now()
	if err := os.Mkdir(into, 0o700); err != nil {
		return 0, err
	}
	entries, err := os.ReadDir(from)
	for _, e := range entries {
		if err == nil {
			err = copyFile(filepath.Join(from, e.Name()), filepath.Join(into, e.Name()))
		}
	}
	return time.Since(began), err
}

func copyFile(from, into string) error {
	r, err := os.Open(from)
	if err != nil {
		return err
	}
	defer r.Close()
	w, err := os.Create(into)
	if err != nil {
		return err
	}
	_, err = io.Copy(w, r)
	return errors.Join(err, w.Sync(), w.Close())
}
