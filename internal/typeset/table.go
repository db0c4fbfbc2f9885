package typeset

import (
	"fmt"
	"strings"

	"github.com/go-text/typesetting/di"

	"upperlantern/internal/core/rich"
)

// Table is how rows are set: the widths of columns in shares of the whole, and the
// heads that stand on every page.
type Table struct {
	Heads   []string
	Shares  []float64
	Figures []bool // columns that stand at the end of their place
	Size    float64
	set     bool // the heads stand on this page
	drawn   map[cell][]string
}

// cell is a text in a column.
type cell struct {
	text   string
	column int
	style  Style
}

// mostDrawn is how many cells are remembered: rows have much in common.
const mostDrawn = 4096

// mostLines is how much of a long cell is set.
const mostLines = 12

// Between columns, and above and below a row, in points.
const (
	gutter = 8.0
	air    = 2.5
)

// Landscape lays pages on their side, with narrower edges: for tables. It is said before
// the first page.
func (d *Document) Landscape() {
	d.wide, d.high, d.margin = long, short, edge/2
}

// Foot is set at the foot of each page, with its number.
func (d *Document) Foot(text string) { d.foot = text }

// setFoot sets the foot of the page that ends.
func (d *Document) setFoot() {
	if d.table != nil {
		d.table.set = false
	}
	if d.foot == "" {
		return
	}
	s := Style{Size: 8, Grey: true}
	for i, text := range []string{d.foot, fmt.Sprint(len(d.pages) + 1)} {
		s.ToEnd = i == 1
		runs := []rich.Run{{Text: text}}
		for _, l := range d.wrap(runs, d.direction, s, d.width()) {
			d.y = d.margin / 2
			d.set(l, s, box{d.margin, d.width()})
		}
	}
}

// Rows begins the rows of a table: its heads stand on every page from here on.
func (d *Document) Rows(t *Table) {
	t.set, t.drawn = false, map[cell][]string{}
	d.table = t
}

// Row sets a row of the table; what is bold stands out.
func (d *Document) Row(cells []string, bold bool) {
	style := Style{Size: d.table.Size, Bold: bold}
	row := d.cells(cells, style)
	height := tallest(row, style)
	if !d.table.set || d.y-height < d.margin {
		d.heads(height)
	}
	d.line(row, style)
	d.rule(0.92)
}

// heads sets the heads, on another page if a row does not follow on this one.
func (d *Document) heads(next float64) {
	style := Style{Size: d.table.Size - 1, Bold: true, Grey: true}
	row := d.cells(d.table.Heads, style)
	if d.y-tallest(row, style)-next < d.margin {
		d.NewPage()
	}
	d.table.set = true
	d.line(row, style)
	d.rule(0.5)
}

func (d *Document) rule(grey float64) {
	fmt.Fprintf(&d.page, "%.2f G 0.5 w %.2f %.2f m %.2f %.2f l S\n", grey, d.margin, d.y, d.margin+d.width(), d.y)
}

// cells are the lines of the texts of a row, as operators that draw them at the foot of
// the page.
func (d *Document) cells(texts []string, s Style) [][]string {
	row := make([][]string, len(texts))
	for i, text := range texts {
		if text == "" {
			continue
		}
		s.ToEnd = d.table.Figures[i]
		at := cell{text, i, s}
		lines, known := d.table.drawn[at]
		if !known {
			lines = d.cell(at)
			if len(d.table.drawn) >= mostDrawn {
				clear(d.table.drawn)
			}
			d.table.drawn[at] = lines
		}
		row[i] = lines
	}
	return row
}

// cell breaks a text into lines.
func (d *Document) cell(c cell) []string {
	in := d.column(c.column)
	runs := []rich.Run{{Text: strings.ReplaceAll(c.text, "\n", " "), Bold: c.style.Bold}}
	lines := d.wrap(runs, direction(runs), c.style, in.width)
	list := make([]string, min(len(lines), mostLines))
	for i := range list {
		if c.style.ToEnd { // figures stand at the end, whatever their direction
			lines[i].dir = d.direction
		}
		var drawn strings.Builder
		d.draw(&drawn, lines[i], c.style, in, 0)
		list[i] = drawn.String()
	}
	return list
}

// column is where a column stands: the first one where the language begins.
func (d *Document) column(i int) box {
	whole, before := 0.0, 0.0
	for n, share := range d.table.Shares {
		whole += share
		if n < i {
			before += share
		}
	}
	space := d.width() + gutter
	b := box{d.margin + space*before/whole, space*d.table.Shares[i]/whole - gutter}
	if d.direction == di.DirectionRTL {
		b.x = d.margin + d.width() - (b.x - d.margin) - b.width
	}
	return b
}

func tallest(row [][]string, s Style) float64 {
	lines := 1
	for _, cell := range row {
		lines = max(lines, len(cell))
	}
	return float64(lines)*s.Size*leading + 2*air
}

// line sets a row below what stands there.
func (d *Document) line(row [][]string, s Style) {
	top := d.y - air
	for _, lines := range row {
		for n, drawn := range lines {
			fmt.Fprintf(&d.page, "q 1 0 0 1 0 %.2f cm\n%sQ\n", top-float64(n+1)*s.Size*leading, drawn)
		}
	}
	d.y = top - tallest(row, s) + air
}
