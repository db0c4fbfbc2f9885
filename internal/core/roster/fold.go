package roster

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// strokes are letters whose mark is part of the letter and does not come off.
var strokes = strings.NewReplacer("ł", "l", "đ", "d", "ø", "o", "ß", "ss", "æ", "ae", "œ", "oe", "ı", "i", "ħ", "h")

// Fold makes words that people would call the same equal: without case, marks
// and punctuation.
func Fold(s string) string {
	plain := true
	for i := range len(s) {
		if c := s[i]; c >= 0x80 {
			plain = false
			break
		}
	}
	if !plain {
		s = norm.NFKD.String(s) // what it takes apart may have capitals
	}
	s = strings.ToLower(s)
	if !plain {
		s = strokes.Replace(s)
	}
	var b strings.Builder
	b.Grow(len(s))
	gap := false
	for _, r := range s {
		switch {
		case unicode.Is(unicode.Mn, r) || r == '\'' || r == '’':
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if gap && b.Len() > 0 {
				b.WriteByte(' ')
			}
			gap = false
			b.WriteRune(r)
		default:
			gap = true
		}
	}
	return b.String()
}
