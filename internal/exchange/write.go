package exchange

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"

	"github.com/xuri/excelize/v2"

	"upperlantern/internal/core/intake"
)

// Format is a file format in which a list goes out.
type Format string

const (
	CSV      Format = "csv"
	Workbook Format = "xlsx"
	VCard    Format = "vcf"
)

// MediaType is what the format is called on the wire.
func (f Format) MediaType() string {
	return map[Format]string{
		CSV: "text/csv; charset=utf-8", VCard: "text/vcard; charset=utf-8",
		Workbook: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", PDF: "application/pdf",
		Page: "text/html; charset=utf-8",
	}[f]
}

// ErrFormat means that a list cannot go out in a format.
var ErrFormat = errors.New("vCard has people only")

// WritePeople writes people with their columns, so that Read and the same
// roster change nothing.
func WritePeople(f Format, columns []intake.Column, rows [][]string) ([]byte, error) {
	if f == VCard {
		return writeVCards(columns, rows), nil
	}
	header := make([]string, len(columns))
	for i, c := range columns {
		header[i] = c.Heading()
	}
	return Write(f, "People", header, rows)
}

// Write writes a list. Cells that a spreadsheet would compute are made
// harmless; Read takes the mark away again.
func Write(f Format, title string, header []string, rows [][]string) ([]byte, error) {
	switch f {
	case CSV:
		return writeCSV(header, rows)
	case Workbook:
		return writeWorkbook(title, header, rows)
	}
	return nil, ErrFormat
}

func writeCSV(header []string, rows [][]string) ([]byte, error) {
	var b bytes.Buffer
	b.Write(utf8BOM) // without it spreadsheets take the file for Windows-1252
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	for _, row := range append([][]string{header}, rows...) {
		guarded := make([]string, len(row))
		for i, cell := range row {
			guarded[i] = guard(cell)
		}
		if err := w.Write(guarded); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return b.Bytes(), w.Error()
}

func writeWorkbook(title string, header []string, rows [][]string) (file []byte, err error) {
	book := excelize.NewFile()
	defer func() { err = errors.Join(err, book.Close()) }()
	if err := book.SetSheetName("Sheet1", title); err != nil {
		return nil, err
	}
	w, err := book.NewStreamWriter(title)
	if err != nil {
		return nil, err
	}
	for n, row := range append([][]string{header}, rows...) {
		cells := make([]any, len(row))
		for i, cell := range row {
			cells[i] = cell // as text, which is never computed
		}
		if err := w.SetRow(fmt.Sprintf("A%d", n+1), cells); err != nil {
			return nil, err
		}
	}
	if err := w.Flush(); err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = book.Write(&b)
	return b.Bytes(), err
}
