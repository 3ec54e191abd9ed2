package project

import (
	"encoding/json"
	"strings"

	"readyrail/internal/core/device"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// thereAlready is where a planned field comes from that the book has.
const thereAlready = "same"

// PlanFields says which fields a sheet makes for a book, and the edit that adds
// them; those that the book has by name are left as they are. A planned field has
// its type as its address.
func (p *Project) PlanFields(book string, cells [][]string, newID func(string) string) ([]Planned, []Op, error) {
	b := p.Books[book]
	if b == nil {
		return nil, nil, say.Errorf("the book is no longer there")
	}
	rows, ignored, err := recipe.FieldsOf(cells)
	if err != nil {
		return nil, nil, err
	}
	list := make([]Planned, 0, len(rows)+len(ignored))
	fields := p.ShownBook(b).Fields
	was, err := json.Marshal(fields)
	if err != nil {
		return nil, nil, err
	}
	taken := map[string]bool{}
	for _, row := range rows {
		line := Planned{Path: row.Name, Address: row.Type.String(), Text: toldOf(&row.Field), Problem: say.Text{Why: row.Why}}
		if line.Problem.IsZero() && row.Goes != "" {
			line.Problem.Why = p.sendTo(b, &row)
		}
		switch _, there := b.Named(row.Name); {
		case !line.Problem.IsZero():
		case there:
			line.From = thereAlready
		case taken[tag.Key(row.Name)]:
			line.Problem.Why = say.New("the sheet has this field twice")
		default:
			taken[tag.Key(row.Name)] = true
			row.ID = newID("field")
			fields = append(fields, row.Field)
			if place, err := (&recipe.Book{Name: b.Name, Type: b.Type, Fields: []recipe.Field{row.Field}}).Check(); err != nil {
				line.Problem.Why = say.Errorf("%s: %v", strings.TrimPrefix(place, "/fields/0/"), err)
			}
		}
		list = append(list, line)
	}
	for _, column := range ignored {
		list = append(list, Planned{Path: column, From: "ignored"})
	}
	doc, err := json.Marshal(fields)
	return list, []Op{{Kind: KindBook, ID: book, Path: "/fields", Value: doc, Was: was}}, err
}

// toldOf is what a plan says of a field.
func toldOf(f *recipe.Field) string {
	var parts []string
	for _, part := range []string{f.Group, f.Called(), f.Unit} {
		if part != "" {
			parts = append(parts, part)
		}
	}
	if f.Low != "" || f.High != "" {
		parts = append(parts, f.Low+" to "+f.High)
	}
	return strings.Join(parts, ", ")
}

// sendTo sends a field of a sheet to the tag that it names; it returns why it
// cannot.
func (p *Project) sendTo(b *recipe.Book, row *recipe.SheetField) error {
	path := row.Goes
	if t := p.Types[b.Type]; t != nil {
		stored, ok := p.resolveIn(t, false)(path)
		if chain, member := strings.CutPrefix(stored, "."); ok && member {
			row.Member = chain
			return nil
		}
	}
	id, ok := p.FindPath(path)
	if !ok {
		return say.Errorf("there is no tag %s", path)
	}
	ref, ok := p.PointOf(b, id)
	if !ok {
		return say.Errorf("%s is of no equipment that the book is for", path)
	}
	if b.Type != "" {
		row.Member = ref
	} else {
		row.Tag = ref
	}
	return nil
}

// FieldBlock lays the fields of a book that go nowhere yet out one after the other in
// the registers of a device.
type FieldBlock struct {
	Book    string `json:"book" maxLength:"60"`
	Device  string `json:"device" maxLength:"60" doc:"id"`
	Address string `json:"address" maxLength:"60" doc:"of the first, such as holding:400"`
	Folder  string `json:"folder" maxLength:"250" doc:"path of the folder of their tags"`
}

// PlanBlock says which tags a block makes, and the edit that makes them and sends
// the fields there. BOOLs in a row share a register from bit 0 on; anything else
// begins at the next whole one.
func (p *Project) PlanBlock(m FieldBlock, newID func(string) string) ([]Planned, []Op, error) {
	b, d := p.Books[m.Book], p.Devices[m.Device]
	switch {
	case b == nil:
		return nil, nil, say.Errorf("the book is no longer there")
	case b.Type != "":
		return nil, nil, say.Errorf("a book for equipment goes to members: give their tags addresses in the type")
	case d == nil:
		return nil, nil, say.Errorf("a block needs its device")
	}
	if d.Protocol != device.ModbusTCP {
		return nil, nil, say.Errorf("%s has no registers: make the fields from its tags", d.Name)
	}
	at, err := device.ParseAddress(m.Address)
	if err != nil {
		return nil, nil, err
	}
	plan := p.newPlan(newID)
	fields := p.ShownBook(b).Fields
	was, err := json.Marshal(fields)
	if err != nil {
		return nil, nil, err
	}
	next := at.String()
	for i := range fields {
		f := &fields[i]
		if f.Goes() || f.Formula != "" {
			continue
		}
		var problem error
		var here string
		if here, next, err = blockPlace(d, next, f.Type); err != nil {
			problem = err
		}
		t := fieldTag(f)
		t.Device, t.Address = d.ID, here
		path := f.Name
		if m.Folder != "" {
			path = m.Folder + "." + f.Name
		}
		if id := plan.add(path, t, "", problem); id != "" {
			f.Tag = id
		}
	}
	list, ops, err := plan.done()
	if err != nil {
		return nil, nil, err
	}
	if len(list) == 0 {
		return nil, nil, say.Errorf("every field of the book goes somewhere already, or is computed")
	}
	doc, err := json.Marshal(fields)
	return list, append(ops, Op{Kind: KindBook, ID: b.ID, Path: "/fields", Value: doc, Was: was}), err
}

// blockPlace is where a value of a type lies in a block whose next free place is at
// an address, and the next free place behind it; there is none, and next is empty,
// where the device ends. What does not fit leaves the place free.
func blockPlace(d *device.Device, at string, of value.Type) (here, next string, err error) {
	if at == "" {
		return "", "", errBlockEnds
	}
	a, err := device.ParseAddress(at)
	if err != nil {
		return "", at, err
	}
	if !a.Space.IsBits() {
		switch single := of.Kind == value.BOOL; {
		case single && a.Bit < 0:
			a.Bit = 0
		case !single && a.Bit > 0 && a.Offset == lastRegister:
			return "", at, errBlockEnds
		case !single && a.Bit > 0:
			a.Bit, a.Offset = device.NoBit, a.Offset+1
		case !single:
			a.Bit = device.NoBit
		}
	}
	here = a.String()
	if err := a.Fit(of); err != nil {
		return here, at, err
	}
	if next, err = d.Step(here, of, device.StepOf(here, of)); err != nil {
		return here, "", nil
	}
	return here, next, nil
}

const lastRegister = 65535

var errBlockEnds = say.Errorf("the block ends behind the last register, %d", lastRegister)

// fieldTag is the tag that takes what a field holds.
func fieldTag(f *recipe.Field) tag.Tag {
	t := tag.Tag{Description: f.Called(), Type: f.Type, Source: tag.Device, Access: tag.ReadWrite, Unit: f.Unit,
		Decimals: f.Decimals, Step: f.Step, States: f.States}
	for text, into := range map[*string]**float64{&f.Low: &t.Low, &f.High: &t.High} {
		if v, err := value.Parse(value.Type{Kind: value.LREAL}, *text); err == nil && *text != "" {
			x := v.Float()
			*into = &x
		}
	}
	return t
}
