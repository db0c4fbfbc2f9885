package incoming_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"upperlantern/internal/core/incoming"
)

// What its writer wrote counts; signature and quotation are folded away, and kept.
func TestFold(t *testing.T) {
	for name, c := range map[string]struct{ text, said, folded string }{
		"nothing else": {"We will come.\n\nAna", "We will come.\n\nAna", ""},
		"a quotation below": {
			"We will come.\n\nOn Thu, 26 Nov 2026 at 18:30, Quillmere wrote:\n> Meet at the lock.\n> Bring boots.\n",
			"We will come.", "On Thu, 26 Nov 2026 at 18:30, Quillmere wrote:\n> Meet at the lock.\n> Bring boots.",
		},
		"an introduction in two lines": {
			"Tak.\n\nW dniu 26.11.2026 o 18:30 Quillmere Rowing Club <office@example.org>\nnapisał(a):\n\n> Meet",
			"Tak.", "W dniu 26.11.2026 o 18:30 Quillmere Rowing Club <office@example.org>\nnapisał(a):\n\n> Meet",
		},
		"a quotation above": {"> Will you come?\n\nYes, both of us.", "Yes, both of us.", "> Will you come?"},
		"words between quotations": {
			"> Will you come?\nYes.\n> By car?\nNo.", "> Will you come?\nYes.\n> By car?\nNo.", "",
		},
		"a signature": {"Thank you\n-- \nAna\nFen Row 3", "Thank you", "-- \nAna\nFen Row 3"},
		"an earlier message between dashes": {
			"Fine with us\r\n\r\n-----Original Message-----\r\nFrom: Quillmere\r\nMeet at the lock", "Fine with us",
			"-----Original Message-----\nFrom: Quillmere\nMeet at the lock",
		},
		"a long rule":          {"نعم\n________________________________\nFrom: Quillmere", "نعم", "________________________________\nFrom: Quillmere"},
		"a colon of their own": {"These can come:\nAna\nBo", "These can come:\nAna\nBo", ""},
		"only a quotation":     {"> Meet at the lock.", "", "> Meet at the lock."},
		"nothing":              {"", "", ""},
	} {
		t.Run(name, func(t *testing.T) {
			said, folded := incoming.Fold(c.text)
			assert.Equal(t, c.said, said)
			assert.Equal(t, c.folded, folded)
		})
	}
}

// Folding loses no line.
func TestFoldLosesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		line := rapid.SampledFrom([]string{"words", "> quoted", "", "--", "-- ", "On Thursday Ana wrote:", "____________", "wrote:"})
		lines := rapid.SliceOfN(line, 0, 12).Draw(t, "lines")
		said, folded := incoming.Fold(strings.Join(lines, "\n"))
		count := func(text string) int { return len(strings.Fields(text)) }
		assert.Equal(t, count(strings.Join(lines, "\n")), count(said)+count(folded))
	})
}

func FuzzFold(f *testing.F) {
	f.Add("We will come.\n\nOn Thursday Ana wrote:\n> Meet\n-- \nBo")
	f.Fuzz(func(t *testing.T, text string) {
		said, folded := incoming.Fold(text)
		if len(said)+len(folded) > len(text)+2 {
			t.Fatalf("%q became %q and %q", text, said, folded)
		}
	})
}

// A text means one of the words only when it says nothing else.
func TestWordOf(t *testing.T) {
	for name, c := range map[string]struct {
		text      string
		languages []string
		word      incoming.Word
	}{
		"as the networks have it":          {"STOP", nil, incoming.Stop},
		"with a full stop and blanks":      {"  Stop. ", nil, incoming.Stop},
		"in two words":                     {"Stop all", nil, incoming.Stop},
		"in Arabic":                        {"إيقاف", []string{"ar"}, incoming.Stop},
		"in Arabic that nobody reads":      {"إيقاف", []string{"pl"}, ""},
		"in Vietnamese without marks":      {"dung", []string{"vi"}, incoming.Stop},
		"in Portuguese of Brazil":          {"Sair!", []string{"pt-BR"}, incoming.Stop},
		"start":                            {"start", nil, incoming.Start},
		"help in Polish":                   {"POMOC", []string{"pl"}, incoming.Help},
		"a sentence with the word":         {"Please stop at the lock", nil, ""},
		"a question with the word":         {"Where does the bus stop?", nil, ""},
		"nothing":                          {"", nil, ""},
		"a long text that begins like one": {"stop" + strings.Repeat(" ", 80) + "stop", nil, ""},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.word, incoming.WordOf(c.text, c.languages)) })
	}
}

// RFC 3834 and its fellows.
func TestAutomatic(t *testing.T) {
	for name, c := range map[string]struct {
		header    incoming.Header
		automatic bool
	}{
		"somebody wrote it":         {incoming.Header{}, false},
		"it says that somebody did": {incoming.Header{AutoSubmitted: "no"}, false},
		"out of office":             {incoming.Header{AutoSubmitted: "auto-replied; owner-email=\"ana@example.org\""}, true},
		"made by a program":         {incoming.Header{AutoSubmitted: "Auto-Generated"}, true},
		"bulk":                      {incoming.Header{Precedence: "Bulk"}, true},
		"of a list":                 {incoming.Header{List: true}, true},
		"from nobody":               {incoming.Header{Nobody: true}, true},
		"first class":               {incoming.Header{Precedence: "first-class"}, false},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.automatic, c.header.Automatic()) })
	}
}

func TestWhatIsLongIsCut(t *testing.T) {
	text, cut := incoming.Cut(strings.Repeat("é", incoming.LongestText))
	assert.False(t, cut)
	assert.Len(t, []rune(text), incoming.LongestText)
	text, cut = incoming.Cut(text + "é")
	assert.True(t, cut)
	assert.Len(t, []rune(text), incoming.LongestText)
}
