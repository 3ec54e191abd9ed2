package exchange

import (
	"bytes"
	"compress/zlib"
	"fmt"
	"io"
	"regexp"
	"strings"
	"testing"
	"unicode/utf16"
)

var streams = regexp.MustCompile(`(?s)stream\n(.*?)\nendstream`)

// onPaper are the texts of a PDF's pages, each page one.
func onPaper(t *testing.T, pdf []byte) (pages []string) {
	t.Helper()
	for _, s := range streams.FindAllSubmatch(pdf, -1) {
		r, err := zlib.NewReader(bytes.NewReader(s[1]))
		if err != nil {
			continue
		}
		data, err := io.ReadAll(r)
		if err != nil || !bytes.Contains(data, []byte("BT ")) {
			continue
		}
		pages = append(pages, string(data))
	}
	return pages
}

// has tells whether a page has a text that fits one row.
func has(page, text string) bool {
	var b []byte
	for _, u := range utf16.Encode([]rune(text)) {
		b = append(b, byte(u>>8), byte(u))
	}
	return strings.Contains(page, strings.NewReplacer(`\`, `\\`, "(", `\(`, ")", `\)`, "\r", `\r`).Replace(string(b)))
}

// A paper has its heads and its number on every page, its facts at both ends, long
// words broken and what is too long ended; too many lines are refused.
func TestPaper(t *testing.T) {
	p := Paper{Title: "Änderungen der Trocknung", Page: "Seite %d von %s", Facts: []Fact{{Name: "Filter", Text: "all of it"}},
		Columns: []PaperColumn{{"Number", 1}, {"What", 3}}}
	write := func(lines int, text string) ([]byte, error) {
		var b bytes.Buffer
		err := WritePaper(&b, p, func(line func([]string) error) error {
			for i := range lines {
				if err := line([]string{fmt.Sprint("n", i), text}); err != nil {
					return err
				}
			}
			return nil
		}, func() []Fact { return []Fact{{Name: "End", Text: strings.Repeat("0123456789abcdef", 20), Code: true}} })
		return b.Bytes(), err
	}
	pdf, err := write(200, "Trockenkugel 71 → 72 °C (Kiln1)")
	if err != nil || !bytes.HasPrefix(pdf, []byte("%PDF-")) {
		t.Fatal(err)
	}
	pages := onPaper(t, pdf)
	if len(pages) < 4 || !bytes.Contains(pdf, fmt.Appendf(nil, "/Count %d", len(pages))) {
		t.Fatalf("%d pages", len(pages))
	}
	all := strings.Join(pages, "")
	for i, page := range pages {
		if !has(page, "Number") || !has(page, p.Title) || !has(page, fmt.Sprintf("Seite %d von ", i+1)) {
			t.Errorf("page %d lacks its heads or its number", i+1)
		}
	}
	if !has(pages[0], "all of it") || !has(pages[len(pages)-1], "End") {
		t.Error("the facts are not at the ends")
	}
	for i := range 200 {
		if !has(all, fmt.Sprint("n", i)) {
			t.Errorf("line %d is missing", i)
		}
	}
	if !has(all, "Trockenkugel 71 → 72 °C (Kiln1)") {
		t.Error("the signs of the line are not there")
	}
	for _, text := range []string{strings.Repeat("w", 20_000), strings.Repeat("word ", 9000), "\x00\x1b(\\)\U0001F525", ""} {
		pdf, err := write(1, text)
		if pages := onPaper(t, pdf); err != nil || len(pages) > 2 {
			t.Errorf("%.10q: %d pages, %v", text, len(pages), err)
		}
	}
	if _, err := write(MostPrinted+1, ""); err == nil || !strings.Contains(err.Error(), "narrow the filter") {
		t.Errorf("too many: %v", err)
	}
}
