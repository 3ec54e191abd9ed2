package exchange

import (
	"errors"
	"io"

	"github.com/parquet-go/parquet-go"

	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// ParquetColumn is one of measured values. What is bad is null.
type ParquetColumn struct {
	Name string
	Unit string
	Kind value.Kind
}

// timeColumn is the one of the moments.
const timeColumn = "time"

// WriteParquet writes measured values as Apache Parquet: a column time, in
// nanoseconds since 1970 UTC, and one for each column that can be null: BOOLEAN,
// INT64, FLOAT, DOUBLE or STRING. Their units are in the file's metadata, as unit:name.
// each hands over the rows.
func WriteParquet(w io.Writer, columns []ParquetColumn, each func(row func(at int64, values []value.Value) error) error) error {
	group := parquet.Group{timeColumn: parquet.Timestamp(parquet.Nanosecond)}
	options := []parquet.WriterOption{parquet.Compression(&parquet.Zstd), parquet.MaxRowsPerRowGroup(100_000)}
	for _, c := range columns {
		if group[c.Name] != nil {
			return say.New("two columns are called " + c.Name)
		}
		group[c.Name] = parquet.Optional(leafOf(c.Kind))
		if c.Unit != "" {
			options = append(options, parquet.KeyValueMetadata("unit:"+c.Name, c.Unit))
		}
	}
	schema := parquet.NewSchema("values", group)
	// The library orders columns by their names.
	place := map[string]int{}
	for i, path := range schema.Columns() {
		place[path[0]] = i
	}
	out := parquet.NewWriter(w, append(options, schema)...)
	row := make(parquet.Row, len(columns)+1)
	err := each(func(at int64, values []value.Value) error {
		row[place[timeColumn]] = parquet.Int64Value(at).Level(0, 0, place[timeColumn])
		for i := range columns {
			k := place[columns[i].Name]
			row[k] = cellOf(columns[i].Kind, &values[i]).Level(0, 1, k)
			if row[k].IsNull() {
				row[k] = parquet.NullValue().Level(0, 0, k)
			}
		}
		_, err := out.WriteRows([]parquet.Row{row})
		return err
	})
	return errors.Join(err, out.Close())
}

// leafOf is how values of a kind are stored.
func leafOf(k value.Kind) parquet.Node {
	switch {
	case k == value.BOOL:
		return parquet.Leaf(parquet.BooleanType)
	case k == value.STRING:
		return parquet.String()
	case k == value.REAL:
		return parquet.Leaf(parquet.FloatType)
	case k.IsReal(), k == value.ULINT: // the largest ULINT fit no INT64
		return parquet.Leaf(parquet.DoubleType)
	}
	return parquet.Int(64)
}

func cellOf(k value.Kind, v *value.Value) parquet.Value {
	switch {
	case v.Quality.IsBad() || v.Kind != k:
		return parquet.NullValue()
	case k == value.BOOL:
		return parquet.BooleanValue(v.Bool())
	case k == value.STRING:
		return parquet.ByteArrayValue([]byte(v.Str()))
	case k == value.REAL:
		return parquet.FloatValue(float32(v.Float()))
	case k.IsReal(), k == value.ULINT:
		return parquet.DoubleValue(v.Float())
	}
	return parquet.Int64Value(int64(v.Bits()))
}
