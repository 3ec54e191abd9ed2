package edit

import (
	"context"
	"fmt"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// Draw makes a first symbol and faceplate of a type.
func (e *Edits) Draw(ctx context.Context, who access.Actor, d project.Drawings) error {
	ops, err := e.Draft().PlanDrawings(d, store.NewID)
	if err != nil {
		return refused("%v", err)
	}
	_, err = e.Edit(ctx, who, "draw a symbol and a faceplate", ops)
	return err
}

// Substitute replaces names in what a screen refers to. Names that are not
// there do not stand against it: they become findings.
func (e *Edits) Substitute(ctx context.Context, who access.Actor, n project.Substitution, apply bool) (*Plan, error) {
	list, ops, err := e.Draft().PlanSubstitution(n, store.NewID)
	if err != nil {
		return nil, refused("%v", err)
	}
	out, err := e.carryOutPlan(ctx, who, "", false, list, 0, nil)
	if err != nil || !apply {
		return out, err
	}
	if _, err := e.Edit(ctx, who, fmt.Sprintf("replace %s by %s", n.Find, n.Replace), ops); err != nil {
		return nil, err
	}
	out.Done = true
	return out, nil
}

// MakeSymbol makes a symbol of elements, once or repeated.
func (e *Edits) MakeSymbol(ctx context.Context, who access.Actor, n project.SymbolOf, apply bool) (*project.SymbolPlan, error) {
	plan, ops, err := e.Draft().PlanSymbol(n, store.NewID)
	return planned(ctx, e, who, "make the symbol "+n.Name, plan, ops, err, apply)
}

// Duplicate makes copies of elements, each for the next of a row.
func (e *Edits) Duplicate(ctx context.Context, who access.Actor, d project.Duplicates, apply bool) (*project.DuplicatePlan, error) {
	plan, ops, err := e.Draft().PlanDuplicates(d, store.NewID)
	return planned(ctx, e, who, fmt.Sprintf("duplicate %d times", d.Count), plan, ops, err, apply)
}

// planned carries a plan out where that is asked.
func planned[T any](ctx context.Context, e *Edits, who access.Actor, label string, plan *T, ops []project.Op, err error, apply bool) (*T,
	error) {
	if err != nil {
		return nil, refused("%v", err)
	}
	if apply {
		if _, err := e.Edit(ctx, who, label, ops); err != nil {
			return nil, err
		}
	}
	return plan, nil
}
