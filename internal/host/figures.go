package host

import (
	"time"

	"readyrail/internal/run"
)

// Figures are how a server is doing, for those who watch over many machines.
type Figures struct {
	Load     float64 // processor time, % of one core
	Memory   float64 // MB
	DiskFree uint64  // bytes that are left where the data lies

	BackupAge    float64 // hours since the last one; -1 for never
	BackupFailed bool

	Projects []ProjectFigures
	Broken   int // projects that could not be opened
}

// ProjectFigures are how a project is doing.
type ProjectFigures struct {
	ID       string
	Release  int64 // number of the release that runs; 0 for none
	Desks    int   // desks and workshops that are open
	Programs []ProgramFigures
}

// ProgramFigures are how a program is doing: the release, the draft or a trial.
type ProgramFigures struct {
	Program run.Program
	Tags    int
	Late    time.Duration // by which the engine's last tick came later than it was due
	Waiting int           // batches of values that the engine has not taken yet
	Links   []run.LinkStatus
}

// Figures tells how the server is doing.
func (h *Host) Figures(now time.Time) *Figures {
	out := &Figures{DiskFree: run.FreeBytes(h.dir), Broken: len(h.BrokenFor(Actor{Server: true}))}
	out.Load, out.Memory = h.load.measure(now)
	out.BackupAge, out.BackupFailed, _ = h.BackupFigures(now)
	for _, p := range h.Projects() {
		project := ProjectFigures{ID: p.id, Desks: p.news.count()}
		if info := p.ReleaseInfo(); info != nil {
			project.Release = info.Number
		}
		for _, name := range []run.Program{run.Release, run.Draft, run.Try} {
			runner, version := p.runs.Runner(name), p.runs.Version(name)
			if runner == nil || version == nil {
				continue
			}
			f := ProgramFigures{Program: name, Tags: len(version.Tags), Links: p.Links(name)}
			f.Late, f.Waiting = runner.Late()
			project.Programs = append(project.Programs, f)
		}
		out.Projects = append(out.Projects, project)
	}
	return out
}
