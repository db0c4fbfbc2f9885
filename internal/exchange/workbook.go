package exchange

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"

	"github.com/xuri/excelize/v2"

	"upperlantern/internal/core/intake"
)

// Largest sizes of what a zipped file holds, unzipped.
const (
	largestUnzipped = 512 << 20
	largestRatio    = 200 // of unzipped to zipped; text rarely gets beyond 20
	smallEnough     = 8 << 20
)

// Errors of zipped files.
var (
	ErrBomb = errors.New(
		"the file holds far more than its size says, as files do that are made to do harm; it was not opened",
	)
	ErrBrokenZip   = errors.New("the file is broken: it cannot be unzipped")
	ErrWorkbook    = errors.New("the file cannot be read as a workbook (XLSX)")
	ErrZipContents = errors.New("the zipped file is neither a workbook (XLSX) nor a OneRoster bundle: it has no users.csv")
)

// readZip reads a workbook or a OneRoster bundle.
func readZip(file []byte) (*Table, error) {
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrBrokenZip, err)
	}
	var unzipped uint64
	workbook, bundle := false, false
	for _, f := range z.File {
		unzipped += f.UncompressedSize64
		workbook = workbook || f.Name == "xl/workbook.xml"
		bundle = bundle || strings.EqualFold(path.Base(f.Name), "users.csv")
	}
	if unzipped > largestUnzipped || unzipped > smallEnough && unzipped > uint64(len(file))*largestRatio {
		return nil, ErrBomb
	}
	switch {
	case workbook:
		if err := checkParts(z); err != nil {
			return nil, err
		}
		return readWorkbook(file)
	case bundle:
		return readOneRoster(z)
	}
	return nil, ErrZipContents
}

// readWorkbook reads every sheet of a workbook (ECMA-376): the first filled
// row of each has its headings. What formulas came to is taken, never computed.
func readWorkbook(file []byte) (t *Table, err error) {
	book, err := excelize.OpenReader(bytes.NewReader(file), excelize.Options{
		UnzipSizeLimit: largestUnzipped, UnzipXMLSizeLimit: inMemory, ShortDatePattern: "yyyy-mm-dd",
		LongDatePattern: "yyyy-mm-dd",
	})
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrWorkbook, err)
	}
	defer func() { err = errors.Join(err, book.Close()) }()
	t = &Table{}
	sheets := book.GetSheetList()
	for _, sheet := range sheets {
		if err := t.readSheet(book, sheet, len(sheets) > 1); err != nil {
			return nil, err
		}
	}
	if len(t.Header) == 0 {
		return nil, ErrEmpty
	}
	t.Form = "workbook"
	if len(sheets) > 1 {
		t.Form = fmt.Sprintf("workbook with %d sheets", len(sheets))
	}
	return t, nil
}

func (t *Table) readSheet(book *excelize.File, sheet string, named bool) error {
	rows, err := book.Rows(sheet)
	if err != nil {
		return fmt.Errorf("%w: sheet %s: %w", ErrWorkbook, sheet, err)
	}
	defer rows.Close() //nolint:errcheck // it was only read
	var columns []int  // where the sheet's columns stand in the table
	place := intake.Place{}
	if named {
		place.Sheet = sheet
	}
	padded := 0 // cells that the sheet has up to the last one of each row
	for line := 1; rows.Next(); line++ {
		cells, err := rows.Columns()
		if err != nil {
			return fmt.Errorf("%w: sheet %s, line %d: %w", ErrWorkbook, sheet, line, err)
		}
		padded += len(cells)
		if padded > mostCells {
			return fmt.Errorf("%w: sheet %s has more than %d cells (rows × columns)", ErrTooMuch, sheet, mostCells)
		}
		if cells = filled(cells); len(cells) == 0 {
			continue
		}
		if columns == nil {
			if err := t.spend(len(t.Header)+len(cells), cells); err != nil {
				return err
			}
			columns = t.join(cells)
			continue
		}
		place.Line = line
		if err := t.addTo(columns, place, cells); err != nil {
			return err
		}
	}
	return rows.Error()
}

// join adds the headings of a sheet to those of the table and returns where
// they stand there; equal ones are one column.
func (t *Table) join(headings []string) []int {
	columns := make([]int, len(headings))
	taken := map[int]bool{}
	for i, h := range headings {
		h = strings.TrimSpace(h)
		at := slices.IndexFunc(t.Header, func(known string) bool { return strings.EqualFold(known, h) })
		if at < 0 || taken[at] {
			at = len(t.Header)
			t.Header = append(t.Header, h)
		}
		taken[at] = true
		columns[i] = at
	}
	return columns
}

// filled is a row up to its last cell that holds something.
func filled(cells []string) []string {
	for len(cells) > 0 && strings.TrimSpace(cells[len(cells)-1]) == "" {
		cells = cells[:len(cells)-1]
	}
	return cells
}

func (t *Table) addTo(columns []int, at intake.Place, cells []string) error {
	row := make([]string, len(t.Header))
	for i, c := range cells {
		if i < len(columns) {
			row[columns[i]] = c
			continue
		}
		if strings.TrimSpace(c) != "" {
			t.Unread = append(t.Unread, intake.Issue{
				Place: at, Reason: fmt.Sprintf("the row has %d cells below %d headings", len(cells), len(columns)),
			})
			return nil
		}
	}
	return t.add(at, row)
}
