package demo

import (
	"strings"

	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
)

// logs are those of the yard: the record of drying, cut into each chamber's
// loads; how everything stood as a burner locked out; and the energy, by the
// quarter of an hour.
func logs(p *project.Project) []history.Log {
	chamber, load := members(p, "Kiln1.LoadId")
	drying := history.Log{ID: "l-drying", Name: "Drying record", Note: "What a load went through, for whoever bought it",
		How:   history.LogHow{Way: history.AtIntervals, Every: 600_000},
		Keep:  history.LogKeep{Days: 400, MB: 2000},
		Out:   history.LogOut{Folder: "files"},
		Spans: history.LogSpans{Type: chamber, Member: load[0]}}
	_, chains := members(p, "Kiln1.MoistureAvg Kiln1.DryBulb Kiln1.DryBulbSP Kiln1.WetBulb Kiln1.WetBulbSP Kiln1.HeatValve"+
		" Kiln1.VentPosition Kiln1.Mode Kiln1.Species Kiln1.LoadId")
	for _, chain := range chains {
		drying.Picks = append(drying.Picks, history.Pick{Type: chamber, Member: chain})
	}
	const lockout = "Kiln1.Burner.Lockout or Kiln2.Burner.Lockout or Kiln3.Burner.Lockout"
	burners := history.Log{ID: "l-lockout", Name: "At a lockout", Note: "How the burners stood as one of them locked out",
		How: history.LogHow{Way: history.AtMoments, Rises: lockout}, Keep: history.LogKeep{Days: 400, Count: 100_000},
		Picks: []history.Pick{{Like: "Kiln*.Burner.*"}, {Like: "Kiln*.DryBulb"}}}
	energy := history.Log{ID: "l-energy", Name: "Energy", Note: "For the bill",
		How:  history.LogHow{Way: history.AtIntervals, Every: 15 * 60_000},
		Keep: history.LogKeep{Days: 1100}}
	for path := range strings.FieldsSeq("Meter.Energy Meter.Power") {
		if id, ok := p.FindPath(path); ok {
			energy.Picks = append(energy.Picks, history.Pick{Tag: id})
		}
	}
	return []history.Log{drying, burners, energy}
}

// members are the tags of one chamber as the members of its type.
func members(p *project.Project, paths string) (typ string, chains []string) {
	var tags []string
	for path := range strings.FieldsSeq(paths) {
		id, _ := p.FindPath(path)
		tags = append(tags, id)
	}
	typ, _, pens := p.ViewOf(tags)
	for _, pen := range pens {
		chains = append(chains, strings.TrimPrefix(pen, history.Own))
	}
	return typ, chains
}
