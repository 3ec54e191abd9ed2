package host

import (
	"context"
	"fmt"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/tag"
	"readyrail/internal/record"
)

// PairProof is what was kept with the loop checks of two signals.
type PairProof struct {
	Result string   `json:"result" enum:"passed,failed"`
	Note   string   `json:"note" doc:"what was measured, as it stands with the checks"`
	Paths  []string `json:"paths" doc:"of the points that it was kept with"`
}

// ProvePairs measures the times from one edge to another in a recorded time, and
// keeps the result with the loop checks of those of the two that are points: passed
// where each time lies within what is expected, in seconds, and no edge stayed
// without an answer. 0 is no bound; one of the two is needed.
func (p *Project) ProvePairs(ctx context.Context, who Actor, first, second record.Edge, in Period,
	least, most float64) (*PairProof, error) {
	if err := p.Require(ctx, who, access.Commission, ""); err != nil {
		return nil, err
	}
	if least <= 0 && most <= 0 {
		return nil, refused("say what is expected: at least or at most how many seconds")
	}
	pairs, err := p.Pairs(ctx, who, first, second, in, least, most)
	if err != nil {
		return nil, err
	}
	if pairs.Count+pairs.Without == 0 {
		return nil, refused("no such edge was recorded in this time: nothing is proved")
	}
	out := &PairProof{Result: Passed, Note: p.pairsTold(first, second, in, pairs, least, most)}
	if pairs.Early+pairs.Late+pairs.Without > 0 {
		out.Result = Failed
	}
	var ids []string
	for _, e := range []record.Edge{first, second} {
		if t, ok := p.Draft().Tag(e.Tag); ok && t.Source == tag.Device {
			path, _ := p.Draft().Path(t.ID)
			ids, out.Paths = append(ids, t.ID), append(out.Paths, path)
		}
	}
	if len(ids) == 0 {
		return nil, refused("neither of the two is a point of a device, so neither has a loop check")
	}
	return out, p.Prove(ctx, who, ids, out.Result, out.Note)
}

// pairsTold says in a line what was measured.
func (p *Project) pairsTold(first, second record.Edge, in Period, pairs *EdgePairs, least, most float64) string {
	edge := func(e record.Edge) string {
		if e.Fall {
			return p.pathOf(e.Tag) + " ↓"
		}
		return p.pathOf(e.Tag) + " ↑"
	}
	form := "2006-01-02 15:04"
	parts := []string{fmt.Sprintf("%s to %s, %s to %s: %d times", edge(first), edge(second), in.From.Format(form), in.To.Format(form),
		pairs.Count)}
	if pairs.Count > 0 {
		parts = append(parts, fmt.Sprintf("%.2f to %.2f s ± %g", float64(pairs.Least), float64(pairs.Most), pairs.Unsure))
	}
	if least > 0 {
		parts = append(parts, fmt.Sprintf("expected at least %g s: %d early", least, pairs.Early))
	}
	if most > 0 {
		parts = append(parts, fmt.Sprintf("expected at most %g s: %d late", most, pairs.Late))
	}
	if pairs.Without > 0 {
		parts = append(parts, fmt.Sprintf("%d without an answer", pairs.Without))
	}
	return strings.Join(parts, "; ")
}
