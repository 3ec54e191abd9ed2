package project

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Severity of a finding.
type Severity string

// Errors stop a release; warnings and notes do not. Notes leave a stop's
// readiness alone.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
	Note    Severity = "note"
)

// Stop is a step of the rail.
type Stop string

// The stops of this version, in the order of the job.
const (
	StopSite      Stop = "site"
	StopDevices   Stop = "devices"
	StopTags      Stop = "tags"
	StopEquipment Stop = "equipment"
	StopScreens   Stop = "screens"
	StopAlarms    Stop = "alarms"
	StopHistory   Stop = "history"
	StopRecipes   Stop = "recipes"
	StopPeople    Stop = "people"
	StopRelease   Stop = "release"
)

// Stops are the stops in the order of the job.
var Stops = []Stop{
	StopSite,
	StopDevices,
	StopTags,
	StopEquipment,
	StopScreens,
	StopAlarms,
	StopHistory,
	StopRecipes,
	StopPeople,
	StopRelease,
}

// Finding is something that the project check has to say.
type Finding struct {
	Rule     string         `json:"rule"`
	Severity Severity       `json:"severity" enum:"error,warning,note"`
	Stop     Stop           `json:"stop"`
	Kind     string         `json:"kind"`
	ID       string         `json:"id"`
	Place    string         `json:"place"` // JSON pointer into the thing
	Name     string         `json:"name"`  // the thing in words
	Args     map[string]any `json:"-"`     // strings, or what is said in a language
}

// Findings runs the check, once for each version.
func (p *Project) Findings() []Finding {
	p.checkOnce.Do(func() {
		c := &checker{p: p, findings: []Finding{}}
		for _, k := range kinds {
			k.checkAll(c)
		}
		sort.SliceStable(c.findings, func(i, j int) bool {
			a, b := c.findings[i], c.findings[j]
			if r := rank(a.Severity) - rank(b.Severity); r != 0 {
				return r < 0
			}
			if a.Stop != b.Stop {
				return slices.Index(Stops, a.Stop) < slices.Index(Stops, b.Stop)
			}
			return tag.Less(a.Name, b.Name)
		})
		p.findings = c.findings
	})
	return p.findings
}

// Releasable tells whether no error stands in the way.
func (p *Project) Releasable() bool {
	for _, f := range p.Findings() {
		if f.Severity == Error {
			return false
		}
	}
	return true
}

func rank(s Severity) int {
	return map[Severity]int{Error: 0, Warning: 1, Note: 2}[s]
}

type checker struct {
	p        *Project
	findings []Finding
}

func (c *checker) add(rule string, s Severity, kind, id, place, name string, args ...any) {
	f := Finding{Rule: rule, Severity: s, Stop: kindByName[kind].told().Stop, Kind: kind, ID: id, Place: place, Name: name}
	if len(args) > 0 {
		f.Args = map[string]any{}
		for i := 0; i+1 < len(args); i += 2 {
			f.Args[args[i].(string)] = args[i+1]
		}
	}
	c.findings = append(c.findings, f)
}

func (c *checker) formula(err error, kind, id, place, name string) {
	column, why := "", err
	if fe, ok := err.(*formula.Error); ok {
		column, why = fmt.Sprint(fe.Column+1), fe.Why
	}
	rule := "formula"
	if strings.HasSuffix(why.Error(), "no longer exists") {
		rule = "formula.gone"
	}
	c.add(rule, Error, kind, id, place, name, "column", column, "reason", why)
}

// Scope is the scope in which the project's formulas are checked: every tag is
// in slot 0, so that the program is good for its type alone.
func (p *Project) Scope() formula.Scope { return p.ScopeOn(nil) }

// ScopeOn is Scope on a screen: its parameters are known by what their types
// say.
func (p *Project) ScopeOn(s *screen.Screen) formula.Scope {
	return formula.Scope{
		Tag: func(id string) (int32, value.Kind, bool) {
			if t, ok := p.Tags[p.Real(id)]; ok {
				return 0, t.Kind(), true
			}
			_, _, kind, ok := s.ResolveParam(id, p.Type)
			return 0, kind, ok && kind != value.None
		},
		Path: p.PathOn(s),
	}
}
