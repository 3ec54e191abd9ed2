package host

import (
	"readyrail/internal/core/formula"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
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
