package host

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/edit"
	"readyrail/internal/store"
)

// editTrail puts the edits of a project into the trail, in their order. Nobody
// waits for it: an edit is on disk with what it did before it comes here, and what
// a server that was killed left out is found as the project is opened again.
type editTrail struct {
	mu   sync.Mutex
	todo chan func() // nil where none is taken
	done chan struct{}
}

// editsWaiting is how many edits may wait for the trail before the next one does.
const editsWaiting = 64

func (t *editTrail) begin(bounded func(what string, f func())) {
	t.mu.Lock()
	defer t.mu.Unlock()
	todo := make(chan func(), editsWaiting)
	t.todo, t.done = todo, make(chan struct{})
	go func() {
		defer close(t.done)
		for note := range todo {
			bounded("trail of edits", note)
		}
	}()
}

func (t *editTrail) put(note func()) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.todo != nil {
		t.todo <- note
	}
}

// end takes no more, and returns once everything is in the trail.
func (t *editTrail) end() {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.todo != nil {
		close(t.todo)
		<-t.done
		t.todo = nil
	}
}

// mostThings bounds the things that an edit has a record each for; of the others
// the trail has their number and the hash of the edit's changes.
const mostThings = 200

// recordEdit puts an edit into the trail: what it did to each thing, as people
// read it.
func (p *Project) recordEdit(next *project.Project, made edit.Made) {
	at := time.Now().UnixNano()
	p.edits.put(func() {
		var list []project.Difference
		seen := map[[2]string]bool{}
		for _, c := range made.Changes {
			if key := [2]string{c.Kind, c.ID}; !seen[key] {
				seen[key] = true
				if len(seen) > mostThings {
					continue
				}
				if d, ok := project.DifferenceOf(made.Before, next, c.Kind, c.ID); ok {
					list = append(list, d)
				}
			}
		}
		of := audit.Record{At: at, Person: made.By.ID, Name: made.By.Name, Panel: made.By.Panel, Reason: made.Label,
			Key: editKey(made.Revision, made.State)}
		p.runs.Door().NoteAll(context.Background(), editRecords(next, of, list, len(seen), made.Changes))
	})
}

// editRecords are the records of an edit: one for each thing in the list, and one
// that says how many there are besides.
func editRecords(
	version *project.Project,
	of audit.Record,
	list []project.Difference,
	things int,
	changes []project.Change,
) []audit.Record {
	of.What = audit.Edited
	var out []audit.Record
	for i := range list {
		r, d := of, &list[i]
		r.Element, r.Path, r.Old, r.New = d.Kind, d.Name, d.Told(true), d.Told(false)
		switch d.Kind {
		case project.KindTag:
			r.Tag = d.ID
		case project.KindAlarm:
			if a := version.Alarms[d.ID]; a != nil {
				r.Tag = a.Tag
			}
		}
		out = append(out, r)
	}
	if things > mostThings {
		doc, _ := json.Marshal(changes)
		hash := sha256.Sum256(doc)
		r := of
		r.New = fmt.Sprintf("%d things in all; SHA-256 of its changes: %s", things, hex.EncodeToString(hash[:]))
		out = append(out, r)
	}
	return out
}

// editKey names an edit in the trail: "edit 12", and "edit 12 undone" where it was
// taken back.
func editKey(revision int64, state string) string {
	return strings.TrimSpace(fmt.Sprintf("edit %d %s", revision, state))
}

// mostMissing bounds the edits that are put into the trail afterwards.
const mostMissing = 1000

// recordMissing puts into the trail what it has not of the newest edits: those
// that a killed server left out, and those of commands without a server.
func (p *Project) recordMissing(ctx context.Context) error {
	last, err := p.lastRecordedEdit(ctx)
	if err != nil || last >= p.Revision() {
		return err
	}
	missing, err := p.Since(ctx, max(last, p.Revision()-mostMissing), mostMissing)
	if err != nil {
		return err
	}
	for i := range missing {
		c := &missing[i]
		changes, err := c.Decode()
		if err != nil {
			return err
		}
		of := audit.Record{At: c.At, Person: c.Person, Name: c.Person, Reason: c.Label, Key: editKey(c.ID, "")}
		person, err := p.host.server.Person(ctx, c.Person)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		if person.FullName != "" {
			of.Name = person.FullName
		}
		list := p.Draft().Stored(changes)
		p.runs.Door().NoteAll(ctx, editRecords(p.Draft(), of, list[:min(len(list), mostThings)], len(list), changes))
	}
	return nil
}

// lastRecordedEdit is the newest edit that the trail has; 0 for none.
func (p *Project) lastRecordedEdit(ctx context.Context) (int64, error) {
	for before := int64(math.MaxInt64); ; {
		list, err := p.records.Trail.Edits(ctx, before, 300)
		if err != nil || len(list) == 0 {
			return 0, err
		}
		for i := range list {
			number, isNew := strings.CutPrefix(list[i].Key, "edit ")
			if n, err := strconv.ParseInt(number, 10, 64); err == nil && isNew {
				return n, nil
			}
			before = list[i].Seq
		}
	}
}
