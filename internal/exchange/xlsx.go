package exchange

import (
	"bytes"
	"errors"
	"io"
	"strings"

	"github.com/xuri/excelize/v2"

	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
)

// Limits of a workbook once unpacked, so that a hostile one cannot fill the
// memory.
const (
	maxWorkbookBytes = 192 << 20
	maxSheetBytes    = 128 << 20
)

// ReadXLSX reads the cells of a workbook's first sheet that has any
// (ECMA-376). Numbers are read as they are stored, whatever they look like, so
// that they keep their decimal point.
func ReadXLSX(data []byte) (*Table, error) {
	if len(data) > MaxListBytes {
		return nil, say.Errorf("the file has %d MB; %d MB is the most", len(data)>>20, MaxListBytes>>20)
	}
	f, err := excelize.OpenReader(bytes.NewReader(data),
		excelize.Options{UnzipSizeLimit: maxWorkbookBytes, UnzipXMLSizeLimit: maxSheetBytes, RawCellValue: true})
	switch {
	case errors.Is(err, excelize.ErrWorkbookFileFormat):
		return nil, say.New("this is not a workbook that can be read: save it as XLSX, without a password")
	case err != nil && strings.Contains(err.Error(), "unzip size exceeds"):
		return nil, say.Errorf("unpacked the workbook has more than %d MB: split it", maxWorkbookBytes>>20)
	case err != nil:
		return nil, say.Errorf("this is not a workbook that can be read: %v", err)
	}
	defer f.Close()
	for _, sheet := range f.GetSheetList() {
		t, err := readSheet(f, sheet)
		if err != nil {
			return nil, say.Errorf("sheet %s: %w", sheet, err)
		}
		if len(t.Cells) > 0 {
			return t, nil
		}
	}
	return nil, say.New("the workbook has no filled sheet")
}

func readSheet(f *excelize.File, sheet string) (*Table, error) {
	rows, err := f.Rows(sheet)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	t := &Table{Name: sheet}
	for line := 1; rows.Next(); line++ {
		cells, err := rows.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return nil, say.Errorf("row %d: %w", line, err)
		}
		if err := t.add(line, cells); err != nil {
			return nil, err
		}
	}
	return t, rows.Error()
}

// WriteXLSX writes tags as a workbook that ReadXLSX reads back.
func WriteXLSX(w io.Writer, p *project.Project, ids []string) error {
	return WriteTable(w, XLSX, "Tags", func(line func([]string) error) error {
		if err := line(Columns); err != nil {
			return err
		}
		return records(p, ids, line)
	})
}
