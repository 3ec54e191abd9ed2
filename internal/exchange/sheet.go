package exchange

import (
	"encoding/csv"
	"fmt"
	"io"
	"strings"

	"github.com/xuri/excelize/v2"

	"readyrail/internal/core/project"
)

// WriteSheet writes wordings as CSV, or as a workbook, that ReadSheet reads
// back: a column for the text and one for the language.
func WriteSheet(w io.Writer, format Format, language string, rows []project.SheetRow) error {
	cells := [][]string{{"text", language, "where"}}
	for _, r := range rows {
		cells = append(cells, []string{r.Text, r.Word, r.Where})
	}
	if format == CSV {
		for _, row := range cells {
			for i := range row {
				row[i] = inert(row[i])
			}
		}
		out := csv.NewWriter(w)
		if err := out.WriteAll(cells); err != nil {
			return err
		}
		return out.Error()
	}
	f := excelize.NewFile()
	defer f.Close()
	for i, row := range cells {
		for j, c := range row {
			if c == "" {
				continue
			}
			if err := f.SetCellStr("Sheet1", fmt.Sprintf("%c%d", 'A'+j, i+1), c); err != nil {
				return err
			}
		}
	}
	return f.Write(w)
}

// inert keeps a spreadsheet from taking a text for a formula; live is its
// inverse.
func inert(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r'", rune(s[0])) {
		return "'" + s
	}
	return s
}

func live(s string) string {
	if len(s) > 1 && s[0] == '\'' && strings.ContainsRune("=+-@\t\r'", rune(s[1])) {
		return s[1:]
	}
	return s
}

// ReadSheet reads wordings of a language. The first line names the columns;
// those of other languages are left alone.
func ReadSheet(data []byte, language string) ([]project.SheetRow, error) {
	var t *Table
	var err error
	if Sense(data) == XLSX {
		t, err = ReadXLSX(data)
	} else {
		t, err = ReadText(data)
	}
	if err != nil {
		return nil, err
	}
	if len(t.Cells) == 0 {
		return nil, fmt.Errorf("the sheet is empty")
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
		return nil, fmt.Errorf("the first line names the columns text and %s; it has %s", language, strings.Join(t.Cells[0], ", "))
	}
	var out []project.SheetRow
	for _, row := range t.Cells[1:] {
		if text < len(row) && row[text] != "" {
			r := project.SheetRow{Text: live(row[text])}
			if word < len(row) {
				r.Word = live(row[word])
			}
			out = append(out, r)
		}
	}
	return out, nil
}
