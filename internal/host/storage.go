package host

import (
	"cmp"
	"context"
	"fmt"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/run"
)

// Storage is how much a project keeps of the past, and what the disk has for it.
type Storage struct {
	Recorder int64 `json:"recorder" doc:"bytes that the recorder has"`
	Logs     int64 `json:"logs" doc:"bytes that the logs have"`
	Daily    int64 `json:"daily" doc:"bytes that a day adds to both, as it went so far"`
	Later    int64 `json:"later" doc:"bytes of both in 30 days, if it goes on so and the disk holds it"`
	Free     int64 `json:"free" doc:"bytes that the disk has left"`
	// Parts are what everything takes that is kept of the project.
	Parts []StoragePart `json:"parts" doc:"what takes how much of the disk"`
}

// ahead is how far it is looked ahead.
const ahead = 30 * 24 * time.Hour

// taken is the share of what the disk has left that will be taken in 30 days; more
// than 1 where it does not hold that.
func (s Storage) taken() float64 {
	return max(0, float64(s.Later-s.Recorder-s.Logs)) / float64(max(1, s.Free))
}

// DiskTaken is the share of what the disk has left that courses and logs will take
// in 30 days, as it was measured last; ok is false before.
func (p *Project) DiskTaken() (share float64, ok bool) {
	s := p.storage.Load()
	if s == nil {
		return 0, false
	}
	return s.taken(), true
}

// Storage measures it.
func (p *Project) Storage(ctx context.Context, who Actor) (*Storage, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	return p.measureStorage(ctx)
}

func (p *Project) measureStorage(ctx context.Context) (*Storage, error) {
	now := time.Now()
	first, bytes, err := p.records.Recorder.Kept(ctx)
	if err != nil {
		return nil, err
	}
	keep := p.Draft().Site().Recorder
	list := []history.Growth{{Bytes: bytes, Since: since(now, first), Days: cmp.Or(keep.Days, project.UsualDays), Most: int64(keep.MB) * 1e6}}
	out := &Storage{Recorder: bytes, Free: int64(run.FreeBytes(p.folder())), Parts: storageParts(p.folder())}
	if _, version := p.logged(); version != nil {
		for id, def := range version.Logs {
			log := p.records.Logs.Log(id)
			if log == nil {
				continue
			}
			s := log.Status()
			out.Logs += s.Bytes
			list = append(list, history.Growth{Bytes: s.Bytes, Since: since(now, s.First), Days: def.Keep.Days, Most: int64(def.Keep.MB) * 1e6})
		}
	}
	for _, g := range list {
		out.Daily, out.Later = out.Daily+g.Daily(), out.Later+g.In(ahead)
	}
	return out, nil
}

// since is how long ago a time was, in nanoseconds since 1970; 0 for none.
func since(now time.Time, at int64) time.Duration {
	if at == 0 {
		return 0
	}
	return now.Sub(time.Unix(0, at))
}

// measures is how often the disk is looked at.
const measures = 5 * time.Minute

// lookAtStorage measures now and then.
func (p *Project) lookAtStorage(now time.Time) {
	if now.Sub(p.measured) < measures {
		return
	}
	p.measured = now
	p.begin("measuring what is kept", func() {
		s, err := p.measureStorage(context.Background())
		if err != nil {
			p.host.log.Warn("what is kept is not measured", "project", p.id, "error", err)
			return
		}
		p.storage.Store(s)
	})
}

// outlook are findings about what is kept: a disk that will not hold it, and logs
// that are to go where the server lets nothing go.
func (p *Project) outlook() (out []project.Finding) {
	if s := p.storage.Load(); s != nil && s.taken() > 1 {
		days := float64(s.Free) / float64(max(s.Daily, 1))
		out = append(out, project.Finding{Rule: "history.disk", Severity: project.Warning, Stop: project.StopHistory, Kind: project.KindSite,
			ID: project.SiteID, Place: "/recorder", Name: p.Draft().Site().Name, Args: map[string]any{"days": fmt.Sprintf("%.0f", days),
				"daily": fmt.Sprintf("%.1f", float64(s.Daily)/1e6), "free": fmt.Sprintf("%.1f", float64(s.Free)/1e9)}})
	}
	allowed := map[string]bool{"": true}
	for _, s := range p.host.media.States() {
		allowed[s.Name] = true
	}
	draft := p.Draft()
	for _, id := range project.SortedKeys(draft.Logs) {
		if l := draft.Logs[id]; !allowed[l.Out.Folder] {
			out = append(out, project.Finding{Rule: "log.notAllowed", Severity: project.Warning, Stop: project.StopHistory,
				Kind: project.KindLog, ID: id, Place: "/out/folder", Name: l.Name, Args: map[string]any{"folder": l.Out.Folder}})
		}
	}
	return out
}
