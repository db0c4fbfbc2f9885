package exchange

import (
	"bufio"
	"cmp"
	"encoding/csv"
	"errors"
	"fmt"
	"html"
	"io"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"upperlantern/internal/typeset"
)

// The formats in which lists are read by people.
const (
	PDF  Format = "pdf"
	Page Format = "html" // one file that needs nothing else
)

// ListFormats are those in which any list goes out.
var ListFormats = []Format{CSV, Workbook, PDF, Page}

// List is what a file says besides its rows.
type List struct {
	Title   string
	About   []string // what is in it, by which conditions
	Made    string   // when, and by whom
	Notes   []string // what is to be known to read it rightly
	Columns []ListColumn
}

// ListColumn is a column of a list.
type ListColumn struct {
	Name   string
	Figure bool
	Money  bool
	Whole  bool    // what stands in it is short and not broken
	Share  float64 // of the width of a page; 0 is 1
}

// ListCell is what stands in a row. A spreadsheet gets Number where there is one.
type ListCell struct {
	Text   string
	Number *float64
}

// ListWriter writes a list row by row, however long it is.
type ListWriter interface {
	// Row writes a row; a total stands out.
	Row(cells []ListCell, total bool) error
	// Close ends the file.
	Close() error
}

// NewListWriter begins a list in a format. PDF needs fonts.
func NewListWriter(f Format, out io.Writer, l List, fonts func() (*typeset.Fonts, error)) (ListWriter, error) {
	switch f {
	case CSV:
		return newCSVList(out, l)
	case Workbook:
		return newWorkbookList(out, l)
	case Page:
		return newPageList(out, l)
	case PDF:
		return newPDFList(out, l, fonts)
	}
	return nil, ErrFormat
}

// about are the lines that say what a list is, for formats without a place of their own.
func (l List) about() []string {
	lines := append([]string{l.Title}, l.About...)
	return append(append(lines, l.Made), l.Notes...)
}

// csvList says what it is after its rows, so that the first line is the heads.
type csvList struct {
	list List
	w    *csv.Writer
	out  *bufio.Writer
}

func newCSVList(out io.Writer, l List) (*csvList, error) {
	b := bufio.NewWriter(out)
	if _, err := b.Write(utf8BOM); err != nil { // without it spreadsheets take the file for Windows-1252
		return nil, err
	}
	c := &csvList{l, csv.NewWriter(b), b}
	c.w.UseCRLF = true
	heads := make([]string, len(l.Columns))
	for i, column := range l.Columns {
		heads[i] = column.Name
	}
	return c, c.line(heads)
}

func (c *csvList) line(cells []string) error {
	for i := range cells {
		cells[i] = guard(cells[i])
	}
	return c.w.Write(cells)
}

func (c *csvList) Row(cells []ListCell, _ bool) error {
	line := make([]string, len(cells))
	for i, cell := range cells {
		line[i] = cell.Text
		if whole := cell.whole(); whole != "" {
			line[i] = whole
		}
	}
	return c.line(line)
}

// whole is a whole number without a mark between its thousands; "" is another text.
func (c ListCell) whole() string {
	plain := strings.ReplaceAll(c.Text, ",", "")
	if c.Number == nil || plain != strconv.FormatFloat(*c.Number, 'f', -1, 64) {
		return ""
	}
	return plain
}

func (c *csvList) Close() error {
	for _, line := range append([]string{""}, c.list.about()...) {
		if err := c.line([]string{line}); err != nil {
			return err
		}
	}
	c.w.Flush()
	return errors.Join(c.w.Error(), c.out.Flush())
}

// workbookList says what it is on a sheet of its own.
type workbookList struct {
	list   List
	out    io.Writer
	book   *excelize.File
	w      *excelize.StreamWriter
	bold   int
	money  map[string]int // styles of amounts, by the sign of their currency
	number int            // of the row that was written last
}

const listSheet, aboutSheet = "List", "About"

func newWorkbookList(out io.Writer, l List) (w *workbookList, err error) {
	b := &workbookList{list: l, out: out, book: excelize.NewFile(), money: map[string]int{}}
	defer func() {
		if err != nil {
			err = errors.Join(err, b.book.Close())
		}
	}()
	if err := b.book.SetSheetName("Sheet1", listSheet); err != nil {
		return nil, err
	}
	if b.bold, err = b.book.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}}); err != nil {
		return nil, err
	}
	if err := b.about(); err != nil {
		return nil, err
	}
	if b.w, err = b.book.NewStreamWriter(listSheet); err != nil {
		return nil, err
	}
	for i, column := range l.Columns {
		if err := b.w.SetColWidth(i+1, i+1, 4+14*cmp.Or(column.Share, 1)); err != nil {
			return nil, err
		}
	}
	if err := b.w.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil {
		return nil, err
	}
	heads := make([]ListCell, len(l.Columns))
	for i, column := range l.Columns {
		heads[i].Text = column.Name
	}
	return b, b.Row(heads, true)
}

func (b *workbookList) about() error {
	if _, err := b.book.NewSheet(aboutSheet); err != nil {
		return err
	}
	for i, line := range b.list.about() {
		if err := b.book.SetCellStr(aboutSheet, fmt.Sprintf("A%d", i+1), line); err != nil {
			return err
		}
	}
	return b.book.SetColWidth(aboutSheet, "A", "A", 90)
}

func (b *workbookList) Row(cells []ListCell, total bool) error {
	values := make([]any, len(cells))
	for i, cell := range cells {
		value, err := b.value(cell, b.list.Columns[i].Money)
		if err != nil {
			return err
		}
		if total {
			value.StyleID = cmp.Or(value.StyleID, b.bold)
		}
		values[i] = value
	}
	b.number++
	return b.w.SetRow(fmt.Sprintf("A%d", b.number), values)
}

// value is a number where it is a plain one or an amount; anything else is text, which
// is never computed.
func (b *workbookList) value(c ListCell, money bool) (excelize.Cell, error) {
	switch {
	case c.whole() != "":
		return excelize.Cell{Value: *c.Number}, nil
	case !money || c.Number == nil:
		return excelize.Cell{Value: c.Text}, nil
	}
	sign := strings.TrimRight(c.Text, "0123456789.")
	_, decimals, _ := strings.Cut(strings.TrimPrefix(c.Text, sign), ".")
	style, err := b.amount(sign, len(decimals))
	return excelize.Cell{StyleID: style, Value: *c.Number}, err
}

// amount is the style of amounts in a currency.
func (b *workbookList) amount(sign string, decimals int) (style int, err error) {
	if known := b.money[sign]; known != 0 {
		return known, nil
	}
	format := fmt.Sprintf("%q#,##0", sign)
	if decimals > 0 {
		format += "." + strings.Repeat("0", decimals)
	}
	style, err = b.book.NewStyle(&excelize.Style{CustomNumFmt: &format})
	b.money[sign] = style
	return style, err
}

func (b *workbookList) Close() error {
	err := b.w.Flush()
	if err == nil {
		err = b.book.Write(b.out)
	}
	return errors.Join(err, b.book.Close())
}

// pageList is a page that shows itself, and prints itself well.
type pageList struct {
	list List
	out  *bufio.Writer
}

const pageStyle = `body{font:15px/1.45 "Atkinson Hyperlegible Next",system-ui,sans-serif;color:#12252f;margin:24px;max-width:1400px}` +
	`h1{font-size:21px;margin:0 0 4px}p{margin:0 0 3px;color:#48606b}table{border-collapse:collapse;margin:14px 0;width:100%}` +
	`th,td{padding:5px 9px;border-bottom:1px solid #cfd9dd;text-align:start;vertical-align:top}thead th{border-bottom:2px solid #12252f}` +
	`.n{text-align:end;font-variant-numeric:tabular-nums}.n,.w{white-space:nowrap}.t td{font-weight:650;border-top:2px solid #12252f}` +
	`@media print{body{margin:0;font-size:11px}thead{display:table-header-group}tr{break-inside:avoid}}`

func newPageList(out io.Writer, l List) (*pageList, error) {
	p := &pageList{list: l, out: bufio.NewWriter(out)}
	fmt.Fprintf(p.out, "<!doctype html>\n<html lang=\"en\">\n<meta charset=\"utf-8\">\n<title>%s</title>\n<style>%s</style>\n",
		html.EscapeString(l.Title), pageStyle)
	fmt.Fprintf(p.out, "<h1 dir=\"auto\">%s</h1>\n", html.EscapeString(l.Title))
	for _, line := range append(l.About[:len(l.About):len(l.About)], l.Made) {
		fmt.Fprintf(p.out, "<p dir=\"auto\">%s</p>\n", html.EscapeString(line))
	}
	p.out.WriteString("<table>\n<thead><tr>")
	for _, c := range l.Columns {
		fmt.Fprintf(p.out, "<th scope=\"col\"%s>%s</th>", class(c), html.EscapeString(c.Name))
	}
	_, err := p.out.WriteString("</tr></thead>\n<tbody>\n")
	return p, err
}

// class is how the cells of a column look.
func class(c ListColumn) string {
	switch {
	case c.Figure:
		return ` class="n"`
	case c.Whole:
		return ` class="w" dir="auto"`
	}
	return ` dir="auto"`
}

func (p *pageList) Row(cells []ListCell, total bool) error {
	p.out.WriteString(map[bool]string{true: `<tr class="t">`, false: "<tr>"}[total])
	for i, cell := range cells {
		fmt.Fprintf(p.out, "<td%s>%s</td>", class(p.list.Columns[i]), html.EscapeString(cell.Text))
	}
	_, err := p.out.WriteString("</tr>\n")
	return err
}

func (p *pageList) Close() error {
	p.out.WriteString("</tbody>\n</table>\n")
	for _, note := range p.list.Notes {
		fmt.Fprintf(p.out, "<p dir=\"auto\">%s</p>\n", html.EscapeString(note))
	}
	p.out.WriteString("</html>\n")
	return p.out.Flush() // which also says what went wrong before
}

// pdfList is set on pages that lie on their side.
type pdfList struct {
	list List
	d    *typeset.Document
	out  *bufio.Writer
}

func newPDFList(out io.Writer, l List, fonts func() (*typeset.Fonts, error)) (*pdfList, error) {
	f, err := fonts()
	if err != nil {
		return nil, err
	}
	p := &pdfList{list: l, out: bufio.NewWriter(out)}
	p.d = typeset.NewTo(p.out, f, "en")
	p.d.Landscape()
	p.d.Foot(l.Title + " · " + l.Made)
	p.d.NewPage()
	p.d.Line(l.Title, typeset.Style{Size: 15, Bold: true})
	for _, line := range append(l.About[:len(l.About):len(l.About)], l.Made) {
		p.d.Line(line, typeset.Style{Size: 9, Grey: true})
	}
	p.d.Space(8)
	t := &typeset.Table{Size: 8.5}
	for _, c := range l.Columns {
		t.Heads, t.Figures = append(t.Heads, c.Name), append(t.Figures, c.Figure)
		t.Shares = append(t.Shares, cmp.Or(c.Share, 1))
	}
	p.d.Rows(t)
	return p, nil
}

func (p *pdfList) Row(cells []ListCell, total bool) error {
	texts := make([]string, len(cells))
	for i, c := range cells {
		texts[i] = c.Text
	}
	p.d.Row(texts, total)
	return p.d.Err()
}

func (p *pdfList) Close() error {
	p.d.Space(6)
	for _, note := range p.list.Notes {
		p.d.Line(note, typeset.Style{Size: 9, Grey: true})
	}
	return errors.Join(p.d.End(p.list.Title), p.out.Flush())
}
