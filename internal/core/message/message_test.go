package message_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

func TestTextFollowsTheEmailUntilItIsItsOwn(t *testing.T) {
	d := message.Draft{
		Content: message.Content{Email: rich.Lines(" Meet at the lock.\n")},
	}
	assert.Equal(t, "Meet at the lock.", d.TextBody())
	assert.True(t, d.Has(roster.Voice), "voice reads the text aloud")
	d.OwnText = true
	assert.False(t, d.Has(roster.Text), "its own text is empty")
	assert.True(t, d.Has(roster.Email))
}

func TestTitle(t *testing.T) {
	assert.Equal(t, "Untitled", message.Draft{}.Title())
	assert.Equal(t, "Outing", message.Draft{
		Content: message.Content{Subject: " Outing "},
	}.Title())
	assert.Equal(t, "First line", message.Draft{
		Content: message.Content{Email: rich.Lines("First line\nsecond")},
	}.Title())
	assert.Len(t, []rune(message.Draft{
		Content: message.Content{Email: rich.Lines(strings.Repeat("ł", 200))},
	}.Title()), 61)
}

func TestValidate(t *testing.T) {
	require.NoError(t, message.Draft{
		Routing: message.Routing{Urgency: roster.Routine},
	}.Validate())
	for name, c := range map[string]struct {
		draft message.Draft
		want  string
	}{
		"no urgency": {message.Draft{}, "urgency"},
		"a step twice": {message.Draft{
			Routing: message.Routing{Urgency: roster.Timely, Steps: precedence.Steps{{roster.Text}, {roster.Text}}},
		}, "steps: text is on step 1 and again on step 2"},
		"too long an email": {message.Draft{
			Content: message.Content{Email: rich.Lines(strings.Repeat("x", 20_001))},
			Routing: message.Routing{Urgency: roster.Timely},
		}, "email: 20001 characters"},
	} {
		t.Run(name, func(t *testing.T) { require.ErrorContains(t, c.draft.Validate(), c.want) })
	}
}

func TestMoveOn(t *testing.T) {
	last := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		name   string
		on     message.MoveOn
		states []delivery.State
		after  time.Duration
		want   bool
	}{
		{"never", message.MoveOn{}, []delivery.State{delivery.Failed}, time.Hour, false},
		{"everything failed", message.MoveOn{Failed: true}, []delivery.State{delivery.Failed, delivery.Expired}, 0, true},
		{"one is still under way", message.MoveOn{Failed: true}, []delivery.State{delivery.Failed, delivery.Carrier}, time.Hour, false},
		{"one arrived", message.MoveOn{Failed: true, Minutes: 5}, []delivery.State{delivery.Failed, delivery.Arrived}, time.Hour, false},
		{"not yet", message.MoveOn{Minutes: 30}, []delivery.State{delivery.Carrier}, 29 * time.Minute, false},
		{"too long", message.MoveOn{Minutes: 30}, []delivery.State{delivery.Carrier}, 30 * time.Minute, true},
		{"arrived, not answered", message.MoveOn{Minutes: 30, Answered: true}, []delivery.State{delivery.Opened}, time.Hour, true},
		{"answered", message.MoveOn{Minutes: 30, Answered: true}, []delivery.State{delivery.Answered}, time.Hour, false},
		{"stopped", message.MoveOn{Failed: true, Minutes: 30}, []delivery.State{delivery.Stopped}, time.Hour, false},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, c.on.Due(c.states, last, last.Add(c.after))) })
	}
}
