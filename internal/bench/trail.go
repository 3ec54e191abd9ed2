package bench

import (
	"context"
	"encoding/hex"
	"fmt"
	"io"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/audit"
	"readyrail/internal/host"
	"readyrail/internal/modbus"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

const (
	trailRecords  = 1_000_000
	trailJournal  = 5_000_000
	readyWithin   = 1000 // ms
	besideAtMost  = 3
	besideWrites  = 1500
	fillAtATime   = 50_000
	trailProject  = "bench"
	trailLeftOpen = 5 // intents that a crash left open
)

// trails measures how soon a server is ready with a long trail and a long
// journal, and whether long reads of them hold up writes.
func trails() ([]Figure, error) {
	dir, err := os.MkdirTemp("", "readyrail-bench")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	go modbus.Serve(ctx, l, &bank{})
	who := host.Actor{ID: "bench", Name: "Bench", Owner: true, Server: true}
	quiet := slog.New(slog.NewTextHandler(io.Discard, nil))
	h, err := host.Open(dir, quiet, host.Options{})
	if err != nil {
		return nil, err
	}
	_, err = openDesk(ctx, h, who, l.Addr().String())
	h.Close()
	if err != nil {
		return nil, err
	}
	if err := fillTrail(dir); err != nil {
		return nil, err
	}
	if err := fillJournal(ctx, filepath.Join(dir, "projects", trailProject)); err != nil {
		return nil, err
	}
	from := time.Now()
	if h, err = host.Open(dir, quiet, host.Options{}); err != nil {
		return nil, err
	}
	ready := time.Since(from)
	defer h.Close()
	p, err := h.Project(trailProject)
	if err != nil {
		return nil, err
	}
	for p.ReadTags(run.Release, []string{"jog"})[0].Value.Quality.IsBad() {
		time.Sleep(10 * time.Millisecond)
	}
	alone, err := manyWrites(ctx, p, who, "alone")
	if err != nil {
		return nil, err
	}
	reading, stop := context.WithCancel(ctx)
	defer stop()
	for _, long := range []func() error{
		func() error {
			return p.EachRecord(reading, store.TrailFilter{}, func(audit.Record) error { return nil })
		},
		func() error {
			_, _, err := p.Journal(reading, who, store.JournalFilter{Text: "nothing has these words"}, 100)
			return err
		},
	} {
		go func() {
			for reading.Err() == nil && long() == nil {
				continue
			}
		}()
	}
	beside, err := manyWrites(ctx, p, who, "beside")
	if err != nil {
		return nil, err
	}
	stop()
	looked, err := lookThrough(ctx, dir, p)
	return append([]Figure{
		below(fmt.Sprintf("trail/ready with %d records and %d entries", trailRecords, trailJournal), "ms", millis(ready), readyWithin),
		ratio("trail/writes beside long reads, p99", "ms", millis(quantile(beside, 0.99)), millis(quantile(alone, 0.99)), besideAtMost),
	}, looked...), err
}

func manyWrites(ctx context.Context, p *host.Project, who host.Actor, name string) ([]time.Duration, error) {
	out := make([]time.Duration, besideWrites)
	for n := range out {
		from := time.Now()
		c := host.Command{Screen: "s", Element: fmt.Sprintf("e%d", n%operators), Value: fmt.Sprint(n), Key: fmt.Sprintf("%s-%d", name, n),
			At: from}
		if _, err := p.Write(ctx, who, c); err != nil {
			return nil, err
		}
		out[n] = time.Since(from)
	}
	return out, nil
}

// fillTrail writes a long chain, as if it had grown record by record, with some
// intents open near its end.
func fillTrail(dir string) error {
	text, err := os.ReadFile(filepath.Join(dir, "audit.key"))
	if err != nil {
		return err
	}
	key, err := hex.DecodeString(strings.TrimSpace(string(text)))
	if err != nil {
		return err
	}
	db, err := sqlx.Open("sqlite", "file:"+filepath.Join(dir, "projects", trailProject,
		"audit.db")+"?_pragma=journal_mode(WAL)&_pragma=synchronous(OFF)")
	if err != nil {
		return err
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	var last audit.Record
	if err := db.Get(&last, "SELECT * FROM record ORDER BY seq DESC LIMIT 1"); err != nil {
		return err
	}
	seq, prev := last.Seq, last.Hash
	closed := seq
	for seq < trailRecords {
		tx, err := db.Beginx()
		if err != nil {
			return err
		}
		insert, err := tx.PrepareNamed(`INSERT INTO record (seq, at, what, person, name, panel, screen, element, tag, path, old, new, outcome, reason, intent, key, hash)
			VALUES (:seq, :at, :what, :person, :name, :panel, :screen, :element, :tag, :path, :old, :new, :outcome, :reason, :intent, :key, :hash)`)
		if err != nil {
			return err
		}
		for range fillAtATime {
			r := audit.Record{At: seq, What: audit.Outcome, Intent: seq, Outcome: audit.Confirmed}
			if seq%2 == 0 || seq > trailRecords-trailLeftOpen {
				r = audit.Record{At: seq, What: audit.Intent, Name: "Bench", Path: "T1", Old: "1", New: "2", Key: fmt.Sprint("old-", seq)}
			} else if seq+1 <= trailRecords-trailLeftOpen {
				closed = seq + 1
			}
			r.Seal(key, seq, prev)
			if _, err := insert.Exec(r); err != nil {
				return err
			}
			seq, prev = r.Seq, r.Hash
		}
		if err := tx.Commit(); err != nil {
			return err
		}
	}
	_, err = db.Exec("INSERT OR REPLACE INTO head (one, seq, closed, seal) VALUES (1, ?, ?, ?)", seq, closed,
		audit.HeadSeal(key, seq, closed, prev))
	return err
}

func fillJournal(ctx context.Context, dir string) error {
	j, err := store.OpenJournal(dir, nil)
	if err != nil {
		return err
	}
	defer j.Close()
	now := time.Now().UnixNano()
	list := make([]store.Entry, fillAtATime)
	for n := 0; n < trailJournal; n += len(list) {
		for i := range list {
			list[i] = store.Entry{At: now - int64(trailJournal-n-i)*int64(time.Second), Kind: store.AlarmEntry, What: "raised",
				Alarm: fmt.Sprint("a", i%500), Name: "High", Priority: i % 4, Text: "at 72.0"}
		}
		if err := j.Append(ctx, list, nil); err != nil {
			return err
		}
	}
	return nil
}
