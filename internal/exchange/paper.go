package exchange

import (
	"fmt"
	"io"
	"strings"

	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"

	"readyrail/internal/core/say"
)

// Paper is a table as a printed record: A4 across, with what it is and rests on at its
// beginning and its end, the columns' heads and the page's number on every page.
type Paper struct {
	Title   string
	Facts   []Fact // at the beginning
	Columns []PaperColumn
	// Page says which page of how many this is; %d and %s stand for them.
	Page string
}

// Fact is a line of what a paper is: a name and what it is.
type Fact struct {
	Name, Text string
	Code       bool // to be compared letter by letter
}

// PaperColumn is a column; shares of all columns together make the page's width.
type PaperColumn struct {
	Name  string
	Share float64
}

// Measures of a page, in mm.
const (
	paperSide   = 12.0
	paperHead   = 12.0
	paperFoot   = 14.0
	paperLine   = 3.7  // height of a line of text
	paperFact   = 54.0 // width of a fact's name
	paperSize   = 7.5  // points
	paperGap    = 1.0  // within a cell
	pagesWanted = "{pages}"
)

// MostPrinted is how many lines a paper has at most: nobody reads more, and a
// spreadsheet has them all.
const MostPrinted = 20_000

// WritePaper writes a paper as PDF. lines hands over its lines, each with a cell a
// column; ends are asked for once all of them are there.
func WritePaper(w io.Writer, p Paper, lines func(line func([]string) error) error, ends func() []Fact) error {
	f := fpdf.New("L", "mm", "A4", "")
	f.AddUTF8FontFromBytes("text", "", goregular.TTF)
	f.AddUTF8FontFromBytes("text", "B", gobold.TTF)
	f.AddUTF8FontFromBytes("code", "", gomono.TTF)
	f.SetTitle(p.Title, true)
	f.SetCreator("Ready Rail", true)
	f.SetMargins(paperSide, paperHead, paperSide)
	f.SetAutoPageBreak(false, paperFoot)
	f.AliasNbPages(pagesWanted)
	page := &printed{Fpdf: f, paper: p}
	page.width, page.height = f.GetPageSize()
	page.width -= 2 * paperSide
	f.SetFooterFunc(func() {
		f.SetFont("text", "", paperSize)
		f.SetXY(paperSide, page.height-paperFoot+4)
		f.CellFormat(page.width/2, paperLine, p.Title, "", 0, "L", false, 0, "")
		f.CellFormat(page.width/2, paperLine, fmt.Sprintf(p.Page, f.PageNo(), pagesWanted), "", 0, "R", false, 0, "")
	})
	f.AddPage()
	f.SetFont("text", "B", 14)
	f.CellFormat(page.width, 8, p.Title, "", 1, "L", false, 0, "")
	page.facts(p.Facts)
	page.heads()
	if err := lines(page.line); err != nil {
		return err
	}
	if ends != nil {
		page.facts(ends())
	}
	return f.Output(w)
}

// printed is a paper under the pen.
type printed struct {
	*fpdf.Fpdf
	paper         Paper
	width, height float64 // of what is written on, and of the page
	lines         int
}

// room begins a page where so much does not fit on this one any more.
func (p *printed) room(high float64, heads bool) {
	if p.GetY()+high <= p.height-paperFoot {
		return
	}
	p.AddPage()
	if heads {
		p.heads()
	}
}

func (p *printed) facts(list []Fact) {
	p.Ln(2)
	for _, fact := range list {
		font := "text"
		if fact.Code {
			font = "code"
		}
		p.SetFont(font, "", paperSize+0.5)
		rows := p.split(fact.Text, p.width-paperFact)
		p.room(float64(len(rows))*paperLine, false)
		p.SetFont("text", "B", paperSize+0.5)
		p.CellFormat(paperFact, paperLine, fact.Name, "", 0, "L", false, 0, "")
		p.SetFont(font, "", paperSize+0.5)
		for _, row := range rows {
			p.SetX(paperSide + paperFact)
			p.CellFormat(p.width-paperFact, paperLine, row, "", 1, "L", false, 0, "")
		}
	}
	p.Ln(3)
}

// heads writes the names of the columns.
func (p *printed) heads() {
	names := make([]string, len(p.paper.Columns))
	for i, c := range p.paper.Columns {
		names[i] = c.Name
	}
	p.SetFont("text", "B", paperSize)
	p.cells(p.rowsOf(names))
	p.SetFont("text", "", paperSize)
}

// line writes a line of the table, at the top of a page where it doesn't fit on this.
func (p *printed) line(texts []string) error {
	if p.lines++; p.lines > MostPrinted {
		return say.Errorf("more than %d lines are not printed: narrow the filter, or take CSV or XLSX", MostPrinted)
	}
	p.SetFont("text", "", paperSize)
	rows, high := p.rowsOf(texts)
	p.room(high, true)
	p.cells(rows, high)
	return nil
}

// rowsOf are the rows of each cell of a line, and how high that is.
func (p *printed) rowsOf(texts []string) (rows [][]string, high float64) {
	most := 1
	for i, text := range texts {
		rows = append(rows, p.split(text, p.share(i)-2*paperGap))
		most = max(most, len(rows[i]))
	}
	return rows, float64(most)*paperLine + 2*paperGap
}

// cells writes the cells of a line beside each other, and a rule below.
func (p *printed) cells(rows [][]string, high float64) {
	x, y := paperSide, p.GetY()
	for i := range rows {
		for n, text := range rows[i] {
			p.SetXY(x+paperGap, y+paperGap+float64(n)*paperLine)
			p.CellFormat(p.share(i)-2*paperGap, paperLine, text, "", 0, "L", false, 0, "")
		}
		x += p.share(i)
	}
	p.Line(paperSide, y+high, paperSide+p.width, y+high)
	p.SetXY(paperSide, y+high)
}

// share is the width of a column.
func (p *printed) share(i int) float64 {
	all := 0.0
	for _, c := range p.paper.Columns {
		all += c.Share
	}
	return p.width * p.paper.Columns[i].Share / all
}

// mostRows is how many rows of a cell are printed; what is longer ends in an ellipsis.
const mostRows = 40

// split breaks a text into rows that fit a width in the font of now: at spaces, and
// within a word that is wider than the row. Signs that no font has print as a blank.
func (p *printed) split(text string, width float64) []string {
	text = strings.Map(func(r rune) rune {
		if r < ' ' || r > 0xFFFF {
			return ' '
		}
		return r
	}, text)
	var rows []string
	row := ""
	for _, word := range strings.Split(text, " ") {
		if next := strings.TrimPrefix(row+" "+word, " "); p.GetStringWidth(next) <= width {
			row = next
			continue
		}
		if row != "" {
			rows = append(rows, row)
		}
		row = ""
		for _, r := range word {
			if row != "" && p.GetStringWidth(row+string(r)) > width {
				rows = append(rows, row)
				row = ""
			}
			row += string(r)
		}
		if len(rows) >= mostRows {
			return append(rows[:mostRows-1], "…")
		}
	}
	return append(rows, row)
}
