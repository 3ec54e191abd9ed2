package bench

import (
	"bytes"
	"fmt"
	"time"

	"github.com/xuri/excelize/v2"

	"readyrail/internal/core/project"
	"readyrail/internal/exchange"
)

// imports measures the preview of a list of 50,000 tags against a project that
// has them: every row is found and compared.
func imports() ([]Figure, error) {
	p, err := large(largeTags, true)
	if err != nil {
		return nil, err
	}
	var text bytes.Buffer
	if err := exchange.WriteCSV(&text, p, p.SortedTags()); err != nil {
		return nil, err
	}
	book, err := workbook(p)
	if err != nil {
		return nil, err
	}
	var out []Figure
	for _, c := range []struct {
		name   string
		data   []byte
		atMost float64 // ms
	}{{"import/preview of 50,000 rows, CSV", text.Bytes(), 1000}, {"import/preview of 50,000 rows, XLSX", book, 2000}} {
		start := time.Now()
		rows, _, err := exchange.Read(c.data, "", nil)
		if err != nil {
			return nil, err
		}
		lines := exchange.Preview(rows, p, exchange.Options{})
		took := time.Since(start)
		if n := exchange.Count(lines)[exchange.Same]; n != largeTags {
			return nil, fmt.Errorf("%s: only %d of %d rows are the same", c.name, n, largeTags)
		}
		out = append(out, below(c.name, "ms", float64(took.Microseconds())/1000, c.atMost))
	}
	rows, err := exchange.ReadCSV(text.Bytes())
	if err != nil {
		return nil, err
	}
	empty, _, err := project.New("Bench").Edit(nil)
	if err != nil {
		return nil, err
	}
	for id, d := range p.Devices {
		empty.Devices[id] = d
	}
	start := time.Now()
	lines := exchange.Preview(rows, empty, exchange.Options{})
	n := 0
	next, _, err := empty.Edit(exchange.Ops(lines, empty, nil, func(kind string) string { n++; return fmt.Sprintf("%s-%d", kind[:1], n) }))
	if err != nil {
		return nil, err
	}
	took := time.Since(start)
	if len(next.Tags) != largeTags {
		return nil, fmt.Errorf("%d tags came in", len(next.Tags))
	}
	return append(out, below("import/50,000 new tags made", "ms", float64(took.Microseconds())/1000, 10_000)), nil
}

func workbook(p *project.Project) ([]byte, error) {
	var b bytes.Buffer
	if err := exchange.WriteXLSX(&b, p, p.SortedTags()); err != nil {
		return nil, err
	}
	f, err := excelize.OpenReader(bytes.NewReader(b.Bytes()))
	if err != nil {
		return nil, err
	}
	return b.Bytes(), f.Close()
}
