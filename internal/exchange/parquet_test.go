package exchange

import (
	"bytes"
	"fmt"
	"io"
	"testing"

	"github.com/parquet-go/parquet-go"

	"readyrail/internal/core/value"
)

// TestParquetIsReadBack with nulls where values were bad or of another type.
func TestParquetIsReadBack(t *testing.T) {
	columns := []ParquetColumn{{"Kiln1.DryBulb", "°C", value.REAL}, {"Kiln1.Mode", "", value.INT}, {"Kiln1.Door", "", value.BOOL},
		{"Kiln1.LoadId", "", value.STRING}, {"Big", "", value.ULINT}}
	rows := [][]value.Value{
		{value.Real(value.REAL, 71.5), value.Int(value.INT, -2), value.Bool(true), value.Str("L-1"), value.Uint(value.ULINT, 1<<63)},
		{value.Bad(value.REAL, value.BadNoAnswer), value.Int(value.INT, 3), value.Bool(false), value.Str(""), value.Real(value.LREAL, 1)},
	}
	var file bytes.Buffer
	err := WriteParquet(&file, columns, func(row func(int64, []value.Value) error) error {
		for i, values := range rows {
			if err := row(int64(i+1)*1e9, values); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	f, err := parquet.OpenFile(bytes.NewReader(file.Bytes()), int64(file.Len()))
	if err != nil {
		t.Fatal(err)
	}
	if unit, ok := f.Lookup("unit:Kiln1.DryBulb"); !ok || unit != "°C" {
		t.Error(unit)
	}
	r := parquet.NewReader(f)
	got := []string{}
	read := make([]parquet.Row, 1)
	for {
		n, err := r.ReadRows(read)
		for _, row := range read[:n] {
			line := ""
			for i, path := range f.Schema().Columns() {
				line += fmt.Sprintf("%s=%v ", path[0], row[i])
			}
			got = append(got, line)
		}
		if err == io.EOF {
			break
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	want := []string{"Big=9.223372036854776e+18 Kiln1.Door=true Kiln1.DryBulb=71.5 Kiln1.LoadId=L-1 Kiln1.Mode=-2 time=1000000000 ",
		"Big=<null> Kiln1.Door=false Kiln1.DryBulb=<null> Kiln1.LoadId= Kiln1.Mode=3 time=2000000000 "}
	if fmt.Sprint(got) != fmt.Sprint(want) {
		t.Errorf("%q", got)
	}
	if err := WriteParquet(io.Discard, []ParquetColumn{{Name: "a"}, {Name: "a"}}, nil); err == nil {
		t.Error("two columns of one name were taken")
	}
}
