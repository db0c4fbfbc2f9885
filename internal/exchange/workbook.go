package exchange

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/phone"
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
func readZip(file []byte, how intake.Reading) (*Table, error) {
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
		return readWorkbook(file, z, how)
	case bundle:
		return readOneRoster(z)
	}
	return nil, ErrZipContents
}

// sheetColumn is the heading of the column that has the names of a workbook's sheets,
// where it has several.
const sheetColumn = "Sheet"

// readWorkbook reads every sheet of a workbook (ECMA-376) that can be seen. What
// formulas came to is taken, never computed.
func readWorkbook(file []byte, z *zip.Reader, how intake.Reading) (t *Table, err error) {
	book, err := excelize.OpenReader(bytes.NewReader(file), excelize.Options{
		UnzipSizeLimit: largestUnzipped, UnzipXMLSizeLimit: inMemory, ShortDatePattern: "yyyy-mm-dd",
		LongDatePattern: "yyyy-mm-dd",
	})
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrWorkbook, err)
	}
	defer func() { err = errors.Join(err, book.Close()) }()
	t = &Table{}
	var sheets, hidden []string
	for _, sheet := range book.GetSheetList() {
		if seen, err := book.GetSheetVisible(sheet); err == nil && !seen {
			hidden = append(hidden, sheet)
			continue
		}
		sheets = append(sheets, sheet)
	}
	for _, sheet := range sheets {
		if err := t.readSheet(book, z, sheet, len(sheets) > 1, how); err != nil {
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
	for _, sheet := range hidden {
		t.Noted = append(t.Noted, intake.Issue{Place: intake.Place{Sheet: sheet}, Reason: "the sheet is hidden; it is left out"})
	}
	return t, nil
}

func (t *Table) readSheet(book *excelize.File, z *zip.Reader, sheet string, named bool, how intake.Reading) error {
	rows, err := t.sheetRows(book, sheet)
	if err == nil {
		err = spread(z, sheet, rows)
	}
	if err != nil || len(rows) == 0 {
		return err
	}
	first, last := headingsAt(how.Heading)(rows)
	header := rows[first].Cells
	if last > first {
		header = intake.JoinHeadings(header, rows[last].Cells)
	}
	if named {
		header = append(slices.Clip(header), sheetColumn)
	}
	if err := t.spend(len(t.Header)+len(header), header); err != nil {
		return err
	}
	if t.Top == nil {
		t.keepTop(rows)
		t.Heading = rows[first].Line
	}
	columns := t.join(header)
	for i, row := range rows[last+1:] {
		at, of := intake.Place{Line: row.Line}, columns
		if named {
			at.Sheet = sheet
		}
		cells := row.Cells
		switch {
		case named && len(cells) < len(header):
			cells = append(slices.Clip(cells), make([]string, len(header)-len(cells))...)
			cells[len(header)-1] = sheet
		case named:
			of = columns[:len(columns)-1] // there is a cell too many
		}
		if err := t.addTo(of, at, cells); err != nil {
			return err
		}
		rows[last+1+i].Cells = nil // what is kept is a copy
	}
	return nil
}

// sheetRows are the filled rows of a sheet.
func (t *Table) sheetRows(book *excelize.File, sheet string) ([]intake.Row, error) {
	shown, err := book.Rows(sheet)
	if err != nil {
		return nil, fmt.Errorf("%w: sheet %s: %w", ErrWorkbook, sheet, err)
	}
	defer shown.Close() //nolint:errcheck // it was only read
	var rows []intake.Row
	shortened := map[int]int{} // rows with shortened numbers, by line
	padded := 0                // cells that the sheet has up to the last one of each row
	for line := 1; shown.Next(); line++ {
		cells, err := shown.Columns()
		if err != nil {
			return nil, fmt.Errorf("%w: sheet %s, line %d: %w", ErrWorkbook, sheet, line, err)
		}
		padded += len(cells)
		if padded > mostCells {
			return nil, fmt.Errorf("%w: sheet %s has more than %d cells (rows × columns)", ErrTooMuch, sheet, mostCells)
		}
		if cells = filled(cells); len(cells) == 0 {
			continue
		}
		if err := t.spend(len(cells), cells); err != nil {
			return nil, err
		}
		if slices.ContainsFunc(cells, phone.Mangled) {
			shortened[line] = len(rows)
		}
		rows = append(rows, intake.Row{Place: intake.Place{Line: line}, Cells: cells})
	}
	t.cells, t.text = 0, 0 // what is kept of them is counted again
	if err := shown.Error(); err != nil {
		return nil, fmt.Errorf("%w: sheet %s: %w", ErrWorkbook, sheet, err)
	}
	if err := atFull(book, sheet, rows, shortened); err != nil {
		return nil, err
	}
	return rows, nil
}

// atFull takes numbers that are shown shortened, such as 4.47700900E+11, as they are.
func atFull(book *excelize.File, sheet string, rows []intake.Row, shortened map[int]int) error {
	if len(shortened) == 0 {
		return nil
	}
	exact, err := book.Rows(sheet)
	if err != nil {
		return fmt.Errorf("%w: sheet %s: %w", ErrWorkbook, sheet, err)
	}
	defer exact.Close() //nolint:errcheck // it was only read
	for line := 1; exact.Next(); line++ {
		raw, err := exact.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return fmt.Errorf("%w: sheet %s, line %d: %w", ErrWorkbook, sheet, line, err)
		}
		at, known := shortened[line]
		if !known {
			continue
		}
		for i, cell := range rows[at].Cells {
			if i < len(raw) && phone.Mangled(cell) {
				rows[at].Cells[i] = whole(raw[i], cell)
			}
		}
	}
	return exact.Error()
}

// whole is a number with all its digits, if they are there.
func whole(raw, shown string) string {
	n, err := strconv.ParseFloat(raw, 64)
	if err != nil || n != math.Trunc(n) || n >= 1e15 { // of which a number has no more digits
		return shown
	}
	return strconv.FormatFloat(n, 'f', 0, 64)
}

// spread writes what stands in merged cells into all rows that they reach over.
func spread(z *zip.Reader, sheet string, rows []intake.Row) error {
	merged, err := mergedCells(z, sheet)
	if err != nil {
		return fmt.Errorf("%w: sheet %s: %w", ErrWorkbook, sheet, err)
	}
	at := map[int]int{}
	for i, row := range rows {
		at[row.Line] = i
	}
	for _, m := range merged {
		first, known := at[m.top]
		if !known || len(rows[first].Cells) < m.column {
			continue
		}
		for i := first + 1; i < len(rows) && rows[i].Line <= m.bottom; i++ {
			for len(rows[i].Cells) < m.column {
				rows[i].Cells = append(rows[i].Cells, "")
			}
			if rows[i].Cells[m.column-1] == "" {
				rows[i].Cells[m.column-1] = rows[first].Cells[m.column-1]
			}
		}
	}
	return nil
}

// merger is cells of several rows that are one.
type merger struct{ column, top, bottom int }

var mergeCell = regexp.MustCompile(`<(?:\w+:)?mergeCell\s[^>]*ref="([A-Z]+\d+):([A-Z]+\d+)"`)

// mergedCells are the merged cells of a sheet. They stand at the end of its part, behind
// the rows (ECMA-376 §18.3.1.99), so that the rows need not be kept to find them.
func mergedCells(z *zip.Reader, sheet string) (list []merger, err error) {
	part, err := partOf(z, sheet)
	if err != nil || part == nil {
		return nil, err
	}
	tail, err := endOf(part)
	if err != nil {
		return nil, err
	}
	for _, m := range mergeCell.FindAllSubmatch(tail, -1) {
		column, top, err := excelize.CellNameToCoordinates(string(m[1]))
		if err != nil {
			continue
		}
		_, bottom, err := excelize.CellNameToCoordinates(string(m[2]))
		if err == nil && bottom > top {
			list = append(list, merger{column, top, bottom})
		}
	}
	return list, nil
}

// longestTail is how much of the end of a sheet's part is looked at, in bytes.
const longestTail = 2 << 20

func endOf(part *zip.File) (tail []byte, err error) {
	r, err := part.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close() //nolint:errcheck // it was only read
	limited := io.LimitReader(r, largestSheet)
	chunk := make([]byte, 64<<10)
	for {
		n, err := limited.Read(chunk)
		tail = append(tail, chunk[:n]...)
		if len(tail) > 2*longestTail {
			tail = append(tail[:0], tail[len(tail)-longestTail:]...)
		}
		if errors.Is(err, io.EOF) {
			return tail, nil
		}
		if err != nil {
			return nil, err
		}
	}
}

// partOf is the part of a workbook that holds a sheet, or nil.
func partOf(z *zip.Reader, sheet string) (*zip.File, error) {
	var book struct {
		Sheets []struct {
			Name string `xml:"name,attr"`
			ID   string `xml:"id,attr"`
		} `xml:"sheets>sheet"`
	}
	var relations struct {
		List []struct {
			ID     string `xml:"Id,attr"`
			Target string `xml:"Target,attr"`
		} `xml:"Relationship"`
	}
	if err := errors.Join(
		readPart(z, "xl/workbook.xml", &book), readPart(z, "xl/_rels/workbook.xml.rels", &relations),
	); err != nil {
		return nil, err
	}
	for _, s := range book.Sheets {
		for _, r := range relations.List {
			if s.Name != sheet || r.ID != s.ID {
				continue
			}
			name := strings.TrimPrefix(path.Join("/xl", r.Target), "/")
			if path.IsAbs(r.Target) {
				name = strings.TrimPrefix(r.Target, "/")
			}
			at := slices.IndexFunc(z.File, func(f *zip.File) bool { return f.Name == name })
			if at >= 0 {
				return z.File[at], nil
			}
		}
	}
	return nil, nil
}

func readPart(z *zip.Reader, name string, into any) error {
	f, err := z.Open(name)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer f.Close() //nolint:errcheck // it was only read
	return xml.NewDecoder(io.LimitReader(f, largestPart)).Decode(into)
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
