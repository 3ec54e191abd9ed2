package host

import (
	"context"
	"fmt"

	"readyrail/internal/core/project"
)

// Draw makes a first symbol and faceplate of a type.
func (p *Project) Draw(ctx context.Context, who Actor, d project.Drawings) error {
	ops, err := p.Draft().PlanDrawings(d, newID)
	if err != nil {
		return refused("%v", err)
	}
	_, err = p.Edit(ctx, who, "draw a symbol and a faceplate", ops)
	return err
}

// Substitute replaces names in what a screen refers to. Names that are not
// there do not stand against it: they become findings.
func (p *Project) Substitute(ctx context.Context, who Actor, n project.Substitution, apply bool) (*Plan, error) {
	list, ops, err := p.Draft().PlanSubstitution(n, newID)
	if err != nil {
		return nil, refused("%v", err)
	}
	out, err := p.carryOutPlan(ctx, who, "", false, list, 0, nil)
	if err != nil || !apply {
		return out, err
	}
	if _, err := p.Edit(ctx, who, fmt.Sprintf("replace %s by %s", n.Find, n.Replace), ops); err != nil {
		return nil, err
	}
	out.Done = true
	return out, nil
}

// MakeSymbol makes a symbol of elements, once or repeated.
func (p *Project) MakeSymbol(ctx context.Context, who Actor, n project.SymbolOf, apply bool) (*project.SymbolPlan, error) {
	plan, ops, err := p.Draft().PlanSymbol(n, newID)
	return planned(ctx, p, who, "make the symbol "+n.Name, plan, ops, err, apply)
}

// Duplicate makes copies of elements, each for the next of a row.
func (p *Project) Duplicate(ctx context.Context, who Actor, d project.Duplicates, apply bool) (*project.DuplicatePlan, error) {
	plan, ops, err := p.Draft().PlanDuplicates(d, newID)
	return planned(ctx, p, who, fmt.Sprintf("duplicate %d times", d.Count), plan, ops, err, apply)
}

// planned carries a plan out where that is asked.
func planned[T any](ctx context.Context, p *Project, who Actor, label string, plan *T, ops []project.Op, err error, apply bool) (*T,
	error) {
	if err != nil {
		return nil, refused("%v", err)
	}
	if apply {
		if _, err := p.Edit(ctx, who, label, ops); err != nil {
			return nil, err
		}
	}
	return plan, nil
}
