package host

import (
	"cmp"
	"context"

	"readyrail/internal/core/project"
)

// Kept is what keeps the course of a tag, since when, and how much.
type Kept struct {
	Recorded bool      `json:"recorded" doc:"the recorder keeps it"`
	From     string    `json:"from" doc:"path of the folder whose settings hold; empty for its own or the usual"`
	Band     float64   `json:"band" doc:"the move that is not worth keeping, in its unit; 0 keeps every change"`
	Days     int       `json:"days" doc:"that it is kept"`
	Since    int64     `json:"since" doc:"time of the oldest value, milliseconds since 1970; 0 for none"`
	Bytes    int64     `json:"bytes" doc:"on disk, without what came within the last day"`
	Logs     []KeptLog `json:"logs" doc:"that keep it too"`
}

// KeptLog is a log that keeps a tag.
type KeptLog struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Kept tells what keeps a tag of the draft.
func (p *Project) Kept(ctx context.Context, who Actor, id string) (*Kept, error) {
	if err := p.MayLookAtDraft(ctx, who); err != nil {
		return nil, err
	}
	draft := p.Draft()
	t, ok := draft.Tag(id)
	if !ok {
		return nil, ErrNotFound
	}
	out := &Kept{Logs: []KeptLog{}}
	out.Band, out.Recorded = draft.Recorded()[t.ID]
	r, from := draft.Recording(t)
	if from != t.ID {
		out.From = draft.FolderPath(from)
	}
	out.Days = cmp.Or(r.Days, draft.Site().Recorder.Days, project.UsualDays)
	first, bytes, err := p.records.Recorder.Extent(ctx, t.ID)
	if err != nil {
		return nil, err
	}
	out.Since, out.Bytes = first/1e6, bytes
	for _, log := range project.SortedKeys(draft.Logs) {
		l := draft.Logs[log]
		for _, tag := range draft.LogTags(l) {
			if tag == t.ID {
				out.Logs = append(out.Logs, KeptLog{l.ID, l.Name})
				break
			}
		}
	}
	return out, nil
}
