// Package exchange reads and writes open formats: tag lists as CSV, XLSX,
// PLCopen XML and NodeSet2, any other list by a matching of its columns, and
// the project archive. What it reads is hostile until parsed.
package exchange

import (
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"strings"
	"unicode/utf8"

	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Limits of a list.
const (
	MaxListBytes = 64 << 20
	MaxRows      = 200_000
	MaxColumns   = 200
)

// Table is a list as cells, its first line the header.
type Table struct {
	Name  string // of the sheet, empty for a text
	Cells [][]string
	Lines []int // number of each row in the source, counted from 1
	// Ignored names the columns that a list of ours has and we do not.
	Ignored []string
}

// ReadText reads cells from text: comma, semicolon or tab, UTF-8 with or
// without a byte order mark, quotes as in RFC 4180. Empty lines are left out.
func ReadText(data []byte) (*Table, error) {
	if len(data) > MaxListBytes {
		return nil, say.Errorf("the file has %d MB; %d MB is the most", len(data)>>20, MaxListBytes>>20)
	}
	data = bytes.TrimPrefix(data, []byte("\xEF\xBB\xBF"))
	if !utf8.Valid(data) {
		return nil, say.New("the file is not UTF-8 text: save it as CSV in UTF-8")
	}
	if bytes.IndexByte(data, 0) >= 0 {
		return nil, say.New("the file is not text: save it as CSV in UTF-8")
	}
	r := csv.NewReader(bytes.NewReader(data))
	r.Comma = separator(data)
	r.FieldsPerRecord = -1
	t := &Table{}
	for {
		rec, err := r.Read()
		if err == io.EOF {
			return t, nil
		}
		if err != nil {
			var pe *csv.ParseError
			if errors.As(err, &pe) {
				return nil, say.Errorf("line %d: %v: a quote is not closed, or stands inside a field", pe.StartLine, pe.Err)
			}
			return nil, err
		}
		line, _ := r.FieldPos(0)
		if err := t.add(line, rec); err != nil {
			return nil, err
		}
	}
}

// add appends a row unless it is empty.
func (t *Table) add(line int, rec []string) error {
	empty := true
	for i := range rec {
		rec[i] = value.Live(strings.TrimSpace(rec[i]))
		empty = empty && rec[i] == ""
	}
	if empty {
		return nil
	}
	if len(t.Cells) > MaxRows {
		return say.Errorf("the list has more than %d rows: split it", MaxRows)
	}
	if len(rec) > MaxColumns {
		return say.Errorf("line %d has %d columns; %d is the most", line, len(rec), MaxColumns)
	}
	t.Cells, t.Lines = append(t.Cells, rec), append(t.Lines, line)
	return nil
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

// ReadCSV reads a tag list whose header names our columns.
func ReadCSV(data []byte) ([]Row, error) {
	t, err := ReadText(data)
	if err != nil {
		return nil, err
	}
	return t.Rows()
}

// Ours tells whether the header is of our own columns: path and type are
// among them.
func (t *Table) Ours() bool {
	if len(t.Cells) == 0 {
		return false
	}
	seen := map[string]bool{}
	for _, h := range t.Cells[0] {
		seen[strings.ToLower(h)] = true
	}
	return seen["path"] && seen["type"]
}

// Rows reads the table as a tag list of ours.
func (t *Table) Rows() ([]Row, error) {
	if len(t.Cells) == 0 {
		return nil, say.New("the file is empty: the first line names the columns, at least path and type")
	}
	names, ignored, err := columns(t.Cells[0])
	if err != nil {
		return nil, err
	}
	t.Ignored = ignored
	rows := make([]Row, 0, len(t.Cells)-1)
	for n, rec := range t.Cells[1:] {
		row := Row{Line: t.Lines[n+1], Fields: make(map[string]string, len(rec))}
		for i, v := range rec {
			switch {
			case i < len(names) && names[i] != "":
				row.Fields[names[i]] = v
			case i >= len(names) && v != "":
				row.Fields[""] = v
			}
		}
		rows = append(rows, row)
	}
	return rows, nil
}

// columns names each column as we do, and those that are not ours, which are
// left out.
func columns(header []string) (names, ignored []string, err error) {
	known := map[string]bool{}
	for _, c := range Columns {
		known[c] = true
	}
	seen := map[string]bool{}
	names = make([]string, len(header))
	for i, h := range header {
		name := strings.ToLower(h)
		if !known[name] {
			ignored = append(ignored, h)
			continue
		}
		if seen[name] {
			return nil, nil, say.Errorf("the column %s is there twice", name)
		}
		seen[name] = true
		names[i] = name
	}
	for _, need := range []string{"path", "type"} {
		if !seen[need] {
			return nil, nil, say.Errorf("the column %s is missing from the first line; the columns are %s", need, strings.Join(Columns, ", "))
		}
	}
	return names, ignored, nil
}

// WriteCSV writes tags as a list that ReadCSV reads back.
func WriteCSV(w io.Writer, p *project.Project, ids []string) error {
	return WriteTable(w, CSV, "Tags", func(line func([]string) error) error {
		if err := line(Columns); err != nil {
			return err
		}
		return records(p, ids, line)
	})
}

// records gives each tag's cells to a writer.
func records(p *project.Project, ids []string, write func([]string) error) error {
	for _, id := range ids {
		t, ok := p.Tag(id)
		if !ok {
			continue
		}
		path, _ := p.Path(id)
		if err := write(record(p, p.ShownTag(t), path)); err != nil {
			return err
		}
	}
	return nil
}
