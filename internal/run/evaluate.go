package run

import (
	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
)

// Evaluate computes a stored formula of a version with the values that a program
// has; the error is a *formula.Error. Where the program does not run, the value
// waits.
func (r *Runs) Evaluate(name Program, version *project.Project, stored string) (result value.Value, err error) {
	result = value.Bad(value.BOOL, value.BadWaiting)
	if runner := r.Runner(name); runner != nil {
		runner.Do(func(e *engine.Engine) {
			var prog *formula.Program
			if prog, err = formula.Compile(stored, scopeOf(e, version)); err == nil {
				result = e.Eval(prog)
			}
		})
	}
	return result, err
}

// scopeOf is the scope of formulas that run on an engine's own slots.
func scopeOf(e *engine.Engine, version *project.Project) formula.Scope {
	return formula.Scope{Path: version.Path, Tag: func(id string) (int32, value.Kind, bool) {
		slot, ok := e.Program().Slot(id)
		if !ok {
			return 0, 0, false
		}
		return slot, e.Program().Tag(slot).Kind(), true
	}}
}
