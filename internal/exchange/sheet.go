package exchange

import (
	"io"
	"strings"

	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// WriteSheet writes wordings as CSV, or as a workbook, that ReadSheet reads
// back: a column for the text and one for the language.
func WriteSheet(w io.Writer, format Format, language string, rows []project.SheetRow) error {
	return WriteTable(w, format, "Wordings", func(line func([]string) error) error {
		if err := line([]string{"text", language, "where"}); err != nil {
			return err
		}
		for _, r := range rows {
			if err := line([]string{r.Text, r.Word, r.Where}); err != nil {
				return err
			}
		}
		return nil
	})
}

// ReadTable reads the cells of a workbook or of a text; there is one at least.
func ReadTable(data []byte) (t *Table, err error) {
	if Sense(data) == XLSX {
		t, err = ReadXLSX(data)
	} else {
		t, err = ReadText(data)
	}
	if err == nil && len(t.Cells) == 0 {
		err = say.Errorf("the sheet is empty")
	}
	return t, err
}

// ReadSheet reads wordings of a language. The first line names the columns;
// those of other languages are left alone.
func ReadSheet(data []byte, language string) ([]project.SheetRow, error) {
	t, err := ReadTable(data)
	if err != nil {
		return nil, err
	}
	text, word := -1, -1
	for i, c := range t.Cells[0] {
		switch name := strings.ToLower(strings.TrimSpace(c)); {
		case name == "text":
			text = i
		case name == strings.ToLower(language):
			word = i
		}
	}
	if text < 0 || word < 0 {
		return nil, say.Errorf("the first line names the columns text and %s; it has %s", language, strings.Join(t.Cells[0], ", "))
	}
	var out []project.SheetRow
	for _, row := range t.Cells[1:] {
		if text < len(row) && row[text] != "" {
			r := project.SheetRow{Text: value.Live(row[text])}
			if word < len(row) {
				r.Word = value.Live(row[word])
			}
			out = append(out, r)
		}
	}
	return out, nil
}
