package host

import (
	"context"
	"slices"

	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
)

// BeforeRelease is what is open before the draft is released.
type BeforeRelease struct {
	Things   int          `json:"things" doc:"that differ from what runs"`
	Findings FindingCount `json:"findings"`
	InTheWay int          `json:"inTheWay" doc:"findings that stand in the way by the site's rule"`
	Points   ProofCount   `json:"points" doc:"device tags, by their loop checks"`
	Elements ProofCount   `json:"elements" doc:"elements of screens, by their screen checks"`
	Proved   bool         `json:"proved" doc:"the site releases nothing that is not proved"`
	Limits   int          `json:"limits" doc:"limits that were changed at the Desk"`
	Sign     string       `json:"sign" enum:",own,second,both" doc:"whose signature a release takes"`
	Roles    []string     `json:"roles" doc:"names of the roles that the second person has"`
	Note     bool         `json:"note" doc:"nothing is released without a note"`
}

// FindingCount counts findings by severity.
type FindingCount struct {
	Errors   int `json:"errors"`
	Warnings int `json:"warnings"`
	Notes    int `json:"notes"`
}

// ProofCount counts what is to be proved.
type ProofCount struct {
	All      int `json:"all"`
	Open     int `json:"open" doc:"that are not proved: never, no longer, or with a failure"`
	Outdated int `json:"outdated" doc:"of the open ones: proved once, and changed since"`
}

func (n *ProofCount) add(result string, outdated bool) {
	n.All++
	if result != Passed {
		n.Open++
	}
	if outdated {
		n.Outdated++
	}
}

// BeforeRelease tells what is open in the draft.
func (p *Project) BeforeRelease(ctx context.Context) (*BeforeRelease, error) {
	draft := p.Draft()
	out := &BeforeRelease{Things: len(project.Differences(p.ranBefore(), draft)), Limits: len(p.ChangedLimits()), Roles: []string{}}
	rules := p.releaseRules(draft)
	for _, rule := range rules {
		out.Proved, out.Note = out.Proved || rule.Proved, out.Note || rule.Note
	}
	gaps, err := p.Gaps(ctx, draft)
	if err != nil {
		return nil, err
	}
	findings := slices.Concat(draft.Findings(), gaps)
	for _, f := range findings {
		switch f.Severity {
		case project.Error:
			out.Findings.Errors++
		case project.Warning:
			out.Findings.Warnings++
		default:
			out.Findings.Notes++
		}
	}
	out.InTheWay = inTheWay(findings, rules)
	asked := p.askedToRelease(draft)
	out.Sign = asked.Sign
	for _, id := range asked.Roles {
		if r := draft.Roles[id]; r != nil {
			out.Roles = append(out.Roles, r.Name)
		}
	}
	out.Points, out.Elements, err = p.proofs(ctx, draft)
	return out, err
}

// proofs counts what of the draft is proved.
func (p *Project) proofs(ctx context.Context, draft *project.Project) (points, elements ProofCount, err error) {
	checks, err := p.LoopChecks(ctx)
	if err != nil {
		return points, elements, err
	}
	for _, t := range draft.Tags {
		if c, ok := checks.Of(t); ok {
			points.add(c.Result, c.Outdated)
		}
	}
	return points, elements, p.eachScreenCheck(ctx, func(_ screen.Entry, c ScreenCheck) error {
		elements.add(c.Result, c.Outdated)
		return nil
	})
}
