package exchange

import "strings"

// formulaStarts are the characters with which a spreadsheet takes a cell for
// something to compute.
const formulaStarts = "=+-@\t\r"

// guard puts an apostrophe before a cell that a spreadsheet would compute. A
// telephone number, though it begins with a plus sign, is left as it is.
func guard(cell string) string {
	if cell == "" || !strings.Contains(formulaStarts, cell[:1]) {
		return cell
	}
	if cell[0] == '+' && strings.Trim(cell[1:], "0123456789 ;+") == "" {
		return cell
	}
	return "'" + cell
}

// unguard takes the apostrophe of guard away again, and the formula with which other
// programs keep a spreadsheet from reckoning: ="+49 …".
func unguard(cell string) string {
	if text, ok := strings.CutPrefix(cell, `="`); ok && strings.HasSuffix(text, `"`) {
		return strings.TrimSuffix(text, `"`)
	}
	if len(cell) > 1 && cell[0] == '\'' && strings.Contains(formulaStarts, cell[1:2]) {
		return cell[1:]
	}
	return cell
}
