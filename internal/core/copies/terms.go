package copies

import (
	"strings"
	"unicode/utf8"

	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/phrase"
)

// Term is how a term of the organisation is said in a language.
type Term struct {
	Term     string
	Language string // BCP 47
	Says     string // the term itself when it stays as it is
	Note     string
}

// LongestTerm is the most characters of a term, and of how it is said.
const LongestTerm = 200

// Tidied is a term as it is kept; false for one that is none.
func (t Term) Tidied() (Term, bool) {
	tidy := func(text string) string { return strings.Join(strings.Fields(entry.CleanText(text)), " ") }
	t.Term, t.Says, t.Note = tidy(t.Term), tidy(t.Says), tidy(t.Note)
	tag, ok := phrase.Tag(t.Language)
	t.Language = tag
	fits := func(text string) bool { return text != "" && utf8.RuneCountInString(text) <= LongestTerm }
	return t, ok && fits(t.Term) && fits(t.Says) && utf8.RuneCountInString(t.Note) <= LongestTerm
}
