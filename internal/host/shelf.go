package host

import (
	"context"
	"os"
	"path/filepath"
	"sync/atomic"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/door"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// Shelf are the recipes of a project and their way to devices: those of the plant,
// or a copy of them that Try works with. What a copy does reaches stand-ins alone
// and is in no trail.
type Shelf struct {
	*Project
	store *store.Recipes
	trial bool
	under under
	board recipeBoard
	// drives are the function blocks of what runs here.
	drives drives
	// left is how many deliveries left something that nobody has dealt with.
	left atomic.Int64
}

func newShelf(p *Project, kept *store.Recipes, trial bool) *Shelf {
	s := &Shelf{Project: p, store: kept, trial: trial}
	s.drives.init()
	return s
}

// close ends what is at work here; what is on its way goes on to its end.
func (p *Shelf) close() {
	p.drives.close()
	p.under.working.Wait()
}

// Plant are the recipes of the running plant.
func (p *Project) Plant() *Shelf { return p.shelf }

// Shelf are the recipes that a program works with: Try has its own, for who may look
// at the draft; any other has those of the plant.
func (p *Project) Shelf(ctx context.Context, who Actor, program run.Program) (*Shelf, error) {
	if program != run.Try {
		return p.shelf, nil
	}
	if err := p.MayLookAtDraft(ctx, who); err != nil {
		return nil, err
	}
	if s := p.trying.shelf.Load(); s != nil {
		return s, nil
	}
	return nil, refused("the draft is not tried at present")
}

// shelfOf is where the system tags of a program look.
func (p *Project) shelfOf(program run.Program) *Shelf {
	if s := p.trying.shelf.Load(); s != nil && program == run.Try {
		return s
	}
	return p.shelf
}

// program is the program whose values are looked at and whose tags are written.
func (p *Shelf) program() run.Program {
	if p.trial {
		return run.Try
	}
	return p.Project.program()
}

// plant is the version whose books hold here; nil where nothing runs.
func (p *Shelf) plant() *project.Project {
	if p.trial {
		return p.runs.Version(run.Try)
	}
	return p.Project.plant()
}

// sends is the version whose books are sent from here; nil where none is.
func (p *Shelf) sends() *project.Project {
	if p.trial {
		return p.plant()
	}
	return p.Released()
}

// bookVersion is the version whose books are asked for: the draft, for who may
// look at it, or what runs. It is nil where nothing runs.
func (p *Shelf) bookVersion(ctx context.Context, who Actor, draft bool) (*project.Project, error) {
	if draft && !p.trial {
		return p.Draft(), p.MayLookAtDraft(ctx, who)
	}
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	return p.plant(), nil
}

// note keeps an act in the trail; a trial's is in none.
func (p *Shelf) note(ctx context.Context, r audit.Record) {
	if !p.trial {
		p.runs.Door().Note(ctx, r)
	}
}

// refuse keeps in the trail that something was refused, and returns the refusal.
func (p *Shelf) refuse(ctx context.Context, c door.Command, place, name string, why error) error {
	if p.trial {
		return why
	}
	return p.runs.Door().Refuse(ctx, c, place, name, why)
}

// trialDir is where the copy lies that Try works with, in a project's folder.
const trialDir = "try"

// copied makes the copy of the plant's recipes that a trial begins with.
func (p *Project) copied(ctx context.Context) (*Shelf, error) {
	dir := filepath.Join(p.folder(), trialDir)
	if err := os.RemoveAll(dir); err != nil {
		return nil, err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	kept, err := p.records.Recipes.Copy(ctx, dir)
	if err != nil {
		return nil, err
	}
	return newShelf(p, kept, true), nil
}

// discard ends a trial's shelf, with its copy.
func (p *Shelf) discard() {
	if p == nil {
		return
	}
	p.under.cancelAll()
	p.close()
	p.store.Close()
	p.clearTrial()
}

// clearTrial throws the copy of a trial away, also one that the server's end left.
func (p *Project) clearTrial() {
	if err := os.RemoveAll(filepath.Join(p.folder(), trialDir)); err != nil {
		p.host.log.Warn("the recipes of a trial are still there", "project", p.id, "error", err)
	}
}
