package reading

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

var now = time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC)

// Whatever the reader reads, the request has a whole copy in it.
func TestARequestIsInTheReadersLanguage(t *testing.T) {
	o := store.Organisation{Name: "Quillmere Rowing Club & Flood Watch", Language: "en", TimeZone: "Europe/London"}
	for _, tag := range phrase.Languages() {
		t.Run(tag, func(t *testing.T) {
			q := requestOf(o, store.Reading{Language: "pl", Until: now}, contact{language: tag, person: 7}, "https://l.example/reading/x")
			require.NoError(t, q.draft.Validate())
			filled := q.filled(o.Name, now)
			if tag == "en" {
				assert.Empty(t, filled)
				return
			}
			require.Len(t, filled, 3, "the subject and two sentences; the link is no line")
			for _, f := range filled {
				assert.NotEqual(t, f.Original.Text, f.Text)
				assert.NotContains(t, f.Text, "{")
			}
		})
	}
	q := requestOf(o, store.Reading{Language: "ti", Until: now}, contact{person: 7}, "https://l.example/reading/x")
	assert.Empty(t, q.filled(o.Name, now), "without words in their language it is in the organisation's")
}

func TestARequestIsNeverReadAloud(t *testing.T) {
	for name, set := range map[string]map[roster.Urgency]precedence.Steps{
		"as usual": nil, "own steps": {roster.Timely: {{roster.Voice}, {roster.Voice, roster.Email}}},
	} {
		steps := showing(set)
		assert.NotEmpty(t, steps, name)
		for _, s := range steps {
			assert.NotEmpty(t, s)
			assert.NotContains(t, s, roster.Voice, name)
		}
	}
}
