package server

import (
	"context"
	"encoding/json"
	"hash/fnv"
	"slices"
	"strconv"

	"readyrail/internal/core/device"
	"readyrail/internal/core/equipment"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/host"
)

// Workshop is what stands around every stop, in one answer: somebody's edit
// costs each of the others one question for it, and one for what they look at.
type Workshop struct {
	Overview Overview           `json:"overview"`
	Check    string             `json:"check" doc:"says which findings these are"`
	Findings []FindingInfo      `json:"findings,omitempty" doc:"left out where they are those that were asked with"`
	Devices  []device.Device    `json:"devices"`
	Screens  []ScreenInfo       `json:"screens"`
	Types    []TypeInfo         `json:"types"`
	Looks    []screen.LookSet   `json:"looks"`
	Styles   []screen.TextStyle `json:"styles"`
}

func (s *Server) workshopRoutes() {
	get(s, "/api/projects/{project}/workshop", "What stands around every stop of the Workshop", func(ctx context.Context, in *struct {
		Scope
		Language string `query:"language" maxLength:"5"`
		Check    string `query:"check" maxLength:"40" doc:"of the findings that are known already"`
	}) (*body[Workshop], error) {
		_, p, err := s.enter(ctx, in.Scope, looking)
		if err != nil {
			return nil, err
		}
		d := p.Draft()
		found, err := findingsOf(ctx, p, d, in.Language)
		if err != nil {
			return nil, err
		}
		out := Workshop{Overview: overview(p), Check: sumOf(found), Devices: valuesOf(d.Devices), Screens: screenList(d), Types: typesOf(d),
			Looks: valuesOf(d.Looks), Styles: valuesOf(d.Styles)}
		if out.Check != in.Check {
			out.Findings = found
		}
		return &body[Workshop]{out}, nil
	})
}

// sumOf tells one list of findings from another.
func sumOf(found []FindingInfo) string {
	h := fnv.New64a()
	_ = json.NewEncoder(h).Encode(found) // neither a hash nor findings can fail to be written
	return strconv.FormatUint(h.Sum64(), 36)
}

// findingsOf lists what failed of the running project itself, then what the
// check says of a version of it, and what is amiss with people's rights in it.
func findingsOf(ctx context.Context, p *host.Project, d *project.Project, language string) ([]FindingInfo, error) {
	gaps, err := p.Gaps(ctx, d)
	if err != nil {
		return nil, problem(err)
	}
	out := []FindingInfo{}
	for _, f := range slices.Concat(p.Failures(), d.Findings(), gaps) {
		w := f.Render(language)
		out = append(out, FindingInfo{f, w.Says, w.Mend})
	}
	return out, nil
}

func typesOf(d *project.Project) []TypeInfo {
	count := map[string]int{}
	for _, piece := range d.Pieces() {
		count[piece.Type]++
	}
	out := []TypeInfo{}
	for _, id := range project.SortedKeys(d.Types) {
		t := d.Types[id]
		out = append(out, TypeInfo{id, t.Name, t.Title, len(t.Members), count[id], t.Symbol, t.Faceplate,
			append([]equipment.Setting{}, t.Settings...)})
	}
	return out
}

// valuesOf lists things in the order of their ids.
func valuesOf[T any](things map[string]*T) []T {
	out := []T{}
	for _, id := range project.SortedKeys(things) {
		out = append(out, *things[id])
	}
	return out
}
