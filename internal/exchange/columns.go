package exchange

import (
	"fmt"
	"strconv"
	"strings"

	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Columns are the columns of a tag list, in the order they are written.
// docs/formats.md describes them.
var Columns = []string{"path", "description", "type", "source", "device", "address", "access", "poll", "raw_low", "raw_high", "eng_low",
	"eng_high", "unit", "decimals", "limit_low", "limit_high", "step", "initial", "retain", "formula", "area",
	"write_address", "order", "clamp", "gain", "offset", "invert", "states", "source_name", "plausible_low", "plausible_high", "plausible_raw"}

// Cell is a refusal of one cell.
type Cell struct {
	Column string
	Why    error
}

func (c *Cell) Error() string { return c.Column + ": " + c.Why.Error() }

// Say gives the refusal in a language.
func (c *Cell) Say(language string) string { return c.Column + ": " + say.In(language, c.Why) }

// Row is one tag of a list, whatever format it came in. Fields holds only the
// columns that the source has.
type Row struct {
	Line   int // in the source, counted from 1
	Fields map[string]string
	// Was is what the source calls the tag, where that is not our path.
	Was string
	// Within are the structures that the row is a member of, the outermost
	// first.
	Within []Structure
	// Problem says why the source's own form could not be read.
	Problem *Cell
}

// Structure is a variable of a derived type: its path, and the type's name.
type Structure struct{ Path, Type string }

// index finds a project's things by the names that lists use.
type index struct {
	p       *project.Project
	devices map[string]string // lower-case name to id
	areas   map[string]string
	logs    map[string]string
	books   map[string]string
	only    string // the one device, where there is one
}

func newIndex(p *project.Project) *index {
	x := &index{p: p, devices: map[string]string{}, areas: map[string]string{}, logs: map[string]string{},
		books: map[string]string{}}
	for id, d := range p.Devices {
		x.devices[strings.ToLower(d.Name)] = id
		x.only = id
	}
	if len(p.Devices) != 1 {
		x.only = ""
	}
	for id, l := range p.Logs {
		x.logs[strings.ToLower(l.Name)] = id
	}
	for id, b := range p.Books {
		x.books[strings.ToLower(b.Name)] = id
	}
	for _, a := range p.Site().Areas {
		x.areas[strings.ToLower(a.Name)] = a.ID
	}
	return x
}

// systemAddress is how a system tag's value stands in the column of the address: its
// name, and that of the field of a recipe behind it.
func systemAddress(p *project.Project, t *tag.Tag) string {
	if b := p.Books[t.Book]; b != nil && t.OfField() {
		if f, ok := b.FindField(t.Field); ok {
			return t.System + " " + f.Name
		}
	}
	return t.System
}

// about sets the device of a tag, or the log or book that a system value is about:
// they stand in the column of the device.
func (x *index) about(t *tag.Tag, row Row, name string) error {
	t.Device, t.Log, t.Book = "", "", ""
	system, field, _ := strings.Cut(row.Fields["address"], " ")
	if system == "" {
		system = t.System
	} else {
		t.Field = ""
	}
	s, ok := tag.SystemValueOf(system)
	for _, of := range []struct {
		is   bool
		what string
		ids  map[string]string
		into *string
	}{{s.Log, "log", x.logs, &t.Log}, {s.Book, "book of recipes", x.books, &t.Book}} {
		if !ok || !of.is || t.Source != tag.System {
			continue
		}
		if *of.into = of.ids[strings.ToLower(name)]; *of.into == "" {
			return &Cell{"device", say.Errorf("there is no %s %q: add it first", of.what, name)}
		}
		if !s.Field || field == "" {
			return nil
		}
		f, ok := x.p.Books[t.Book].Named(field)
		if !ok {
			return &Cell{"address", say.Errorf("the book %s has no field %s", name, field)}
		}
		t.Field = f.ID
		return nil
	}
	if name == "" {
		return nil
	}
	id, known := x.devices[strings.ToLower(name)]
	if !known {
		return &Cell{"device", say.Errorf("there is no device %s: add it first", name)}
	}
	t.Device = id
	return nil
}

// apply sets a tag's fields from a row. Columns that the row does not have
// leave the tag as it is. Formulas are in shown form, limits that name tags are
// paths. The error is a *Cell.
func (x *index) apply(t *tag.Tag, row Row) error {
	if extra, ok := row.Fields[""]; ok {
		return &Cell{"", say.Errorf("%q stands behind the last column: quote fields that hold the separator", extra)}
	}
	text := func(column string, set func(string)) {
		if v, ok := row.Fields[column]; ok {
			set(v)
		}
	}
	if v, ok := row.Fields["type"]; ok {
		typ, err := value.ParseType(v)
		if err != nil {
			return &Cell{"type", err}
		}
		t.Type = typ
	}
	text("description", func(v string) { t.Description = v })
	text("unit", func(v string) { t.Unit = v })
	text("initial", func(v string) { t.Initial = v })
	text("formula", func(v string) { t.Formula = v })
	text("write_address", func(v string) { t.WriteAddress = v })
	text("order", func(v string) { t.Order = strings.ToUpper(v) })
	text("source_name", func(v string) { t.SourceName = v })
	text("source", func(v string) { t.Source = tag.Source(strings.ToLower(v)) })
	text("access", func(v string) { t.Access = tag.Access(strings.ToLower(v)) })
	if row.Was != "" {
		t.SourceName = row.Was
	}
	if v, ok := row.Fields["device"]; ok {
		if err := x.about(t, row, v); err != nil {
			return err
		}
	}
	if v, ok := row.Fields["area"]; ok {
		t.Area = ""
		if v != "" {
			if t.Area, ok = x.areas[strings.ToLower(v)]; !ok {
				return &Cell{"area", say.Errorf("there is no area %s: add it first", v)}
			}
		}
	}
	if v, ok := row.Fields["states"]; ok {
		states, err := ParseStates(v)
		if err != nil {
			return &Cell{"states", err}
		}
		t.States = states
	}
	if err := numbers(t, row); err != nil {
		return err
	}
	return x.source(t, row)
}

// source settles where the value comes from: a list from a controller rarely
// says what its columns show.
func (x *index) source(t *tag.Tag, row Row) error {
	address, given := row.Fields["address"]
	if t.Source == "" {
		switch {
		case t.Formula != "":
			t.Source = tag.Computed
		case address != "":
			t.Source = tag.Device
		default:
			t.Source = tag.Internal
		}
	}
	if given {
		if t.Source == tag.System {
			// A field of a recipe stands behind the name, which about has read.
			t.System, _, _ = strings.Cut(address, " ")
		} else {
			t.Address = address
		}
	}
	if t.Source == tag.Device && t.Device == "" {
		if t.Device = x.only; t.Device == "" {
			return &Cell{"device", say.New("a device tag needs its device")}
		}
	}
	d := x.p.Devices[t.Device]
	if t.Source == tag.Device && d != nil && strings.HasPrefix(t.Address, "%") {
		a, err := d.Located(t.Address, t.Type)
		if err != nil {
			return &Cell{"address", err}
		}
		t.Address = a
	}
	if v, ok := row.Fields["poll"]; ok {
		t.Poll, t.Group = 0, ""
		if v == "" {
			return nil
		}
		if n, err := strconv.Atoi(v); err == nil {
			t.Poll = n
			return nil
		}
		if d != nil {
			for _, g := range d.Groups {
				if strings.EqualFold(g.Name, v) {
					t.Group = g.ID
				}
			}
		}
		if t.Group == "" {
			return &Cell{"poll", say.Errorf("%q is neither a number of milliseconds nor a poll group of the device", v)}
		}
	}
	return nil
}

func numbers(t *tag.Tag, row Row) error {
	number := func(column string) (*float64, error) {
		v := row.Fields[column]
		if v == "" {
			return nil, nil
		}
		f, err := strconv.ParseFloat(v, 64)
		if err != nil {
			return nil, &Cell{column, say.Errorf("%q is not a number: write it with a decimal point", v)}
		}
		return &f, nil
	}
	if err := scale(t, row, number); err != nil {
		return err
	}
	if err := plausible(t, row, number); err != nil {
		return err
	}
	for _, l := range []struct {
		column string
		into   **float64
		tag    *string
	}{{"limit_low", &t.Low, &t.LowTag}, {"limit_high", &t.High, &t.HighTag}} {
		v, there := row.Fields[l.column]
		if !there {
			continue
		}
		*l.into, *l.tag = nil, ""
		if v == "" {
			continue
		}
		if f, err := strconv.ParseFloat(v, 64); err == nil {
			*l.into = &f
		} else if tag.CheckPath(v) == nil {
			// A path; the id is found when all tags of the list are known.
			*l.tag = v
		} else {
			return &Cell{l.column, say.Errorf("%q is neither a number, with a decimal point, nor a tag", v)}
		}
	}
	if _, there := row.Fields["step"]; there {
		f, err := number("step")
		if err != nil {
			return err
		}
		t.Step = 0
		if f != nil {
			t.Step = *f
		}
	}
	if _, there := row.Fields["decimals"]; there {
		f, err := number("decimals")
		if err != nil {
			return err
		}
		t.Decimals = nil
		if f != nil {
			n := int(*f)
			if float64(n) != *f {
				return &Cell{"decimals", say.Errorf("%v is not a whole number", *f)}
			}
			t.Decimals = &n
		}
	}
	for column, into := range map[string]*bool{"retain": &t.Retain, "invert": &t.Invert} {
		if err := flag(row, column, into); err != nil {
			return err
		}
	}
	return nil
}

func plausible(t *tag.Tag, row Row, number func(string) (*float64, error)) error {
	var r tag.Plausible
	if t.Plausible != nil {
		r = *t.Plausible
	}
	for column, into := range map[string]**float64{"plausible_low": &r.Low, "plausible_high": &r.High} {
		if _, there := row.Fields[column]; !there {
			continue
		}
		f, err := number(column)
		if err != nil {
			return err
		}
		*into = f
	}
	if err := flag(row, "plausible_raw", &r.Raw); err != nil {
		return err
	}
	if t.Plausible = nil; r.Low != nil || r.High != nil {
		t.Plausible = &r
	}
	return nil
}

func flag(row Row, column string, into *bool) error {
	v, there := row.Fields[column]
	switch strings.ToLower(v) {
	case "true", "1", "yes":
		*into = true
	case "", "false", "0", "no":
		if there {
			*into = false
		}
	default:
		return &Cell{column, say.Errorf("%q is neither true nor false", v)}
	}
	return nil
}

func scale(t *tag.Tag, row Row, number func(string) (*float64, error)) error {
	var vals [6]*float64
	has, given := false, 0
	for i, c := range []string{"raw_low", "raw_high", "eng_low", "eng_high", "gain", "offset"} {
		_, ok := row.Fields[c]
		has = has || ok
		f, err := number(c)
		if err != nil {
			return err
		}
		if vals[i] = f; f != nil && i < 4 {
			given++
		}
	}
	clamp := t.Scale != nil && t.Scale.Clamp
	if err := flag(row, "clamp", &clamp); err != nil {
		return err
	}
	gain, offset := vals[4], vals[5]
	switch {
	case !has:
		if t.Scale != nil && t.Scale.Clamp != clamp {
			s := *t.Scale
			s.Clamp = clamp
			t.Scale = &s
		}
	case given > 0 && gain != nil:
		return &Cell{"gain", say.New("give two points or gain and offset, not both")}
	case given == 4:
		t.Scale = &tag.Scale{RawLow: *vals[0], RawHigh: *vals[1], EngLow: *vals[2], EngHigh: *vals[3], Clamp: clamp}
	case given > 0:
		return &Cell{"raw_low", say.New("a scale needs all of raw_low, raw_high, eng_low and eng_high")}
	case gain != nil:
		t.Scale = &tag.Scale{Gain: *gain}
		if offset != nil {
			t.Scale.Offset = *offset
		}
	case offset != nil:
		t.Scale = &tag.Scale{Gain: 1, Offset: *offset}
	default:
		t.Scale = nil
	}
	return nil
}

// ParseStates reads state names: "0=idle, 1=drying", with other languages
// behind bars, "0=idle|de=ruhend".
func ParseStates(s string) ([]tag.State, error) {
	var out []tag.State
	for _, part := range strings.Split(s, ",") {
		if part = strings.TrimSpace(part); part == "" {
			continue
		}
		texts := strings.Split(part, "|")
		number, text, ok := strings.Cut(texts[0], "=")
		n, err := strconv.ParseInt(strings.TrimSpace(number), 10, 64)
		if !ok || err != nil || strings.TrimSpace(text) == "" {
			return nil, say.Errorf("%q: write value=name, as in 0=idle, 1=drying", part)
		}
		st := tag.State{Value: n, Text: strings.TrimSpace(text)}
		for _, other := range texts[1:] {
			lang, text, ok := strings.Cut(other, "=")
			if !ok {
				return nil, say.Errorf("%q: write language=name behind the bar, as in 0=idle|de=ruhend", part)
			}
			if st.Texts == nil {
				st.Texts = map[string]string{}
			}
			st.Texts[strings.TrimSpace(lang)] = strings.TrimSpace(text)
		}
		out = append(out, st)
	}
	return out, nil
}

// ShowStates is the inverse of ParseStates.
func ShowStates(states []tag.State) string {
	var b strings.Builder
	for i, s := range states {
		if i > 0 {
			b.WriteString(", ")
		}
		fmt.Fprintf(&b, "%d=%s", s.Value, s.Text)
		for _, lang := range project.SortedKeys(s.Texts) {
			fmt.Fprintf(&b, "|%s=%s", lang, s.Texts[lang])
		}
	}
	return b.String()
}

// record is a tag, in shown form, as the cells of Columns.
func record(p *project.Project, t *tag.Tag, path string) []string {
	f := func(v *float64) string {
		if v == nil {
			return ""
		}
		return strconv.FormatFloat(*v, 'f', -1, 64)
	}
	nonzero := func(v float64) string {
		if v == 0 {
			return ""
		}
		return f(&v)
	}
	yes := func(b bool) string {
		if b {
			return "true"
		}
		return ""
	}
	limit := func(v *float64, id string) string {
		if id == "" {
			return f(v)
		}
		if path, ok := p.Path(id); ok {
			return path
		}
		return id
	}
	var points [4]string
	gain, offset, clamp := "", "", ""
	if s := t.Scale; s != nil {
		if s.Gain != 0 {
			gain, offset = f(&s.Gain), nonzero(s.Offset)
		} else {
			points = [4]string{f(&s.RawLow), f(&s.RawHigh), f(&s.EngLow), f(&s.EngHigh)}
			clamp = yes(s.Clamp)
		}
	}
	var possible [3]string
	if r := t.Plausible; r != nil {
		possible = [3]string{f(r.Low), f(r.High), yes(r.Raw)}
	}
	device, area, decimals, poll, address := "", "", "", "", t.Address
	if d := p.Devices[t.Device]; d != nil {
		device = d.Name
		if g, ok := d.Group(t.Group); ok {
			poll = g.Name
		}
	}
	if l := p.Logs[t.Log]; l != nil {
		device = l.Name
	}
	if b := p.Books[t.Book]; b != nil {
		device = b.Name
	}
	if t.Poll != 0 {
		poll = strconv.Itoa(t.Poll)
	}
	if t.Source == tag.System {
		address = systemAddress(p, t)
	}
	for _, a := range p.Site().Areas {
		if a.ID == t.Area {
			area = a.Name
		}
	}
	if t.Decimals != nil {
		decimals = strconv.Itoa(*t.Decimals)
	}
	return []string{path, t.Description, t.Type.String(), string(t.Source), device, address, string(t.Access), poll,
		points[0], points[1], points[2], points[3], t.Unit, decimals, limit(t.Low, t.LowTag), limit(t.High, t.HighTag), nonzero(t.Step),
		t.Initial, yes(t.Retain), t.Formula, area,
		t.WriteAddress, t.Order, clamp, gain, offset, yes(t.Invert), ShowStates(t.States), t.SourceName, possible[0], possible[1], possible[2]}
}
