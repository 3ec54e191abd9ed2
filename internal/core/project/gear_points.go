package project

import "strings"

// MemberPoint is a tag that a member of a type has become.
type MemberPoint struct {
	ID      string `json:"id"`
	Path    string `json:"path"`
	Address string `json:"address"`
	Used    string `json:"used,omitempty" doc:"path of another tag that has something of the same address"`
}

// maxMemberPoints bounds what one look shows.
const maxMemberPoints = 500

// MemberPoints lists what a member of a type has become in all its equipment,
// in the order of paths; of equipment within, all the tags that it has.
func (p *Project) MemberPoints(typ, member string) []MemberPoint {
	out := []MemberPoint{}
	taken := p.occupied()
	for _, id := range p.SortedTags() {
		g, made := p.gear.tags[id]
		if !made || (g.Type != typ || g.Member != member) && !p.within(p.Tags[id].Folder, typ, member) {
			continue
		}
		if len(out) == maxMemberPoints {
			break
		}
		t := p.Tags[id]
		out = append(out, MemberPoint{ID: id, Path: p.paths.of[id], Address: t.Address, Used: taken.other(p.paths.of[id], t)})
	}
	return out
}

// within tells whether a folder lies in equipment that a member of a type has
// become.
func (p *Project) within(folder, typ, member string) bool {
	for folder != "" && p.Folders[folder] != nil {
		piece, ok := p.gear.pieces[folder]
		parent := p.Folders[folder].Parent
		if ok && p.gear.pieces[parent].Type == typ && lastMember(piece.Chain) == member {
			return true
		}
		folder = parent
	}
	return false
}

// lastMember is the member at the end of a chain such as m9.2.m7 or m9.2.
func lastMember(chain string) string {
	parts := strings.Split(chain, ".")
	for i := len(parts) - 1; i >= 0; i-- {
		if parts[i] != "" && (parts[i][0] < '0' || parts[i][0] > '9') {
			return parts[i]
		}
	}
	return ""
}
