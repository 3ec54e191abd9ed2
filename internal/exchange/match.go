package exchange

import (
	"fmt"
	"slices"
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Matching says what the columns and types of a list from elsewhere mean. It
// is kept under its source's name and used again.
type Matching struct {
	Source string `json:"source" maxLength:"80" doc:"the name under which it is kept"`
	Header bool   `json:"header" doc:"the first line names the columns"`
	// Columns maps our columns to theirs: by the header's name, or by number
	// from 1, as in "#3", where there is no header.
	Columns map[string]string `json:"columns"`
	// Types maps their types to ours; a type that is not here is read as one of
	// ours.
	Types map[string]string `json:"types,omitempty"`
	// Separators part a name into folders.
	Separators string   `json:"separators,omitempty" maxLength:"10"`
	Folder     string   `json:"folder,omitempty" maxLength:"250" doc:"path of the folder that everything goes below"`
	Device     string   `json:"device,omitempty" doc:"id; for rows that name none"`
	Access     string   `json:"access,omitempty" enum:",read,readwrite"`
	Writes     []string `json:"writes,omitempty" doc:"what stands in the access column of a tag that can be written"`
}

// ErrNeedsMatching says that a list's columns are not ours and nobody has said
// yet what they mean.
var ErrNeedsMatching = say.New("the columns are not ours: say what each of them is")

// position finds one of their columns.
func (m *Matching) position(header []string, theirs string) int {
	if n := 0; !m.Header {
		if _, err := fmt.Sscanf(theirs, "#%d", &n); err == nil {
			return n - 1
		}
		return -1
	}
	return slices.IndexFunc(header, func(h string) bool { return strings.EqualFold(h, theirs) })
}

// Rows reads a table by the matching.
func (m *Matching) Rows(t *Table) ([]Row, error) {
	if len(t.Cells) == 0 {
		return nil, say.New("the list is empty")
	}
	at := map[string]int{}
	for ours, theirs := range m.Columns {
		if theirs == "" {
			continue
		}
		if !slices.Contains(Columns, ours) {
			return nil, say.Errorf("%q is not a column of ours", ours)
		}
		i := m.position(t.Cells[0], theirs)
		if i < 0 {
			return nil, say.Errorf("the list has no column %q: match it anew", theirs)
		}
		at[ours] = i
	}
	if _, ok := at["path"]; !ok {
		return nil, say.New("say which column holds the names")
	}
	if _, ok := at["type"]; !ok && m.Types["*"] == "" {
		return nil, say.New("say which column holds the types, or one type for all")
	}
	first := 0
	if m.Header {
		first = 1
	}
	var rows []Row
	for n := first; n < len(t.Cells); n++ {
		row := Row{Line: t.Lines[n], Fields: map[string]string{}}
		for ours, i := range at {
			if i < len(t.Cells[n]) {
				row.Fields[ours] = t.Cells[n][i]
			}
		}
		m.fit(&row)
		rows = append(rows, row)
	}
	return rows, nil
}

// fit turns a row's cells into ours.
func (m *Matching) fit(row *Row) {
	separators := m.Separators
	if separators == "" {
		separators = "."
	}
	was := row.Fields["path"]
	path := tag.FitPath(splitPath(was, separators))
	if m.Folder != "" && path != "" {
		path = m.Folder + "." + path
	}
	if path == "" {
		row.Problem = &Cell{"path", say.New("the row has no name")}
	}
	row.Fields["path"] = path
	if path != was {
		row.Was = was
	}
	theirs := row.Fields["type"]
	typ, err := m.typeOf(theirs)
	if err != nil && row.Problem == nil {
		row.Problem = &Cell{"type", err}
	}
	row.Fields["type"] = typ
	if a, ok := row.Fields["access"]; ok {
		row.Fields["access"] = "read"
		if slices.ContainsFunc(m.Writes, func(w string) bool { return strings.EqualFold(w, a) }) ||
			len(m.Writes) == 0 && strings.Contains(strings.ToLower(a), "w") {
			row.Fields["access"] = "readwrite"
		}
	} else if m.Access != "" {
		row.Fields["access"] = m.Access
	}
}

// usualTypes are names of types in use beside those of IEC 61131-3.
var usualTypes = map[string]string{
	"bit": "BOOL", "boolean": "BOOL", "byte": "USINT", "word": "UINT", "dword": "UDINT", "lword": "ULINT", "int8": "SINT", "uint8": "USINT",
	"sbyte": "SINT",
	"int16": "INT", "uint16": "UINT", "int32": "DINT", "uint32": "UDINT", "int64": "LINT", "uint64": "ULINT", "short": "INT",
	"ushort": "UINT", "integer": "INT", "long": "DINT", "ulong": "UDINT",
	"float": "REAL", "float32": "REAL", "single": "REAL", "double": "LREAL", "float64": "LREAL", "text": "STRING(80)",
	"wstring": "STRING(80)", "char": "STRING(1)",
}

func (m *Matching) typeOf(theirs string) (string, error) {
	for from, to := range m.Types {
		if strings.EqualFold(from, theirs) {
			return to, nil
		}
	}
	if all := m.Types["*"]; all != "" && theirs == "" {
		return all, nil
	}
	return usualType(theirs)
}

// usualType reads a type's name in any of its usual forms.
func usualType(theirs string) (string, error) {
	name := strings.ReplaceAll(strings.ReplaceAll(strings.TrimSpace(theirs), "[", "("), "]", ")")
	if ours, ok := usualTypes[strings.ToLower(name)]; ok {
		return ours, nil
	}
	t, err := value.ParseType(name)
	if err != nil {
		return theirs, say.Errorf("type %q is not known: match it with one of ours", theirs)
	}
	return t.String(), nil
}

// Guess proposes a matching for a table from the names in its first line.
func Guess(t *Table) Matching {
	m := Matching{Header: true, Columns: map[string]string{}, Separators: "."}
	if len(t.Cells) == 0 {
		return m
	}
	hints := map[string][]string{
		"path": {"name", "tag", "symbol", "variable", "path"}, "type": {"type", "datatype", "data type"},
		"address":     {"address", "addr", "register", "location"},
		"description": {"description", "comment", "remark", "text"}, "unit": {"unit", "units", "eu"},
		"access": {"access", "rw", "r/w", "writable"}, "initial": {"initial", "initial value"},
	}
	for _, ours := range Columns {
		for _, h := range t.Cells[0] {
			l := strings.ToLower(h)
			for _, hint := range hints[ours] {
				if l == hint && m.Columns[ours] == "" {
					m.Columns[ours] = h
				}
			}
			if l == ours {
				m.Columns[ours] = h
			}
		}
	}
	if len(m.Columns) == 0 {
		m.Header = false
	}
	return m
}
