package copies

import (
	"slices"
	"strings"
	"time"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"
	"upperlantern/internal/core/phrase"
)

// Saying is what a reader says how a line is right.
type Saying struct {
	Reader string
	Text   string
	At     time.Time
}

// Differs reports whether a saying stands beside a line: it says otherwise, and nobody
// has decided since.
func (t Target) Differs(s Saying) bool {
	return s.Text != t.Text && (!t.Checked() || t.CheckedAt.Before(s.At))
}

// Heard is the line after a reader said how it is right, who had a text before them
// and had said something earlier ("" when nothing). Others are what other readers said
// of it. Readers may have the same name: a check is their own if it is of what they said.
func (t Target) Heard(s Saying, seen, earlier string, others []Saying) Target {
	theirs := t.CheckedBy == s.Reader && t.Text == earlier
	mayChange := t.Text == seen && (!t.Checked() || theirs)
	if s.Text != t.Text && !mayChange {
		t.CheckedBy, t.CheckedAt = "", time.Time{}
		return t
	}
	disputed := slices.ContainsFunc(others, func(o Saying) bool { return o.Text != s.Text && t.Differs(o) })
	if s.Text != t.Text {
		t.Text, t.Source, t.By, t.At = s.Text, Person, s.Reader, s.At
		t.CheckedBy, t.CheckedAt = "", time.Time{}
	}
	if !t.Checked() && !disputed {
		t.CheckedBy, t.CheckedAt = s.Reader, s.At
	}
	return t
}

// Reads reports whether languages as somebody typed them, with commas between them,
// name a language (BCP 47): by tag, English name or own name.
func Reads(typed, tag string) bool {
	if typed == "" {
		return false // as it is of most people
	}
	wanted := language.Make(tag)
	base, _ := wanted.Base()
	names := []string{
		display.English.Tags().Name(wanted), display.English.Languages().Name(base), display.Self.Name(wanted),
		display.Self.Name(language.Make(base.String())),
	}
	for name := range strings.FieldsFuncSeq(typed, func(r rune) bool { return strings.ContainsRune(",;/،、", r) }) {
		name = strings.TrimSpace(name)
		if slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, name) }) {
			return true
		}
		if named, ok := phrase.Tag(name); ok && SameLanguage(named, tag) {
			return true
		}
	}
	return false
}
