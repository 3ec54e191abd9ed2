package recipe

import (
	"strconv"
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// SheetField is a field that a sheet makes; its formulas are as people write them,
// and it has no id yet.
type SheetField struct {
	Field
	Goes string // path of the tag that it goes to; empty for nowhere
	Why  error  // why it cannot be
}

// fieldColumns are the columns of a sheet that has a line for each field, by what
// they are called.
var fieldColumns = map[string]func(f *SheetField, cell string) error{
	"name":  func(f *SheetField, cell string) error { f.Name = tag.FitPath(strings.Split(cell, ".")); return nil },
	"title": func(f *SheetField, cell string) error { f.Title = cell; return nil },
	"group": func(f *SheetField, cell string) error { f.Group = cell; return nil },
	"unit":  func(f *SheetField, cell string) error { f.Unit = cell; return nil },
	"type": func(f *SheetField, cell string) (err error) {
		f.Type, err = value.ParseType(cell)
		return err
	},
	"decimals": func(f *SheetField, cell string) error {
		n, err := strconv.Atoi(cell)
		if err == nil {
			f.Decimals = &n
		}
		return err
	},
	"step": func(f *SheetField, cell string) (err error) {
		f.Step, err = strconv.ParseFloat(cell, 64)
		return err
	},
	"low":     func(f *SheetField, cell string) error { f.Low = cell; return nil },
	"high":    func(f *SheetField, cell string) error { f.High = cell; return nil },
	"default": func(f *SheetField, cell string) error { f.Default = cell; return nil },
	"formula": func(f *SheetField, cell string) error { f.Formula = cell; return nil },
	"help":    func(f *SheetField, cell string) error { f.Help = cell; return nil },
	"tag":     func(f *SheetField, cell string) error { f.Goes = cell; return nil },
}

// FieldsOf reads the fields of a sheet. One whose first line names the columns name
// and type has a line for each field; any other has a column for each, named by the
// first line, with the values of recipes below, by which its type is known.
// Columns of the first kind that mean nothing here are returned as ignored.
func FieldsOf(cells [][]string) (fields []SheetField, ignored []string, err error) {
	if len(cells) == 0 {
		return nil, nil, say.Errorf("the sheet is empty")
	}
	named := map[string]bool{}
	for _, cell := range cells[0] {
		named[columnKey(cell)] = true
	}
	if named["name"] && named["type"] {
		fields, ignored = fieldsByLine(cells)
	} else {
		fields = fieldsByColumn(cells)
	}
	switch {
	case len(fields) == 0:
		err = say.Errorf("the sheet has no fields: its first line names them, or the columns name and type")
	case len(fields) > MostFields:
		err = say.Errorf("the sheet has %d fields; a book has at most %d", len(fields), MostFields)
	}
	return fields, ignored, err
}

func columnKey(cell string) string { return strings.ToLower(strings.TrimSpace(cell)) }

func fieldsByLine(cells [][]string) (fields []SheetField, ignored []string) {
	for _, cell := range cells[0] {
		if fieldColumns[columnKey(cell)] == nil && strings.TrimSpace(cell) != "" {
			ignored = append(ignored, cell)
		}
	}
	for _, line := range cells[1:] {
		f := SheetField{Field: Field{Type: value.Type{Kind: value.REAL}}}
		for i, cell := range line {
			if i >= len(cells[0]) || strings.TrimSpace(cell) == "" {
				continue
			}
			set := fieldColumns[columnKey(cells[0][i])]
			if set == nil {
				continue
			}
			if err := set(&f, strings.TrimSpace(cell)); err != nil && f.Why == nil {
				f.Why = say.Errorf("%s: %q cannot be read", columnKey(cells[0][i]), cell)
			}
		}
		fields = append(fields, f)
	}
	return fields, ignored
}

// fieldsByColumn makes a field of each column; one called Name has the names of the
// recipes.
func fieldsByColumn(cells [][]string) (fields []SheetField) {
	for i, head := range cells[0] {
		if key := columnKey(head); key == "" || key == "name" {
			continue
		}
		var f SheetField
		f.Title, f.Unit = titleAndUnit(head)
		f.Name = tag.FitPath([]string{f.Title})
		var values []string
		for _, line := range cells[1:] {
			if i < len(line) && strings.TrimSpace(line[i]) != "" {
				values = append(values, strings.TrimSpace(line[i]))
			}
		}
		f.Type, f.Decimals = typeOf(values)
		fields = append(fields, f)
	}
	return fields
}

// titleAndUnit reads Dry bulb (°C) and Dry bulb [°C].
func titleAndUnit(head string) (title, unit string) {
	head = strings.TrimSpace(head)
	for _, pair := range []string{"()", "[]"} {
		if i := strings.LastIndexByte(head, pair[0]); i > 0 && head[len(head)-1] == pair[1] {
			return strings.TrimSpace(head[:i]), strings.TrimSpace(head[i+1 : len(head)-1])
		}
	}
	return head, ""
}

// longestText is the length of a text that a column of values makes at most.
const longestText = 250

// typeOf is the type that takes all of some values: whole numbers, numbers with the
// decimals that are written, yes and no, or a text with room for twice the longest.
func typeOf(values []string) (value.Type, *int) {
	whole, number, binary, decimals, longest := true, true, true, 0, 0
	for _, v := range values {
		longest = max(longest, len(v))
		_, err := strconv.ParseFloat(strings.Replace(v, ",", ".", 1), 64)
		number = number && err == nil
		_, err = strconv.ParseInt(v, 10, 32)
		whole = whole && err == nil
		binary = binary && (strings.EqualFold(v, "true") || strings.EqualFold(v, "false"))
		if i := strings.IndexAny(v, ".,"); i >= 0 {
			decimals = max(decimals, len(v)-i-1)
		}
	}
	switch {
	case len(values) == 0:
		return value.Type{Kind: value.REAL}, nil
	case binary:
		return value.Type{Kind: value.BOOL}, nil
	case whole:
		return value.Type{Kind: value.DINT}, nil
	case number:
		decimals = min(decimals, 9)
		return value.Type{Kind: value.REAL}, &decimals
	}
	return value.Type{Kind: value.STRING, Len: min(max(2*longest, 20), longestText)}, nil
}
