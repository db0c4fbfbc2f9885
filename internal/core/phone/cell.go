package phone

import (
	"errors"
	"regexp"
	"strings"
	"unicode"
)

// Typed is a number of a cell with what stands beside it.
type Typed struct {
	Number    string
	Extension string // digits, or ""
	Remark    string // such as “work” or “mum”, or ""
}

// ErrMangled means that a spreadsheet kept the first digits of a number only.
var ErrMangled = errors.New("was shortened by a spreadsheet, and its last digits are gone: make the column text there, and save it again")

var (
	mangled    = regexp.MustCompile(`^[+-]?\d+([.,]\d+)?[eE]\+?\d+$`)
	between    = regexp.MustCompile(`[;|\n]|\s/\s|\s(?:or|and|und|oder|ou|et|y|lub|i|або|та|e|o)\s`)
	loosely    = regexp.MustCompile(`[/,]`)
	bracketed  = regexp.MustCompile(`[(\[]([^()\[\]\d]*\p{L}[^()\[\]\d]*)[)\]]`)
	extension  = regexp.MustCompile(`(?i)[,;]?\s*(?:\bext(?:ension|n)?\b\.?|x|;ext=|#|\bdurchwahl\b|\bdw\b\.?|\bapp\b\.?|\bposte\b|\bramal\b|\bwew\b\.?|дод\.?)\s*[.:=]?\s*(\d{1,6})\s*$`)
	wordsFirst = regexp.MustCompile(`^[\p{L}\p{M}][\p{L}\p{M}\s.'’-]*[:.\s]\s*`)
	wordsLast  = regexp.MustCompile(`[\s:,-]+([\p{L}\p{M}][\p{L}\p{M}\s.'’-]*)$`)
)

// fewestDigits is how many digits each side of a slash or a comma has that parts two
// numbers: “020 7946 0001/2” is one.
const fewestDigits = 7

// Mangled reports whether a cell is a number of which a spreadsheet kept the first
// digits only, such as 4,91712E+11.
func Mangled(cell string) bool { return mangled.MatchString(strings.TrimSpace(cell)) }

// Cell takes a cell apart that may hold several numbers with remarks, such as
// “07700 900827 (mum) / 07700 900828 work ext. 9”.
func Cell(cell string) []Typed {
	if number := strings.TrimSpace(cell); number != "" && strings.Trim(number, "+0123456789 -()") == "" {
		return []Typed{{Number: number}} // as nearly all are
	}
	var list []Typed
	cell = strings.ReplaceAll(cell, ";ext=", " ext ") // RFC 3966
	for _, part := range between.Split(cell, -1) {
		for _, one := range halves(part) {
			if t := typedOf(one); t.Number != "" {
				list = append(list, t)
			}
		}
	}
	return list
}

// halves parts a text at slashes and commas between which whole numbers stand.
func halves(part string) []string {
	pieces := loosely.Split(part, -1)
	for _, p := range pieces {
		if digitsIn(p) < fewestDigits {
			return []string{part}
		}
	}
	return pieces
}

func digitsIn(s string) int {
	n := 0
	for _, r := range s {
		if unicode.IsDigit(r) {
			n++
		}
	}
	return n
}

func typedOf(text string) Typed {
	var t Typed
	var remarks []string
	text = bracketed.ReplaceAllStringFunc(text, func(found string) string {
		remarks = append(remarks, strings.Trim(found, "()[] "))
		return " "
	})
	text = strings.TrimSpace(text)
	if m := extension.FindStringSubmatchIndex(text); m != nil && digitsIn(text[:m[0]]) >= fewestDigits-2 {
		t.Extension, text = text[m[2]:m[3]], strings.TrimSpace(text[:m[0]])
	}
	if m := wordsFirst.FindString(text); m != "" {
		remarks = append(remarks, strings.Trim(m, " :."))
		text = strings.TrimSpace(text[len(m):])
	}
	if m := wordsLast.FindStringSubmatchIndex(text); m != nil {
		remarks = append(remarks, strings.Trim(text[m[2]:m[3]], " :."))
		text = strings.TrimSpace(text[:m[0]])
	}
	t.Number, t.Remark = strings.Trim(text, " ,:"), strings.Join(remarks, ", ")
	return t
}
