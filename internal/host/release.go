package host

import (
	"context"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/door"
	"readyrail/internal/edit"
)

// ReleaseOrder is what is said to a release.
type ReleaseOrder struct {
	Note string `json:"note" maxLength:"1000"`
	// Limits says of each limit that was changed at the Desk, by the alarm's id, what
	// becomes of it; a release of the draft without an answer is refused. An older
	// release keeps what it isn't told to discard.
	Limits map[string]LimitChoice `json:"limits,omitempty" doc:"what becomes of each limit that was changed at the Desk, by the alarm's id"`
	// Seen is the edit up to which the draft was looked at. What is signed is what was seen.
	Seen     int64  `json:"seen,omitempty" minimum:"0" doc:"number of the edit up to which the draft was looked at: one that was changed since is not signed"`
	Language string `json:"language,omitempty" maxLength:"12" doc:"of what is asked; empty for the project's first"`
	Given
}

// ReleaseMade is a release, with what it changed at the Desk.
type ReleaseMade struct {
	edit.ReleaseInfo
	Changed int      `json:"changed" doc:"things that differ from what ran before"`
	Made    int      `json:"made" doc:"tags that there were not before"`
	Gone    int      `json:"gone" doc:"tags that are no longer there"`
	Devices []string `json:"devices" doc:"names of devices that are new or were changed"`
	Ended   []string `json:"ended" doc:"what was held and let go, as it may no longer be: paths, with who held them"`
}

// Publish makes the draft a release and puts it to work at the Desk. Where the site asks
// for something that the order doesn't answer nothing is released, and the error is an *Asks.
func (p *Project) Publish(ctx context.Context, who Actor, order ReleaseOrder) (*ReleaseMade, error) {
	if err := p.Require(ctx, who, access.Release, ""); err != nil {
		return nil, err
	}
	draft := p.Draft()
	asked := p.askedToRelease(draft)
	signed, err := p.signRelease(ctx, who, draft, asked, order)
	if err != nil {
		return nil, err
	}
	was := p.ranBefore()
	var gone []string
	var ended []door.Ended
	info, err := p.Edits.Publish(ctx, who, edit.Wording{Note: order.Note, Signed: signed}, func() (adopted []project.Op, err error) {
		// Signing takes its time: what was signed is what is released, and nothing else is
		// asked by now.
		now := p.askedToRelease(p.Draft())
		if signed != "" && p.Draft() != draft || !reflect.DeepEqual(now, asked) {
			return nil, errChangedMeanwhile
		}
		if err := p.mayRelease(ctx, p.Draft()); err != nil {
			return nil, err
		}
		adopted, gone, err = p.chooseLimits(order.Limits)
		return adopted, err
	}, func(released *project.Project) { ended = p.beginRelease(ctx, who, released, gone) })
	if err != nil {
		return nil, err
	}
	return p.releaseMade(ctx, who, info, was, ended), nil
}

var errChangedMeanwhile = refused("the draft was changed meanwhile: look at what changed, and release again")

// Return makes an earlier release what the Desk runs, by the same road; the draft stays
// as it is.
func (p *Project) Return(ctx context.Context, who Actor, number int64, order ReleaseOrder) (*ReleaseMade, error) {
	if err := p.Require(ctx, who, access.Release, ""); err != nil {
		return nil, err
	}
	was := p.runs.Plain()
	if was == nil {
		return nil, refused("nothing is released yet: there is nothing to return to")
	}
	order.Seen = 0 // the draft is not what is signed
	asked := p.askedToRelease(was)
	signed, err := p.signRelease(ctx, who, was, asked, order)
	if err != nil {
		return nil, err
	}
	var gone []string
	var ended []door.Ended
	fits := func(released *project.Project) error {
		if !reflect.DeepEqual(p.askedToRelease(p.runs.Plain()), asked) {
			return errChangedMeanwhile
		}
		for _, c := range p.ChangedLimits() {
			switch choice := order.Limits[c.Alarm]; {
			case choice == AdoptLimit:
				return refused("an earlier release adopts no limit of %s: keep or discard it", c.Name)
			case choice == DiscardLimit || released.Alarms[c.Alarm] == nil:
				gone = append(gone, c.Alarm)
			}
		}
		return nil
	}
	info, err := p.Edits.Return(ctx, who, number, edit.Wording{Note: order.Note, Signed: signed}, fits,
		func(released *project.Project) { ended = p.beginRelease(ctx, who, released, gone) })
	if err != nil {
		return nil, err
	}
	return p.releaseMade(ctx, who, info, was, ended), nil
}

// ranBefore is the release without what was changed at the Desk; an empty project before
// the first.
func (p *Project) ranBefore() *project.Project {
	if plain := p.runs.Plain(); plain != nil {
		return plain
	}
	return project.New("")
}

// releaseRules are those of a version, and of what runs: who makes a rule milder
// releases that under the rule that there is.
func (p *Project) releaseRules(version *project.Project) []*project.ReleaseRule {
	rules := []*project.ReleaseRule{&version.Site().Release}
	if running := p.Released(); running != nil && running != version {
		rules = append(rules, &running.Site().Release)
	}
	return rules
}

// askedToRelease is what is asked of who releases a version.
func (p *Project) askedToRelease(version *project.Project) project.Asked {
	all := []access.Asking{}
	for _, rule := range p.releaseRules(version) {
		all = append(all, rule.Asks())
	}
	return project.Asked{Asking: access.Strictest(all...)}
}

// signRelease asks for the note and the signatures that a release of a version takes,
// and says who signed.
func (p *Project) signRelease(ctx context.Context, who Actor, version *project.Project, asked project.Asked, order ReleaseOrder) (
	signed string, err error) {
	for _, rule := range p.releaseRules(version) {
		if rule.Note && strings.TrimSpace(order.Note) == "" {
			return "", refused("this site releases nothing without a note: say what the release is for")
		}
	}
	if asked.Sign != "" && order.Seen != 0 && order.Seen != p.Revision() {
		return "", errChangedMeanwhile
	}
	// What cannot be released is refused before it is signed.
	if asked.Sign != "" && !order.Answered && version == p.Draft() {
		if err := p.mayRelease(ctx, version); err != nil {
			return "", err
		}
	}
	sign := &undersigned{p, version, who, asked, order.Given, access.Release, []string{""}, version.Site().Name}
	by, err := sign.ask(ctx, order.Language)
	return by.Sign, err
}

// mayRelease refuses the draft as long as something stands in the way that the site's
// rules name.
func (p *Project) mayRelease(ctx context.Context, draft *project.Project) error {
	rules := p.releaseRules(draft)
	gaps, err := p.Gaps(ctx, draft)
	if err != nil {
		return err
	}
	if n := inTheWay(slices.Concat(draft.Findings(), gaps), rules); n > 0 {
		return refused("%d findings stand in the way: mend them first", n)
	}
	if !slices.ContainsFunc(rules, func(r *project.ReleaseRule) bool { return r.Proved }) {
		return nil
	}
	points, elements, err := p.proofs(ctx, draft)
	if err == nil && points.Open+elements.Open > 0 {
		return refused("%d points and %d elements of screens are not proved: this site releases nothing before they are", points.Open,
			elements.Open)
	}
	return err
}

// inTheWay counts the findings that one of the rules does not let go.
func inTheWay(findings []project.Finding, rules []*project.ReleaseRule) (n int) {
	for _, f := range findings {
		if slices.ContainsFunc(rules, func(r *project.ReleaseRule) bool { return r.StandsIn(&f) }) {
			n++
		}
	}
	return n
}

// beginRelease puts what was released to work, and tells what it had let go; gone are the
// limits that no longer lie over it.
func (p *Project) beginRelease(ctx context.Context, who Actor, released *project.Project, gone []string) (ended []door.Ended) {
	// Those that could not be dropped go on lying over it, and show as changed.
	if err := p.runs.DropLimits(ctx, gone); err != nil {
		p.host.log.Error("limits that were changed at the Desk still lie over the new release", "project", p.id, "error", err)
	}
	ended = p.runs.Door().Across(ctx, func() { p.runs.RunRelease(released) })
	p.uncontrolled(ctx, released.Site().Areas)
	if err := p.shelf.beginRecipes(ctx, who, released); err != nil {
		p.host.log.Error("recipes that the release begins with could not be added", "project", p.id, "error", err)
	}
	return ended
}

// releaseMade tells everybody of a release, and what it changed.
func (p *Project) releaseMade(ctx context.Context, who Actor, info *edit.ReleaseInfo, was *project.Project,
	ended []door.Ended) *ReleaseMade {
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Release: info.Number})
	told := fmt.Sprint(info.Number)
	if info.Again != 0 {
		told = fmt.Sprintf("%d, which is %d again", info.Number, info.Again)
	}
	p.runs.Door().Note(ctx, audit.Record{At: info.At.UnixNano(), What: audit.Release, Person: who.ID, Name: who.Name, Panel: who.Panel,
		New: told, Reason: info.Note, Sign: info.Signed})
	out := &ReleaseMade{ReleaseInfo: *info, Devices: []string{}, Ended: []string{}}
	for _, x := range ended {
		out.Ended = append(out.Ended, fmt.Sprintf("%s (%s)", x.Path, x.Who.Name))
	}
	for _, d := range project.Differences(was, p.runs.Plain()) {
		out.Changed++
		switch {
		case d.Kind == project.KindTag && d.Made:
			out.Made++
		case d.Kind == project.KindTag && d.Gone:
			out.Gone++
		case d.Kind == project.KindDevice && !d.Gone:
			out.Devices = append(out.Devices, d.Name)
		}
	}
	return out
}
