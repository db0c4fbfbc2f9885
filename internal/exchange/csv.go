// Package exchange reads and writes the open formats in which rosters come
// and go.
package exchange

import (
	"bytes"
	"cmp"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"upperlantern/internal/core/intake"
)

// Table is a file as it was read: headings, rows, the lines that could not be
// read at all, and what was left off of the others.
type Table struct {
	Form      string // of a file that is no CSV, in words
	Encoding  string // of a text: one of Encodings
	Delimiter rune
	Header    []string
	Rows      []intake.Row
	Unread    []intake.Issue
	Noted     []intake.Issue
	Top       []intake.Row // the first rows as they stand, titles and headings too
	Heading   int          // the line of the headings

	cells, text int // that were kept; see spend
}

// Errors that concern a file as a whole.
var (
	ErrEmpty  = errors.New("the file is empty")
	ErrNotCSV = errors.New(
		"this is no roster file: it is neither a workbook (XLSX), a vCard file, a OneRoster bundle nor text such as CSV",
	)
	// ErrHeadings comes with the reason.
	ErrHeadings = errors.New("the headings cannot be read")
)

var utf8BOM = []byte("\xef\xbb\xbf")

// Read reads a roster file in whatever format it is.
func Read(file []byte) (*Table, error) { return ReadAs(file, intake.Reading{}) }

// ReadAs reads a roster file in whatever format it is, as somebody said that it is to
// be read.
func ReadAs(file []byte, how intake.Reading) (*Table, error) {
	start := bytes.TrimLeft(bytes.TrimPrefix(file, utf8BOM), " \r\n\t")
	switch {
	case bytes.HasPrefix(file, []byte("PK\x03\x04")), bytes.HasPrefix(file, []byte("PK\x05\x06")):
		return readZip(file, how)
	case len(start) >= 11 && strings.EqualFold(string(start[:11]), "BEGIN:VCARD"):
		return ReadVCards(file)
	}
	return readText(file, how.Encoding, headingsAt(how.Heading))
}

// ReadCSV reads a CSV file (RFC 4180) whose first row has the headings, in any of
// Encodings, with commas, semicolons, tabs or bars between cells.
func ReadCSV(file []byte) (*Table, error) {
	return readText(file, "", func([]intake.Row) (int, int) { return 0, 0 })
}

// headingsOf finds the rows with the headings, from the first to the last of them.
type headingsOf func(rows []intake.Row) (first, last int)

// headingsAt finds the headings in the row that begins at a line, or where they seem
// to be.
func headingsAt(line int) headingsOf {
	return func(rows []intake.Row) (int, int) {
		if at := slices.IndexFunc(rows, func(r intake.Row) bool { return r.Line == line }); line > 0 && at >= 0 {
			return at, at
		}
		cells := make([][]string, 0, topRows)
		for _, r := range rows[:min(topRows, len(rows))] {
			cells = append(cells, r.Cells)
		}
		return intake.FindHeadings(cells)
	}
}

// topRows is how many rows the headings can stand in.
const topRows = 40

func readText(file []byte, encoding string, headings headingsOf) (*Table, error) {
	text, name, err := decode(file, encoding)
	if err != nil {
		return nil, err
	}
	t := &Table{Encoding: name}
	text, line := separator(t, text)
	if bytes.Contains(text, []byte(`="`)) {
		text = keptAsText.ReplaceAll(text, []byte(`$1"$2"`))
	}
	if err := checkLines(text, t.Delimiter); err != nil {
		return nil, err
	}
	rows, err := t.cut(text, line)
	if err != nil {
		return nil, err
	}
	return t, t.settle(rows, headings)
}

var separatorLine = regexp.MustCompile(`^(?i:"?sep=(.)"?)\r?\n`)

// keptAsText is a cell that other programs write as a formula, so that a spreadsheet
// does not reckon with it: ="+49 …".
var keptAsText = regexp.MustCompile(`(?m)(^|[;,|\t])="([^"\n]*)"`)

// separator finds what stands between cells: what a first line such as “sep=;” says, or
// what most lines have. It returns the text without that line, and how many lines it had.
func separator(t *Table, text []byte) (rest []byte, before int) {
	if m := separatorLine.FindSubmatch(text); m != nil {
		t.Delimiter, _ = utf8.DecodeRune(m[1])
		return text[len(m[0]):], 1
	}
	t.Delimiter = delimiter(text)
	return text, 0
}

// cut cuts a text into rows; lines that cannot be read go to Unread.
func (t *Table) cut(text []byte, before int) (rows []intake.Row, err error) {
	r := csv.NewReader(bytes.NewReader(text))
	r.Comma, r.FieldsPerRecord, r.ReuseRecord = t.Delimiter, -1, false
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			return rows, nil
		}
		var bad *csv.ParseError
		if errors.As(err, &bad) {
			if len(rows) == 0 {
				return nil, fmt.Errorf("%w: %w", ErrHeadings, err)
			}
			at := intake.Place{Line: before + bad.StartLine}
			t.Unread = append(t.Unread, intake.Issue{Place: at, Reason: parseReason(bad)})
			continue
		}
		if err != nil {
			return nil, fmt.Errorf("reading rows: %w", err)
		}
		line, _ := r.FieldPos(0)
		if len(filled(cells)) == 0 {
			continue
		}
		if err := t.spend(len(cells), cells); err != nil {
			return nil, err
		}
		rows = append(rows, intake.Row{Place: intake.Place{Line: before + line}, Cells: cells})
	}
}

// settle takes the headings out of the rows and keeps those below them.
func (t *Table) settle(rows []intake.Row, headings headingsOf) error {
	if len(rows) == 0 {
		return ErrEmpty
	}
	t.cells, t.text = 0, 0 // they are counted again, below as many headings as there are
	first, last := headings(rows)
	header := rows[first].Cells
	if last > first {
		header = intake.JoinHeadings(header, rows[last].Cells)
	}
	for _, h := range header {
		t.Header = append(t.Header, strings.TrimSpace(h))
	}
	if err := t.spend(len(header), header); err != nil {
		return err
	}
	t.keepTop(rows)
	t.Heading = rows[first].Line
	for _, row := range rows[last+1:] {
		if err := t.add(row.Place, row.Cells); err != nil {
			return err
		}
	}
	intake.SortIssues(t.Unread)
	return nil
}

// keepTop keeps the first rows as they stand, for who says where the headings are.
func (t *Table) keepTop(rows []intake.Row) {
	t.Top = append(t.Top, rows[:min(shownTop, len(rows))]...)
}

const shownTop = 12

// add keeps a row, unless it is blank or has more cells than there are headings.
// The error is ErrTooMuch.
func (t *Table) add(at intake.Place, cells []string) error {
	filled := 0
	for i, c := range cells {
		if strings.TrimSpace(c) != "" {
			filled = i + 1
		}
	}
	if filled == 0 {
		return nil
	}
	if err := t.spend(len(t.Header), cells); err != nil {
		return err
	}
	if filled > len(t.Header) {
		t.Unread = append(t.Unread, intake.Issue{
			Place: at, Reason: fmt.Sprintf("the row has %d cells below %d headings", filled, len(t.Header)),
		})
		return nil
	}
	for i, c := range cells {
		cells[i] = unguard(c)
	}
	t.Rows = append(t.Rows, intake.Row{Place: at, Cells: cells[:min(len(cells), len(t.Header))]})
	return nil
}

func parseReason(err *csv.ParseError) string {
	switch {
	case errors.Is(err.Err, csv.ErrQuote):
		return "a quotation mark opens or closes in the wrong place"
	case errors.Is(err.Err, csv.ErrBareQuote):
		return "a quotation mark stands in a cell that is not quoted"
	}
	return err.Err.Error()
}

// delimiter is whichever of tab, semicolon, bar and comma the most of the first lines
// have; the first of them is rarely part of a text, the last may be.
func delimiter(text []byte) rune {
	lines, counts := map[rune]int{}, map[rune]int{}
	n := 0
	for line := range bytes.Lines(text) {
		if len(bytes.TrimSpace(line)) == 0 {
			continue
		}
		if n++; n > topRows {
			break
		}
		here := map[rune]int{}
		quoted := false
		for _, r := range string(line) {
			if r == '"' {
				quoted = !quoted
			}
			if !quoted {
				here[r]++
			}
		}
		for _, r := range delimiters {
			counts[r] += here[r]
			if here[r] > 0 {
				lines[r]++
			}
		}
	}
	best := rune(0)
	for _, r := range delimiters {
		if n > 1 && lines[r] == 1 { // one line of several: a cell with several values
			continue
		}
		if lines[r] > lines[best] || lines[r] > 0 && lines[r] == lines[best] && counts[r] > counts[best] {
			best = r
		}
	}
	return cmp.Or(best, ',')
}

const delimiters = "\t;|,"

// Describe says in words how the file was read.
func (t *Table) Describe() string {
	if t.Form != "" {
		return fmt.Sprintf("%s, %d columns, %d rows", t.Form, len(t.Header), len(t.Rows))
	}
	names := map[rune]string{',': "commas", ';': "semicolons", '\t': "tabs", '|': "bars"}
	above := ""
	if t.Heading > 1 {
		above = fmt.Sprintf(", headings in line %d", t.Heading)
	}
	return fmt.Sprintf(
		"%s, %s between cells%s, %d columns, %d rows", t.Encoding, cmp.Or(names[t.Delimiter], string(t.Delimiter)), above,
		len(t.Header), len(t.Rows),
	)
}
