package exchange

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"strings"
)

// What is read of a file at most, so that no file takes more memory than some
// hundred megabytes, however small it is itself.
const (
	mostColumns = 500
	mostCells   = 5_000_000 // rows × columns
	mostText    = 96 << 20  // bytes of all cells together

	largestSheet   = 256 << 20 // bytes of a worksheet, unzipped; it is read from disk
	largestStrings = 64 << 20  // bytes of a workbook's texts, unzipped
	largestPart    = 8 << 20   // bytes of any other part of a workbook, such as its styles
	largestRest    = 32 << 20  // bytes of all of those together
	largestBundled = 64 << 20  // bytes of one file of a bundle, unzipped
	inMemory       = 4 << 20   // bytes of a part of a workbook that are not put on disk
)

// ErrTooMuch comes with what there is too much of.
var ErrTooMuch = errors.New("the file is too large to be read at once; split it")

// spend counts a row of cells that is to be kept.
func (t *Table) spend(columns int, cells []string) error {
	if columns > mostColumns {
		return fmt.Errorf("%w: a row has %d columns, and no more than %d are read", ErrTooMuch, columns, mostColumns)
	}
	t.cells += columns
	for _, c := range cells {
		t.text += len(c)
	}
	switch {
	case t.cells > mostCells:
		return fmt.Errorf("%w: it has more than %d cells (rows × columns)", ErrTooMuch, mostCells)
	case t.text > mostText:
		return fmt.Errorf("%w: its cells hold more than %d MB of text", ErrTooMuch, mostText>>20)
	}
	return nil
}

// checkLines refuses a text with a line that has far more cells than are read,
// before anything is made of it. A comma within a cell counts too.
func checkLines(file []byte, delimiter rune) error {
	const most = 20 * mostColumns
	for n := 1; len(file) > 0; n++ {
		line, rest, _ := bytes.Cut(file, []byte("\n"))
		if count := bytes.Count(line, []byte(string(delimiter))); count > most {
			return fmt.Errorf("%w: line %d has %d cells, and no more than %d are read", ErrTooMuch, n, count+1, mostColumns)
		}
		file = rest
	}
	return nil
}

// checkParts refuses a workbook with a part that takes too much memory. The sizes
// are those that the file claims; unzipping ends there.
func checkParts(z *zip.Reader) error {
	var rest uint64
	for _, f := range z.File {
		name, size := strings.ToLower(f.Name), f.UncompressedSize64
		switch {
		case strings.HasPrefix(name, "xl/worksheets/sheet"):
			if size > largestSheet {
				return fmt.Errorf("%w: a sheet has more than %d MB", ErrTooMuch, largestSheet>>20)
			}
			continue
		case name == "xl/sharedstrings.xml":
			if size > largestStrings {
				return fmt.Errorf("%w: its texts have more than %d MB", ErrTooMuch, largestStrings>>20)
			}
			continue
		case strings.HasSuffix(name, ".xml") && size > largestPart:
			return fmt.Errorf("%w: %s has more than %d MB", ErrTooMuch, f.Name, largestPart>>20)
		}
		rest += size
	}
	if rest > largestRest {
		return fmt.Errorf(
			"%w: besides its sheets it holds more than %d MB, such as pictures; save it without them, or as CSV", ErrTooMuch,
			largestRest>>20,
		)
	}
	return nil
}
