package exchange

import (
	"bytes"
	"readyrail/internal/core/say"
	"strings"
)

// Format of a list.
type Format string

// The formats.
const (
	CSV     Format = "csv"
	XLSX    Format = "xlsx"
	PLCopen Format = "plcopen"
	NodeSet Format = "nodeset"
	Other   Format = "other" // a table whose columns are matched
)

// Formats lists what can be named; nothing senses it.
var Formats = []Format{CSV, XLSX, PLCopen, NodeSet, Other}

// Sense tells a list's format from its first bytes.
func Sense(data []byte) Format {
	head := bytes.TrimLeft(bytes.TrimPrefix(data[:min(len(data), 4096)], []byte("\xEF\xBB\xBF")), " \r\n\t")
	switch {
	case bytes.HasPrefix(data, []byte("PK\x03\x04")), bytes.HasPrefix(data, []byte("\xD0\xCF\x11\xE0")):
		return XLSX
	case bytes.HasPrefix(head, []byte("<")):
		if bytes.Contains(head, []byte("UANodeSet")) {
			return NodeSet
		}
		return PLCopen
	}
	return CSV
}

// Read reads a list in any format. A table whose columns are not ours needs a
// matching; without one the error is ErrNeedsMatching, and the table is given
// back for the matching to be made by.
func Read(data []byte, format Format, m *Matching) (rows []Row, table *Table, err error) {
	if len(bytes.TrimSpace(data)) == 0 {
		return nil, nil, say.Errorf("the list is empty")
	}
	other := format == Other
	if format == "" || other {
		format = Sense(data)
	}
	switch format {
	case PLCopen:
		rows, err = ReadPLCopen(data)
		return rows, nil, err
	case NodeSet:
		rows, err = ReadNodeSet(data)
		return rows, nil, err
	case XLSX:
		table, err = ReadXLSX(data)
	case CSV:
		table, err = ReadText(data)
	default:
		names := make([]string, len(Formats))
		for i, f := range Formats {
			names[i] = string(f)
		}
		return nil, nil, say.Errorf("format %q is not known: use %s", format, strings.Join(names, ", "))
	}
	switch {
	case err != nil:
		return nil, nil, err
	case m != nil:
		rows, err = m.Rows(table)
		return rows, table, err
	case other:
		return nil, table, ErrNeedsMatching
	case table.Ours():
		rows, err = table.Rows()
		return rows, table, err
	case len(table.Cells) > 0 && len(table.Cells[0]) > 1 && !almostOurs(table.Cells[0]):
		return nil, table, ErrNeedsMatching
	}
	rows, err = table.Rows()
	return rows, table, err
}

// almostOurs tells whether a header has so many of our names that it is ours
// with a mistake, which is said, and not a list to be matched.
func almostOurs(header []string) bool {
	n := 0
	for _, h := range header {
		for _, c := range Columns {
			if strings.EqualFold(h, c) {
				n++
			}
		}
	}
	return 2*n > len(header)
}
