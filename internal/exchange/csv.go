// Package exchange reads and writes open formats: tag lists as CSV, and the
// project archive. What it reads is hostile until parsed.
package exchange

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"

	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Columns are the columns of a tag list, in the order they are written.
// docs/formats.md describes them.
var Columns = []string{"path", "description", "type", "source", "device", "address", "access", "poll", "raw_low", "raw_high", "eng_low", "eng_high", "unit", "decimals", "limit_low", "limit_high", "step", "initial", "formula", "area"}

// Limits of a tag list.
const (
	MaxCSVBytes = 64 << 20
	MaxRows     = 200_000
)

// Cell is a refusal of one cell.
type Cell struct {
	Column string
	Reason string
}

func (c *Cell) Error() string { return c.Column + ": " + c.Reason }

// Row is one line of a tag list. Fields holds only the columns that the file
// has.
type Row struct {
	Line   int
	Fields map[string]string
}

// ReadCSV reads a tag list: comma, semicolon or tab, UTF-8 with or without a
// byte order mark, a header of known columns in any order and case.
func ReadCSV(data []byte) ([]Row, error) {
	if len(data) > MaxCSVBytes {
		return nil, fmt.Errorf("the file has %d MB; %d MB is the most", len(data)>>20, MaxCSVBytes>>20)
	}
	data = bytes.TrimPrefix(data, []byte("\xEF\xBB\xBF"))
	if !utf8.Valid(data) {
		return nil, errors.New("the file is not UTF-8 text: save it as CSV in UTF-8")
	}
	if bytes.IndexByte(data, 0) >= 0 {
		return nil, errors.New("the file is not text: save it as CSV in UTF-8")
	}
	r := csv.NewReader(bytes.NewReader(data))
	r.Comma = separator(data)
	r.FieldsPerRecord = -1
	r.ReuseRecord = true
	header, err := r.Read()
	if err != nil {
		return nil, errors.New("the file is empty: the first line names the columns, at least path and type")
	}
	names, err := columns(header)
	if err != nil {
		return nil, err
	}
	var rows []Row
	for {
		rec, err := r.Read()
		if err == io.EOF {
			return rows, nil
		}
		if err != nil {
			var pe *csv.ParseError
			if errors.As(err, &pe) {
				return nil, fmt.Errorf("line %d: %v: a quote is not closed, or stands inside a field", pe.StartLine, pe.Err)
			}
			return nil, err
		}
		line, _ := r.FieldPos(0)
		row := Row{Line: line, Fields: make(map[string]string, len(rec))}
		empty := true
		for i, v := range rec {
			v = strings.TrimSpace(v)
			empty = empty && v == ""
			if i < len(names) {
				row.Fields[names[i]] = v
			} else if v != "" {
				row.Fields[""] = v
			}
		}
		if empty {
			continue
		}
		if len(rows) == MaxRows {
			return nil, fmt.Errorf("the file has more than %d rows: split it", MaxRows)
		}
		rows = append(rows, row)
	}
}

// separator guesses from the header line.
func separator(data []byte) rune {
	line, _, _ := bytes.Cut(data, []byte("\n"))
	best, most := ',', 0
	for _, c := range []rune{',', ';', '\t'} {
		if n := strings.Count(string(line), string(c)); n > most {
			best, most = c, n
		}
	}
	return best
}

func columns(header []string) ([]string, error) {
	known := map[string]bool{}
	for _, c := range Columns {
		known[c] = true
	}
	seen := map[string]bool{}
	var unknown []string
	out := make([]string, len(header))
	for i, h := range header {
		name := strings.ToLower(strings.TrimSpace(h))
		if !known[name] {
			unknown = append(unknown, strconv.Quote(strings.TrimSpace(h)))
			continue
		}
		if seen[name] {
			return nil, fmt.Errorf("the column %s is there twice", name)
		}
		seen[name] = true
		out[i] = name
	}
	if len(unknown) > 0 {
		return nil, fmt.Errorf("the columns %s are not known; the columns are %s", strings.Join(unknown, ", "), strings.Join(Columns, ", "))
	}
	for _, need := range []string{"path", "type"} {
		if !seen[need] {
			return nil, fmt.Errorf("the column %s is missing from the first line", need)
		}
	}
	return out, nil
}

// apply sets a tag's fields from a row. Columns that the file does not have
// leave the tag as it is. Formulas are in shown form. The error is a *Cell.
func apply(t *tag.Tag, row Row, p *project.Project) error {
	if extra, ok := row.Fields[""]; ok {
		return &Cell{"", fmt.Sprintf("%q stands behind the last column: quote fields that hold the separator", extra)}
	}
	text := func(column string, set func(string)) {
		if v, ok := row.Fields[column]; ok {
			set(v)
		}
	}
	if v, ok := row.Fields["type"]; ok {
		typ, err := value.ParseType(v)
		if err != nil {
			return &Cell{"type", err.Error()}
		}
		t.Type = typ
	}
	text("description", func(v string) { t.Description = v })
	text("unit", func(v string) { t.Unit = v })
	text("initial", func(v string) { t.Initial = v })
	text("formula", func(v string) { t.Formula = v })
	text("address", func(v string) { t.Address = v })
	text("source", func(v string) { t.Source = tag.Source(strings.ToLower(v)) })
	text("access", func(v string) { t.Access = tag.Access(strings.ToLower(v)) })
	if v, ok := row.Fields["device"]; ok {
		t.Device = ""
		if v != "" {
			for id, d := range p.Devices {
				if strings.EqualFold(d.Name, v) {
					t.Device = id
				}
			}
			if t.Device == "" {
				return &Cell{"device", fmt.Sprintf("there is no device %s: add it first", v)}
			}
		}
	}
	if v, ok := row.Fields["area"]; ok {
		t.Area = ""
		if v != "" {
			for _, a := range p.Site.Areas {
				if strings.EqualFold(a.Name, v) {
					t.Area = a.ID
				}
			}
			if t.Area == "" {
				return &Cell{"area", fmt.Sprintf("there is no area %s: add it first", v)}
			}
		}
	}
	if err := numbers(t, row); err != nil {
		return err
	}
	if t.Source == "" {
		// A list from a controller rarely says what its columns show.
		switch {
		case t.Formula != "":
			t.Source = tag.Computed
		case t.Address != "":
			t.Source = tag.Device
		default:
			t.Source = tag.Internal
		}
	}
	if t.Source == tag.Device && t.Device == "" {
		if len(p.Devices) == 1 {
			for id := range p.Devices {
				t.Device = id
			}
		} else {
			return &Cell{"device", "a device tag needs its device"}
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
			return nil, &Cell{column, fmt.Sprintf("%q is not a number: write it with a decimal point", v)}
		}
		return &f, nil
	}
	var vals [4]*float64
	has, given := false, 0
	for i, c := range []string{"raw_low", "raw_high", "eng_low", "eng_high"} {
		if _, ok := row.Fields[c]; ok {
			has = true
		}
		f, err := number(c)
		if err != nil {
			return err
		}
		if vals[i] = f; f != nil {
			given++
		}
	}
	switch {
	case has && given == 4:
		s := tag.Scale{RawLow: *vals[0], RawHigh: *vals[1], EngLow: *vals[2], EngHigh: *vals[3]}
		if t.Scale != nil {
			s.Clamp = t.Scale.Clamp
		}
		t.Scale = &s
	case has && given == 0:
		t.Scale = nil
	case has:
		return &Cell{"raw_low", "a scale needs all of raw_low, raw_high, eng_low and eng_high"}
	}
	for column, into := range map[string]**float64{"limit_low": &t.Low, "limit_high": &t.High} {
		if _, ok := row.Fields[column]; ok {
			f, err := number(column)
			if err != nil {
				return err
			}
			*into = f
		}
	}
	for column, set := range map[string]func(float64, bool) bool{
		"step": func(f float64, ok bool) bool { t.Step = f; return true },
		"poll": func(f float64, ok bool) bool { t.Poll = int(f); return f == float64(int(f)) },
		"decimals": func(f float64, ok bool) bool {
			n := int(f)
			t.Decimals = nil
			if ok {
				t.Decimals = &n
			}
			return f == float64(n)
		},
	} {
		if _, there := row.Fields[column]; !there {
			continue
		}
		f, err := number(column)
		if err != nil {
			return err
		}
		v := 0.0
		if f != nil {
			v = *f
		}
		if !set(v, f != nil) {
			return &Cell{column, fmt.Sprintf("%v is not a whole number", v)}
		}
	}
	return nil
}

// WriteCSV writes tags as a list that ReadCSV reads back.
func WriteCSV(w io.Writer, p *project.Project, ids []string) error {
	out := csv.NewWriter(w)
	if err := out.Write(Columns); err != nil {
		return err
	}
	for _, id := range ids {
		t, ok := p.Tag(id)
		if !ok {
			continue
		}
		if err := out.Write(record(p, p.ShownTag(t))); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

func record(p *project.Project, t *tag.Tag) []string {
	path, _ := p.Path(t.ID)
	f := func(v *float64) string {
		if v == nil {
			return ""
		}
		return strconv.FormatFloat(*v, 'f', -1, 64)
	}
	whole := func(n int) string {
		if n == 0 {
			return ""
		}
		return strconv.Itoa(n)
	}
	var scale [4]string
	if s := t.Scale; s != nil {
		scale = [4]string{f(&s.RawLow), f(&s.RawHigh), f(&s.EngLow), f(&s.EngHigh)}
	}
	device, area, decimals, step := "", "", "", ""
	if d := p.Devices[t.Device]; d != nil {
		device = d.Name
	}
	for _, a := range p.Site.Areas {
		if a.ID == t.Area {
			area = a.Name
		}
	}
	if t.Decimals != nil {
		decimals = strconv.Itoa(*t.Decimals)
	}
	if t.Step != 0 {
		step = f(&t.Step)
	}
	return []string{path, t.Description, t.Type.String(), string(t.Source), device, t.Address, string(t.Access), whole(t.Poll),
		scale[0], scale[1], scale[2], scale[3], t.Unit, decimals, f(t.Low), f(t.High), step, t.Initial, t.Formula, area}
}
