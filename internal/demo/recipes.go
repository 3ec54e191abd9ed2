package demo

import (
	_ "embed"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"strings"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// schedulesCSV are the drying schedules that the yard begins with: a row a
// recipe, a column a field.
//
//go:embed schedules.csv
var schedulesCSV string

// books are those of the yard: the drying schedules of the chambers, which the
// controller takes over at a request, and the car's motion, which it uses as it
// comes.
func books(p *project.Project) ([]recipe.Book, error) {
	drying, err := dryingBook(p)
	if err != nil {
		return nil, err
	}
	return []recipe.Book{drying, carBook(p)}, nil
}

// The demo's books.
const (
	dryingID = "b-drying"
	carID    = "b-car"
)

// deliveriesTold gives the schedule of every chamber what the application knows of
// it: which one was delivered, whether it still is as it was, and what a delivery
// left; and the car what one of its motion left.
func deliveriesTold(p *project.Project) (*project.Project, error) {
	var ops []project.Op
	for id, t := range p.Types {
		if t.Name != "Schedule" {
			continue
		}
		for i, m := range []struct{ name, does, system string }{
			{"Runs", "Schedule that was delivered last", "recipe.runs"}, {"Version", "Its version", "recipe.version"},
			{"Changed", "Fields of it that are otherwise in the controller by now", "recipe.changed"},
			{"Left", "Deliveries that were left half-way", "recipe.left"},
		} {
			s, _ := tag.SystemValueOf(m.system)
			doc, err := json.Marshal(equipment.Member{Order: float64(len(t.Members) + i + 1), Name: m.name,
				Tag: &tag.Tag{Description: m.does, Type: s.Type, Source: tag.System, System: m.system, Book: dryingID}})
			if err != nil {
				return nil, err
			}
			ops = append(ops, project.Op{Kind: project.KindType, ID: id, Path: fmt.Sprintf("/members/told%d", i+1), Value: doc})
		}
	}
	left, _ := tag.SystemValueOf("recipe.left")
	car, _ := p.FindFolder("Car")
	doc, err := json.Marshal(tag.Tag{Name: "MotionLeft", Folder: car, Description: "Deliveries of a motion that were left half-way",
		Type: left.Type, Source: tag.System, System: left.Name, Book: carID})
	if err != nil {
		return nil, err
	}
	ops = append(ops, project.Op{Kind: project.KindTag, ID: "t-motion-left", Value: doc})
	p, _, err = p.Edit(ops)
	return p, err
}

func dryingBook(p *project.Project) (recipe.Book, error) {
	b := recipe.Book{
		ID:       dryingID,
		Name:     "Drying schedule",
		Note:     "By species and thickness; a chamber takes one over while it is idle",
		Approved: true,
		Two:      true,
	}
	group := "Load"
	add := func(title, member, high string, more func(f *recipe.Field)) {
		f := recipe.Field{ID: fmt.Sprintf("f%02d", len(b.Fields)+1), Name: member, Title: title, Group: group}
		if t := memberTag(p, "Schedule."+member); t != nil {
			take(&f, t)
			b.Type, f.Member = chainOf(p, "Schedule."+member)
		}
		if high != "" {
			f.High = high
		}
		if more != nil {
			more(&f)
		}
		b.Fields = append(b.Fields, f)
	}
	add("Species", "Species", "", nil)
	add("Thickness", "Thickness", "", nil)
	add("Target moisture", "TargetMoisture", "", nil)
	add("Fan reversal", "ReversalMinutes", "", func(f *recipe.Field) { f.Default = "120" })
	add("Conditioning", "ConditioningHours", "", func(f *recipe.Field) { f.Default = "6" })
	add("Note", "Note", "", func(f *recipe.Field) { f.Type = value.Type{Kind: value.STRING, Len: 60} })
	names := [...]string{"warm-up", "", "", "", "", "final"}
	for n := 1; n <= len(names); n++ {
		group = fmt.Sprintf("Step %d", n)
		if names[n-1] != "" {
			group += ": " + names[n-1]
		}
		step := fmt.Sprintf("Step[%d].", n)
		before := ""
		if n > 1 {
			before = fmt.Sprintf("Step[%d].MoistureFrom", n-1)
		}
		add("Moisture from", step+"MoistureFrom", before, nil)
		add("Dry bulb", step+"Dry", "", nil)
		add("Wet bulb", step+"Wet", step+"Dry - 1", func(f *recipe.Field) {
			f.Help = "At least 1 °C below the dry bulb"
		})
		add("Air", step+"Air", "", nil)
	}
	group = "Outlook"
	add("Drying time", "DryingHours", "", func(f *recipe.Field) {
		whole := 0
		f.Type, f.Unit, f.Decimals = value.Type{Kind: value.REAL}, "h", &whole
		f.Formula = "Thickness * (Step[1].MoistureFrom - TargetMoisture) * 1.6 / (Step[3].Dry - 30)"
	})
	b.Checks = []recipe.Check{
		{Formula: "Step[6].MoistureFrom > TargetMoisture", Says: "The last step begins above the target moisture"},
		{Formula: "Step[6].Dry >= Step[1].Dry", Says: "The last step is not cooler than the first"},
	}
	_, ready := chainOf(p, "Schedule.Ready")
	_, taken := chainOf(p, "Schedule.Taken")
	b.Sending = recipe.Sending{When: "Mode == 0 and DoorClosed", Why: "The chamber is not idle, or its door is open", PutBack: true,
		Hand: &recipe.Handshake{Ready: ready, Taken: taken, Seconds: 5}}
	var err error
	b.Begin, err = schedules(&b)
	return b, err
}

// take takes type, unit and limits of a tag for a field.
func take(f *recipe.Field, t *tag.Tag) {
	f.Type, f.Unit, f.Decimals, f.Step = t.EngineeringType(), t.Unit, t.Decimals, t.Step
	if t.Low != nil {
		f.Low = value.Real(value.LREAL, *t.Low).Text()
	}
	if t.High != nil {
		f.High = value.Real(value.LREAL, *t.High).Text()
	}
}

// memberTag is a member of the first chamber; nil for none.
func memberTag(p *project.Project, member string) *tag.Tag {
	id, ok := p.FindPath("Kiln1." + member)
	if !ok {
		return nil
	}
	return p.Tags[id]
}

func chainOf(p *project.Project, member string) (typ, chain string) {
	typ, chains := members(p, "Kiln1."+member)
	return typ, chains[0]
}

// schedules reads the recipes that the book begins with.
func schedules(b *recipe.Book) ([]recipe.Beginning, error) {
	rows, err := csv.NewReader(strings.NewReader(schedulesCSV)).ReadAll()
	if err != nil {
		return nil, fmt.Errorf("the demo's schedules: %w", err)
	}
	var out []recipe.Beginning
	for _, row := range rows[1:] {
		values := recipe.Values{}
		for i, cell := range row[1:] {
			f, ok := b.Named(rows[0][i+1])
			if !ok {
				return nil, fmt.Errorf("the demo's schedules: no field %s", rows[0][i+1])
			}
			values[f.ID] = cell
		}
		out = append(out, recipe.Beginning{Name: row[0], Values: values})
	}
	return out, nil
}

// carBook is how fast the rail car moves.
func carBook(p *project.Project) recipe.Book {
	b := recipe.Book{
		ID:      carID,
		Name:    "Car motion",
		Note:    "Empty, loaded, and on wet rails",
		Area:    "a-car",
		Sending: recipe.Sending{PutBack: true},
	}
	for i, x := range []struct{ title, path string }{
		{"Velocity", "Car.VelocitySP"}, {"Acceleration", "Car.AccelSP"}, {"Deceleration", "Car.DecelSP"},
	} {
		id, ok := p.FindPath(x.path)
		if !ok {
			continue
		}
		f := recipe.Field{ID: fmt.Sprintf("f%d", i+1), Name: strings.TrimPrefix(x.path, "Car."), Title: x.title, Tag: id}
		take(&f, p.Tags[id])
		b.Fields = append(b.Fields, f)
	}
	for _, x := range []struct {
		name   string
		values [3]string
	}{
		{"Empty", [3]string{"600", "350", "500"}}, {"Loaded", [3]string{"400", "250", "500"}}, {"Wet rails", [3]string{"250", "120", "180"}},
	} {
		r := recipe.Beginning{Name: x.name, Values: recipe.Values{}}
		for i := range b.Fields {
			r.Values[b.Fields[i].ID] = x.values[i]
		}
		b.Begin = append(b.Begin, r)
	}
	return b
}
