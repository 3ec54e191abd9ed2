package edit

import (
	"context"
	"fmt"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// Plan is what an edit in bulk would do.
type Plan struct {
	Lines    []project.Planned `json:"lines" doc:"at most 500; the counts are of all"`
	Total    int               `json:"total"`
	Problems int               `json:"problems"`
	Places   int               `json:"places" doc:"places that refer to what is moved, and follow"`
	Done     bool              `json:"done"`
}

// maxPlanned bounds the lines that a plan shows.
const maxPlanned = 500

// carryOutPlan turns what was planned into an answer, and with apply into an
// edit. What has a problem stands against the whole: nothing is half done.
func (e *Edits) carryOutPlan(ctx context.Context, who access.Actor, label string, apply bool, list []project.Planned, places int,
	ops []project.Op) (*Plan, error) {
	out := &Plan{Lines: list[:min(len(list), maxPlanned)], Total: len(list), Places: places}
	if out.Lines == nil {
		out.Lines = []project.Planned{}
	}
	for _, l := range list {
		if !l.Problem.IsZero() {
			out.Problems++
		}
	}
	if !apply {
		return out, nil
	}
	if out.Problems > 0 {
		for _, l := range list {
			if !l.Problem.IsZero() {
				return nil, refused("%d of %d cannot be; the first is %s: %s", out.Problems, out.Total, l.Path, l.Problem.Why)
			}
		}
	}
	if _, err := e.Edit(ctx, who, label, ops); err != nil {
		return nil, err
	}
	out.Done = true
	return out, nil
}

// MakeMany makes tags by a pattern.
func (e *Edits) MakeMany(ctx context.Context, who access.Actor, m project.Many, apply bool) (*Plan, error) {
	list, ops, err := e.Draft().PlanMany(m, store.NewID)
	if err != nil {
		return nil, refused("%v", err)
	}
	return e.carryOutPlan(ctx, who, fmt.Sprintf("make %d tags", len(list)), apply, list, 0, ops)
}

// CopyTags makes copies of tags or of a folder.
func (e *Edits) CopyTags(ctx context.Context, who access.Actor, c project.Copies, apply bool) (*Plan, error) {
	list, ops, err := e.Draft().PlanCopies(c, store.NewID)
	if err != nil {
		return nil, refused("%v", err)
	}
	return e.carryOutPlan(ctx, who, fmt.Sprintf("copy to %d tags", len(list)), apply, list, 0, ops)
}

// MoveTags puts tags and folders elsewhere, or gives one of them a new name.
func (e *Edits) MoveTags(ctx context.Context, who access.Actor, m project.Move, apply bool) (*Plan, error) {
	list, places, ops, err := e.Draft().PlanMove(m, store.NewID)
	if err != nil {
		return nil, refused("%v", err)
	}
	return e.carryOutPlan(ctx, who, fmt.Sprintf("move %d things", len(list)), apply, list, places, ops)
}

// AddFields gives a book the fields that a sheet has.
func (e *Edits) AddFields(ctx context.Context, who access.Actor, book string, cells [][]string, apply bool) (*Plan, error) {
	list, ops, err := e.Draft().PlanFields(book, cells, store.NewID)
	if err != nil {
		return nil, refused("%v", err)
	}
	return e.carryOutPlan(ctx, who, fmt.Sprintf("make fields of a sheet of %d", len(list)), apply, list, 0, ops)
}

// LayBlock gives the fields of a book that go nowhere tags in a block of registers.
func (e *Edits) LayBlock(ctx context.Context, who access.Actor, b project.FieldBlock, apply bool) (*Plan, error) {
	list, ops, err := e.Draft().PlanBlock(b, store.NewID)
	if err != nil {
		return nil, refused("%v", err)
	}
	return e.carryOutPlan(ctx, who, fmt.Sprintf("lay %d fields out", len(list)), apply, list, 0, ops)
}

// OpenTags makes the tags by which elements show and edit the recipe of a book that
// is open.
func (e *Edits) OpenTags(ctx context.Context, who access.Actor, m project.OpenTags, apply bool) (*Plan, error) {
	list, ops, err := e.Draft().PlanOpen(m, store.NewID)
	if err != nil {
		return nil, refused("%v", err)
	}
	return e.carryOutPlan(ctx, who, fmt.Sprintf("make %d tags of the open recipe", len(ops)), apply, list, 0, ops)
}

// BringAlarmsIn makes and changes alarms by a list.
func (e *Edits) BringAlarmsIn(ctx context.Context, who access.Actor, cells [][]string, apply bool) (*Plan, error) {
	list, ops, err := e.Draft().PlanAlarms(cells, store.NewID)
	if err != nil {
		return nil, refused("%v", err)
	}
	return e.carryOutPlan(ctx, who, fmt.Sprintf("bring %d alarms in", len(ops)), apply, list, 0, ops)
}
