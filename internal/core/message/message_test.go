package message_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/message"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

func TestTextFollowsTheEmailUntilItIsItsOwn(t *testing.T) {
	d := message.Draft{Email: rich.Lines(" Meet at the lock.\n")}
	assert.Equal(t, "Meet at the lock.", d.TextBody())
	assert.True(t, d.Has(roster.Voice), "voice reads the text aloud")
	d.OwnText = true
	assert.False(t, d.Has(roster.Text), "its own text is empty")
	assert.True(t, d.Has(roster.Email))
}

func TestTitle(t *testing.T) {
	assert.Equal(t, "Untitled", message.Draft{}.Title())
	assert.Equal(t, "Outing", message.Draft{Subject: " Outing "}.Title())
	assert.Equal(t, "First line", message.Draft{Email: rich.Lines("First line\nsecond")}.Title())
	assert.Len(t, []rune(message.Draft{Email: rich.Lines(strings.Repeat("ł", 200))}.Title()), 61)
}

func TestValidate(t *testing.T) {
	require.NoError(t, message.Draft{Urgency: roster.Routine}.Validate())
	for name, c := range map[string]struct {
		draft message.Draft
		want  string
	}{
		"no urgency":        {message.Draft{}, "urgency"},
		"a step twice":      {message.Draft{Urgency: roster.Timely, Steps: precedence.Steps{{roster.Text}, {roster.Text}}}, "steps: text is on step 1 and again on step 2"},
		"too long an email": {message.Draft{Urgency: roster.Timely, Email: rich.Lines(strings.Repeat("x", 20_001))}, "email: 20001 characters"},
	} {
		t.Run(name, func(t *testing.T) { require.ErrorContains(t, c.draft.Validate(), c.want) })
	}
}
