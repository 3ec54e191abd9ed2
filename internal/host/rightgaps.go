package host

import (
	"context"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
)

// gapSays are the findings of gaps, and how grave each is.
var gapSays = map[access.GapKind]struct {
	rule     string
	severity project.Severity
}{
	access.GapNobody:     {"rights.nobody", project.Note},
	access.GapArea:       {"rights.area", project.Warning},
	access.GapEverything: {"rights.everything", project.Note},
	access.GapBeyond:     {"rights.beyond", project.Warning},
}

// Gaps are findings about who has which rights in a version, and about where heads
// of the trail are held: they and the version change apart, so that they are no part
// of its check and stand in no release's way.
func (p *Project) Gaps(ctx context.Context, version *project.Project) ([]project.Finding, error) {
	people, err := p.host.server.People(ctx)
	if err != nil {
		return nil, err
	}
	grants, err := p.Grants(ctx)
	if err != nil {
		return nil, err
	}
	names := map[string]string{}
	var ids []string
	for _, x := range people {
		if names[x.ID] = x.FullName; !x.Owner && !x.Disabled && !over(x, time.Now()) {
			ids = append(ids, x.ID)
		}
	}
	policy := &access.Policy{Roles: version.Roles, Areas: version.Site().Areas, Grants: grants}
	out := []project.Finding{}
	if p.host.signing.folder == "" {
		out = append(out, project.Finding{Rule: "heads.none", Severity: project.Note, Stop: project.StopRelease, Kind: project.KindSite,
			Name: version.Site().Name})
	}
	for _, gap := range policy.Gaps(ids, version.AlarmAreas()) {
		says := gapSays[gap.Kind]
		f := project.Finding{Rule: says.rule, Severity: says.severity, Stop: project.StopPeople, Kind: project.KindRole,
			Name: version.Site().Name, Args: map[string]any{}}
		switch gap.Kind {
		case access.GapNobody:
			f.Args["rights"] = access.RightList(gap.Rights)
		case access.GapArea:
			if name := version.AreaName(gap.Area); name != "" {
				f.Name = name
			}
			f.Args["area"] = f.Name
		case access.GapEverything:
			f.Name = names[gap.Person]
			f.Args["person"] = f.Name
		case access.GapBeyond:
			f.Name = names[gap.Person]
			f.Args["person"], f.Args["giver"], f.Args["rights"] = f.Name, gap.Giver, access.RightList(gap.Rights)
		}
		out = append(out, f)
	}
	return out, nil
}
