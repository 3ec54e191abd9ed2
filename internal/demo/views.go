package demo

import (
	"strings"

	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
)

// views are those of recorded courses: two that serve every chamber, and one of
// the whole yard.
func views(p *project.Project) []history.View {
	return []history.View{
		view(p, "v-climate", "Chamber climate", "Air, set points and moisture of a chamber", 8*3600,
			"Kiln1.DryBulb Kiln1.DryBulbSP Kiln1.WetBulb Kiln1.WetBulbSP Kiln1.MoistureAvg Kiln1.HeatValve Kiln1.Mode Kiln1.DoorClosed"),
		view(p, "v-burner", "Burner lighting", "Purge, spark, gas and flame of a chamber's burner", 3600,
			"Kiln1.Burner.Call Kiln1.Burner.PurgeFan Kiln1.Burner.PurgeDone Kiln1.Burner.Spark Kiln1.Burner.GasValve Kiln1.Burner.Flame"+
				" Kiln1.Burner.Lockout"),
		view(p, "v-energy", "Energy", "Power against the weather", 24*3600, "Meter.Power Weather.Outside Weather.Wind"),
	}
}

// view is one of tags by their paths; those of equipment make it serve its type.
func view(p *project.Project, id, name, note string, span int, paths string) history.View {
	v := history.View{ID: id, Name: name, Note: note, Span: span}
	var tags []string
	for path := range strings.FieldsSeq(paths) {
		tag, _ := p.FindPath(path)
		tags = append(tags, tag)
	}
	pens := tags
	if typ, _, own := p.ViewOf(tags); typ != "" {
		v.Type, pens = typ, own
	}
	for _, tag := range pens {
		v.Pens = append(v.Pens, history.ViewPen{Tag: tag})
	}
	return v
}
