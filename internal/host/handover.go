package host

import (
	"context"
	"errors"
	"strings"
	"time"
	"unicode/utf8"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/store"
)

// Handover is a note that a shift leaves to the next one.
type Handover struct {
	Seq     int64  `json:"seq"`
	At      int64  `json:"at" doc:"milliseconds since 1970"`
	Name    string `json:"name" doc:"who wrote it"`
	Panel   string `json:"panel"`
	Text    string `json:"text"`
	Mine    bool   `json:"mine" doc:"who asks wrote it: somebody else takes it over"`
	TakenAt int64  `json:"takenAt" doc:"milliseconds since 1970; 0 while nobody has taken it over"`
	TakenBy string `json:"takenBy"`
}

const (
	mostHandover  = 2000 // characters of a note
	mostHandovers = 50   // notes that are listed
)

// Handovers lists the newest notes that shifts left.
func (p *Project) Handovers(ctx context.Context, who Actor) ([]Handover, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	list, err := p.state.Handovers(ctx, mostHandovers)
	if err != nil {
		return nil, err
	}
	out := make([]Handover, len(list))
	for i, h := range list {
		out[i] = Handover{h.Seq, h.At / 1e6, h.Name, h.Panel, h.Text, h.Person == who.ID, h.TakenAt / 1e6, h.TakenName}
	}
	return out, nil
}

// HandOver leaves a note to the next shift.
func (p *Project) HandOver(ctx context.Context, who Actor, text string) error {
	if err := p.Somewhere(ctx, who, access.Operate); err != nil {
		return err
	}
	if text = strings.TrimSpace(text); text == "" || utf8.RuneCountInString(text) > mostHandover {
		return refused("a note of a handover has 1 to %d characters", mostHandover)
	}
	now := time.Now().UnixNano()
	h := store.Handover{At: now, Person: who.ID, Name: who.Name, Panel: who.Panel, Text: text}
	if err := p.state.AddHandover(ctx, h); err != nil {
		return err
	}
	p.handedOver(ctx, who, now, text, "")
	return nil
}

// TakeOver says that a note was read: by somebody else than who wrote it, once.
func (p *Project) TakeOver(ctx context.Context, who Actor, seq int64) error {
	if err := p.Somewhere(ctx, who, access.Operate); err != nil {
		return err
	}
	h, err := p.state.Handover(ctx, seq)
	switch {
	case errors.Is(err, store.ErrNotFound):
		return ErrNotFound
	case err != nil:
		return err
	case h.Person == who.ID:
		return refused("you wrote this note yourself: somebody else takes it over")
	case h.TakenAt > 0:
		return refused("%s has taken this note over already", h.TakenName)
	}
	now := time.Now().UnixNano()
	err = p.state.TakeHandover(ctx, seq, now, who.ID, who.Name)
	if errors.Is(err, store.ErrNotFound) {
		return refused("somebody else was quicker: this note is taken over")
	}
	if err != nil {
		return err
	}
	p.handedOver(ctx, who, now, h.Text, "taken over from "+h.Name)
	return nil
}

// handedOver keeps what is on disk already in the trail, and tells the desks.
func (p *Project) handedOver(ctx context.Context, who Actor, at int64, text, why string) {
	p.runs.Door().Note(ctx, audit.Record{At: at, What: audit.Handover, Person: who.ID, Name: who.Name, Panel: who.Panel, New: text,
		Reason: why})
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"handover/1"}})
}
