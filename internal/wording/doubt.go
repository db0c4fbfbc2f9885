package wording

import (
	"strings"

	"upperlantern/internal/core/copies"
)

// doubts say what is suspicious about a line of a copy.
var doubts = map[copies.Code]string{
	copies.PlacesDiffer:  "Fields or formatting",
	copies.FiguresDiffer: "Numbers, times or dates",
	copies.PhonesDiffer:  "Telephone numbers",
	copies.LinksDiffer:   "Links or mail addresses",
	copies.TermMissed:    "The glossary",
	copies.StillOriginal: "This still says what the original says.",
	copies.OtherScript:   "This is not in the script of the language.",
	copies.OddLength:     "This is much longer or shorter than is usual.",
	copies.Unbalanced:    "A bracket or a quotation mark is left open.",
}

// Doubt says in a sentence what is suspicious about a line of a copy.
func Doubt(d copies.Doubt) string {
	what := doubts[d.Code]
	if d.Code == copies.TermMissed {
		return what + " says “" + strings.Join(d.Missing, "”, “") + "”."
	}
	switch {
	case len(d.Missing) > 0 && len(d.Added) > 0:
		return what + " differ: the original has " + strings.Join(d.Missing, ", ") + ", this has " + strings.Join(d.Added, ", ") + "."
	case len(d.Missing) > 0:
		return what + " are missing: " + strings.Join(d.Missing, ", ") + "."
	case len(d.Added) > 0:
		return what + " are not in the original: " + strings.Join(d.Added, ", ") + "."
	case d.Code == copies.PlacesDiffer:
		return "Formatting crosses, or ends before it begins."
	}
	return what
}
