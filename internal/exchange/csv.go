// Package exchange reads and writes the open formats in which rosters come
// and go.
package exchange

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"

	"upperlantern/internal/core/intake"
)

// Table is a file as it was read: headings, rows, the lines that could not be
// read at all, and what was left off of the others.
type Table struct {
	Form      string // of a file that is no CSV, in words
	Encoding  string // of a CSV: "UTF-8" or "Windows-1252"
	Delimiter rune
	Header    []string
	Rows      []intake.Row
	Unread    []intake.Issue
	Noted     []intake.Issue

	cells, text int // that were kept; see spend
}

// Errors that concern a file as a whole.
var (
	ErrEmpty  = errors.New("the file is empty")
	ErrNotCSV = errors.New(
		"this is no roster file: it is neither a workbook (XLSX), a vCard file, a OneRoster bundle nor text such as CSV",
	)
	// ErrHeadings comes with the reason.
	ErrHeadings = errors.New("the headings in the first line cannot be read")
)

var utf8BOM = []byte("\xef\xbb\xbf")

// Read reads a roster file in whatever format it is.
func Read(file []byte) (*Table, error) {
	start := bytes.TrimLeft(bytes.TrimPrefix(file, utf8BOM), " \r\n\t")
	switch {
	case bytes.HasPrefix(file, []byte("PK\x03\x04")), bytes.HasPrefix(file, []byte("PK\x05\x06")):
		return readZip(file)
	case len(start) >= 11 && strings.EqualFold(string(start[:11]), "BEGIN:VCARD"):
		return ReadVCards(file)
	}
	return ReadCSV(file)
}

// ReadCSV reads a CSV file (RFC 4180) in UTF-8, with or without a byte order
// mark, or in Windows-1252, with commas, semicolons or tabs between cells.
func ReadCSV(file []byte) (*Table, error) {
	t := &Table{Encoding: "UTF-8"}
	file = bytes.TrimPrefix(file, utf8BOM)
	if len(bytes.TrimSpace(file)) == 0 {
		return nil, ErrEmpty
	}
	if bytes.IndexByte(file, 0) >= 0 {
		return nil, ErrNotCSV
	}
	if !utf8.Valid(file) {
		decoded, err := charmap.Windows1252.NewDecoder().Bytes(file)
		if err != nil {
			return nil, ErrNotCSV
		}
		file, t.Encoding = decoded, "Windows-1252"
	}
	t.Delimiter = delimiter(file)
	if err := checkLines(file, t.Delimiter); err != nil {
		return nil, err
	}
	return t, t.read(file)
}

func (t *Table) read(file []byte) error {
	r := csv.NewReader(bytes.NewReader(file))
	r.Comma, r.FieldsPerRecord, r.ReuseRecord = t.Delimiter, -1, false
	header, err := r.Read()
	if err != nil {
		return fmt.Errorf("%w: %w", ErrHeadings, err)
	}
	if err := t.spend(len(header), header); err != nil {
		return err
	}
	for _, h := range header {
		t.Header = append(t.Header, strings.TrimSpace(h))
	}
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			return nil
		}
		var bad *csv.ParseError
		if errors.As(err, &bad) {
			t.Unread = append(t.Unread, intake.Issue{Place: intake.Place{Line: bad.StartLine}, Reason: parseReason(bad)})
			continue
		}
		if err != nil {
			return fmt.Errorf("reading rows: %w", err)
		}
		line, _ := r.FieldPos(0)
		if err := t.add(intake.Place{Line: line}, cells); err != nil {
			return err
		}
	}
}

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

// delimiter is whichever of tab, semicolon and comma the first line has most
// of; a tab or a semicolon is rarely part of a heading, a comma may be.
func delimiter(file []byte) rune {
	first, _, _ := bytes.Cut(file, []byte("\n"))
	counts := map[rune]int{}
	quoted := false
	for _, r := range string(first) {
		if r == '"' {
			quoted = !quoted
		}
		if !quoted {
			counts[r]++
		}
	}
	best, most := ',', 0
	for _, r := range "\t;," {
		if counts[r] > most {
			best, most = r, counts[r]
		}
	}
	return best
}

// Describe says in words how the file was read.
func (t *Table) Describe() string {
	if t.Form != "" {
		return fmt.Sprintf("%s, %d columns, %d rows", t.Form, len(t.Header), len(t.Rows))
	}
	names := map[rune]string{',': "commas", ';': "semicolons", '\t': "tabs"}
	return fmt.Sprintf("%s, %s between cells, %d columns, %d rows", t.Encoding, names[t.Delimiter], len(t.Header), len(
		t.Rows,
	))
}
