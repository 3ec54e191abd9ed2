package host

import (
	"readyrail/internal/core/formula"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/value"
	"readyrail/internal/run"
)

// TryFormula checks a formula that is being typed against the draft and runs it
// on the draft's present values. On a screen it may name the screen's
// parameters, for which the args stand. The error is a *formula.Error.
func (p *Project) TryFormula(text, onScreen string, args screen.Args) (result value.Value, err error) {
	draft := p.Draft()
	s := draft.Screen(onScreen)
	stored, err := draft.StoreFormulaOn(s, text)
	if err != nil {
		return value.Value{}, err
	}
	// What does not hold for the parameters' types is said whatever they are given.
	typed, err := formula.Compile(stored, draft.ScopeOn(s))
	if err != nil {
		return value.Value{}, err
	}
	if s != nil && len(s.Params) > 0 {
		stored = args.With(s.Params).Applied(stored, s.Params, draft.Real)
	}
	result, err = p.runs.Evaluate(run.Draft, draft, stored)
	if err != nil {
		// It is right for its types; there is nothing to run it on.
		return value.Bad(typed.Kind(), value.BadWaiting), nil
	}
	return result, nil
}
