package exchange

import (
	"encoding/csv"
	"fmt"
	"io"

	"github.com/xuri/excelize/v2"

	"readyrail/internal/core/value"
)

// WriteTable writes lines of cells as CSV, or as a workbook of one sheet. each
// hands over the lines. Every cell of a workbook is text, and a cell of CSV
// that a spreadsheet would take for a formula is made inert: no program takes
// one for a formula or a date.
func WriteTable(w io.Writer, format Format, sheet string, each func(line func([]string) error) error) error {
	return write(w, format, sheet, func(text string) any { return text }, each)
}

// WriteValues is WriteTable for measured values: what is a plain number is one in
// a workbook too, so that a spreadsheet program reckons with it.
func WriteValues(w io.Writer, format Format, sheet string, each func(line func([]string) error) error) error {
	return write(w, format, sheet, func(text string) any {
		if f, ok := value.PlainNumber(text); ok {
			return f
		}
		return text
	}, each)
}

// write writes lines of cells; cell is what a workbook has of one that is not
// empty.
func write(w io.Writer, format Format, sheet string, cell func(string) any, each func(line func([]string) error) error) error {
	if format == CSV {
		out := csv.NewWriter(w)
		err := each(func(cells []string) error {
			row := make([]string, len(cells))
			for i, c := range cells {
				row[i] = value.Inert(c)
			}
			return out.Write(row)
		})
		out.Flush()
		if err == nil {
			err = out.Error()
		}
		return err
	}
	f := excelize.NewFile()
	defer f.Close()
	if err := f.SetSheetName("Sheet1", sheet); err != nil {
		return err
	}
	out, err := f.NewStreamWriter(sheet)
	if err != nil {
		return err
	}
	n := 0
	err = each(func(cells []string) error {
		n++
		row := make([]any, len(cells))
		for i, c := range cells {
			if c != "" { // an empty cell is left out, as spreadsheet programs do
				row[i] = cell(c)
			}
		}
		return out.SetRow(fmt.Sprintf("A%d", n), row)
	})
	if err != nil {
		return err
	}
	if err := out.Flush(); err != nil {
		return err
	}
	return f.Write(w)
}
