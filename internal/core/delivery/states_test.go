package delivery_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
)

func TestWhatAStateSays(t *testing.T) {
	for _, c := range []struct {
		state                  delivery.State
		here, waiting, reached bool
	}{
		{delivery.Held, true, true, false}, {delivery.Queued, true, true, false}, {delivery.Retrying, true, true, false},
		{delivery.Undecided, false, true, false}, {delivery.Carrier, false, true, false},
		{delivery.Expired, false, false, false}, {delivery.Failed, false, false, false},
		{delivery.Stopped, false, false, false}, {delivery.Arrived, false, false, true},
		{delivery.Opened, false, false, true}, {delivery.Answered, false, false, true},
	} {
		t.Run(string(c.state), func(t *testing.T) {
			assert.True(t, c.state.Valid())
			assert.Equal(t, c.here, c.state.Here())
			assert.Equal(t, c.waiting, c.state.Waiting())
			assert.Equal(t, c.reached, c.state.Reached())
			shown := c.state
			if c.here {
				shown = delivery.Held
			}
			assert.Equal(t, shown, c.state.Of(true), "while its message is held")
			assert.Equal(t, c.state, c.state.Of(false))
		})
	}
	assert.False(t, delivery.State("lost").Valid())
}

func TestWhatBecomesOfAnInterruptedHandOver(t *testing.T) {
	for name, c := range map[string]struct {
		was            delivery.State
		channel        roster.Channel
		stopped, again bool
		want           delivery.State
	}{
		"its wire has no keys":              {delivery.Queued, roster.Email, false, false, delivery.Undecided},
		"stopped, and it may have left":     {delivery.Queued, roster.Email, true, false, delivery.Undecided},
		"always sent again":                 {delivery.Queued, roster.Email, false, true, delivery.Queued},
		"always sent again, but stopped":    {delivery.Queued, roster.Email, true, true, delivery.Stopped},
		"its carrier knows keys":            {delivery.Queued, roster.Text, false, false, delivery.Queued},
		"tried before":                      {delivery.Retrying, roster.Push, false, false, delivery.Retrying},
		"stopped":                           {delivery.Retrying, roster.Voice, true, false, delivery.Stopped},
		"a report came meanwhile":           {delivery.Arrived, roster.Email, false, false, delivery.Arrived},
		"a report came, and it was stopped": {delivery.Opened, roster.Text, true, false, delivery.Opened},
		"it failed meanwhile":               {delivery.Failed, roster.Email, false, true, delivery.Failed},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Equal(t, c.want, c.was.Abandoned(c.channel, c.stopped, c.again))
		})
	}
}

func TestWhichWaysSpeakForAChannel(t *testing.T) {
	speaks := map[delivery.Via][]roster.Channel{
		delivery.ViaMail: {roster.Email}, delivery.ViaGateway: {roster.Text, roster.Voice}, delivery.ViaDevice: {roster.Push},
		"hearsay": nil,
	}
	for via, channels := range speaks {
		var list []roster.Channel
		for _, c := range roster.Channels {
			if via.Speaks(c) {
				list = append(list, c)
			}
		}
		assert.Equal(t, channels, list, via)
	}
}

func TestWaits(t *testing.T) {
	for _, c := range []struct {
		attempts int
		jitter   float64
		wait     time.Duration
	}{
		{0, 0, 5 * time.Second}, {1, 0, 5 * time.Second}, {2, 0, 10 * time.Second}, {4, 0, 40 * time.Second},
		{1, 1, 2500 * time.Millisecond}, {3, 0.5, 15 * time.Second}, {99, 0, 15 * time.Minute},
	} {
		assert.Equal(t, c.wait, delivery.Wait(c.attempts, c.jitter), "%d tries, jitter %v", c.attempts, c.jitter)
	}
}

func TestGivingUpIsAfterADay(t *testing.T) {
	queued := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	f := delivery.Failure{Attempts: 1, QueuedAt: queued}
	state, due := f.Next(queued.Add(delivery.GiveUpAfter-5*time.Second), 0)
	assert.Equal(t, delivery.Retrying, state, "just in time")
	assert.Equal(t, queued.Add(delivery.GiveUpAfter), due)
	state, _ = f.Next(queued.Add(delivery.GiveUpAfter-5*time.Second+1), 0)
	assert.Equal(t, delivery.Expired, state)
}

func TestTheLimitsOfAReport(t *testing.T) {
	now := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	month := now.Add(-30 * 24 * time.Hour)
	assert.Equal(t, now, delivery.Report{OccurredAt: now}.Bounded(now).OccurredAt)
	assert.Equal(t, month, delivery.Report{OccurredAt: month}.Bounded(now).OccurredAt)
	assert.Equal(t, now, delivery.Report{OccurredAt: month.Add(-1)}.Bounded(now).OccurredAt)
	whole := strings.Repeat("ł", 300)
	assert.Equal(t, whole, delivery.Report{Detail: whole}.Bounded(now).Detail)
	assert.Equal(t, strings.Repeat("ł", 299)+"…", delivery.Report{Detail: whole + "x"}.Bounded(now).Detail)
}

func TestWhatSaysTheSameIsOneContent(t *testing.T) {
	a := delivery.Content{Channel: roster.Email, Body: "Come", HTML: `<img src="` + delivery.ContentID("abc") + `">`}
	one, err := a.Hash()
	require.NoError(t, err)
	again, err := delivery.Content{Channel: roster.Email, Body: "Come", HTML: a.HTML}.Hash()
	require.NoError(t, err)
	assert.Equal(t, one, again)
	a.Parts.ReplyTo = "office@example.org"
	other, err := a.Hash()
	require.NoError(t, err)
	assert.NotEqual(t, one, other)
	assert.True(t, a.Shows(attachment.File{Hash: "abc"}))
	assert.False(t, a.Shows(attachment.File{Hash: "def"}))
}
