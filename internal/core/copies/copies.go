// Package copies holds what a message says in other languages: where each line of a
// copy came from, how far a copy can be trusted, and who gets which.
package copies

import (
	"strings"
	"time"

	"golang.org/x/text/language"

	"upperlantern/internal/core/lines"
)

// Source is where a target came from.
type Source string

// Sources of a target.
const (
	Person  Source = "person"
	Memory  Source = "memory"  // it was checked before, word for word
	Adapted Source = "adapted" // from the memory, with other numbers, times, dates or fields
	Machine Source = "machine" // the translation service
)

// Sources lists them all.
var Sources = []Source{Person, Memory, Adapted, Machine}

// Target is how one line is said in another language.
type Target struct {
	Original  lines.Line
	Text      string
	Source    Source
	By        string // who or what filled it
	At        time.Time
	CheckedBy string // "" while nobody read it
	CheckedAt time.Time
}

// Checked reports whether a person read it and found it right.
func (t Target) Checked() bool { return t.CheckedBy != "" }

// Copy is what was filled of a message in one language, stale lines among it.
type Copy struct {
	Language string            // BCP 47
	Targets  map[string]Target // by the key of the original
}

// State is how far a copy is.
type State string

// States of a copy.
const (
	Checked    State = "checked"    // somebody read every line
	Unchecked  State = "unchecked"  // every line is filled
	Incomplete State = "incomplete" // a line is missing
)

// States lists them all, the best first.
var States = []State{Checked, Unchecked, Incomplete}

// Standing is how far a copy is, in lines.
type Standing struct {
	State    State
	Lines    int // of the message
	Filled   int
	Checked  int
	Doubtful int // filled, not checked, and suspicious
	By       []string
}

// Doubtful reports whether how a line is said in a language is suspicious.
type Doubtful func(l lines.Line, said, language string) bool

// Standing looks at a copy beside the lines of its message as it is now.
func (c Copy) Standing(message []lines.Standing, doubtful Doubtful) Standing {
	s := Standing{State: Checked, Lines: len(message)}
	said := map[string]bool{}
	for _, l := range message {
		t, ok := c.Targets[l.Key()]
		switch {
		case !ok || t.Text == "":
			continue
		case t.Checked():
			s.Checked++
			if !said[t.CheckedBy] {
				said[t.CheckedBy] = true
				s.By = append(s.By, t.CheckedBy)
			}
		case doubtful(l.Line, t.Text, c.Language):
			s.Doubtful++
		}
		s.Filled++
	}
	switch {
	case s.Filled < s.Lines:
		s.State = Incomplete
	case s.Checked < s.Lines:
		s.State = Unchecked
	}
	return s
}

// Say says the lines of a message in the language of the copy.
func (c Copy) Say(_ lines.Face, l lines.Line) (string, bool) {
	t, ok := c.Targets[l.Key()]
	return t.Text, ok && t.Text != ""
}

// Lookup finds the copy for a language that somebody reads among the languages there
// are (RFC 4647 §3.4); false when there is none.
func Lookup(reads string, there func(tag string) bool) (string, bool) {
	if reads == "" {
		return "", false
	}
	parsed, err := language.Parse(reads)
	if err != nil {
		return "", false
	}
	for tag := parsed.String(); tag != ""; {
		if there(tag) {
			return tag, true
		}
		at := strings.LastIndexByte(tag, '-')
		if at < 0 {
			break
		}
		tag = tag[:at]
		// A single letter belongs to what comes after it.
		if n := len(tag); n > 2 && tag[n-2] == '-' {
			tag = tag[:n-2]
		}
	}
	return "", false
}

// SameLanguage reports whether whoever reads one tag reads the other; regions do not
// matter for that.
func SameLanguage(a, b string) bool {
	first, _ := language.Make(a).Base()
	second, _ := language.Make(b).Base()
	return first == second
}
