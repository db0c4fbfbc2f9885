package sending

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
)

// A line is examined anew when the glossary changes, and not before.
func TestLinesAreExaminedOnce(t *testing.T) {
	var e examined
	l := lines.Line{Text: "Meet at Harrow Lock."}
	none := copies.Examiner{From: "en"}
	assert.False(t, e.by(none)(l, "Spotkanie przy śluzie.", "pl"))
	assert.Len(t, e.doubtful, 1)
	assert.False(t, e.by(none)(l, "Spotkanie przy śluzie.", "pl"))
	assert.Len(t, e.doubtful, 1, "it is known")
	terms := copies.Examiner{From: "en", Terms: []copies.Term{{Term: "Harrow Lock", Language: "pl", Says: "Harrow Lock"}}}
	assert.True(t, e.by(terms)(l, "Spotkanie przy śluzie.", "pl"))
	assert.False(t, e.by(terms)(l, "Spotkanie przy Harrow Lock.", "pl"))
}
