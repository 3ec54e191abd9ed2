package host

import (
	"context"
	"fmt"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/exchange"
)

// TryFormula checks a formula that is being typed against the draft and runs it
// on the draft's present values. The error is a *formula.Error.
func (p *Project) TryFormula(text string) (result value.Value, err error) {
	draft := p.Draft()
	stored, err := draft.StoreFormula(text)
	if err != nil {
		return value.Value{}, err
	}
	p.draft.runner.Load().Do(func(e *engine.Engine) {
		var prog *formula.Program
		if prog, err = formula.Compile(stored, engineScope(e, draft)); err == nil {
			result = e.Eval(prog)
		}
	})
	return result, err
}

// Import compares a tag list with the draft, and with apply brings in the
// lines that are taken (all new and changed ones when lines is nil), as one
// edit.
func (p *Project) Import(ctx context.Context, who Actor, data []byte, apply bool, lines []int) ([]exchange.Line, error) {
	rows, err := exchange.ReadCSV(data)
	if err != nil {
		return nil, refused("%v", err)
	}
	draft := p.Draft()
	preview := exchange.Preview(rows, draft)
	if !apply {
		return preview, nil
	}
	var taken map[int]bool
	if lines != nil {
		taken = map[int]bool{}
		for _, n := range lines {
			taken[n] = true
		}
	}
	ops := exchange.Ops(preview, draft, taken, newID)
	if len(ops) == 0 {
		return nil, refused("no line that is ticked would change anything")
	}
	tags := 0
	for _, op := range ops {
		if op.Kind == project.KindTag {
			tags++
		}
	}
	_, err = p.Edit(ctx, who, fmt.Sprintf("bring in %d tags", tags), ops)
	return preview, err
}
