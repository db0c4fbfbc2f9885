package seek_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/seek"
)

func TestWhatCannotBeLookedFor(t *testing.T) {
	for name, c := range map[string]struct {
		condition seek.Clause
		says      string
	}{
		"nothing to look at": {seek.Clause{On: "colour"}, `"colour" is nothing to look at`},
		"no words":           {seek.Clause{On: seek.OnWords, Value: " …! "}, "no word in it"},
		"no account":         {seek.Clause{On: seek.OnSender}, "no sender is named"},
		"an unknown urgency": {seek.Clause{On: seek.OnUrgency, Value: "soon"}, "none of routine, timely, emergency"},
		"no such day":        {seek.Clause{On: seek.OnDays, From: "2026-02-30"}, "no day such as"},
		"neither day":        {seek.Clause{On: seek.OnDays}, "neither the first nor the last"},
		"days backwards":     {seek.Clause{On: seek.OnDays, From: "2026-03-02", Until: "2026-03-01"}, "comes after"},
		"no number of days":  {seek.Clause{On: seek.OnLast}, "how many days"},
		"no address":         {seek.Clause{On: seek.OnAddress, Value: " "}, "no address"},
	} {
		t.Run(name, func(t *testing.T) {
			err := seek.Search{Conditions: []seek.Clause{{On: seek.OnMissed}, c.condition}}.Validate()
			require.ErrorIs(t, err, seek.ErrUnfit)
			assert.ErrorContains(t, err, "condition 2: ")
			assert.ErrorContains(t, err, c.says)
		})
	}
	require.NoError(t, seek.Search{Conditions: []seek.Clause{
		{On: seek.OnWords, Value: "low water"}, {On: seek.OnDays, Until: "2026-03-01"}, {On: seek.OnState, Value: "draft", Not: true},
	}, Order: seek.Oldest}.Validate())
	require.ErrorContains(t, seek.Search{Order: "colour"}.Validate(), "no order")
}

// Days begin and end on the organisation's clocks, also where clocks change.
func TestDaysOnClocksThatChange(t *testing.T) {
	london, err := time.LoadLocation("Europe/London")
	require.NoError(t, err)
	from, until := seek.Clause{On: seek.OnDays, From: "2026-10-25", Until: "2026-10-25"}.Span(london, time.Time{})
	assert.Equal(t, 25*time.Hour, until.Sub(from), "clocks go back")
	from, until = seek.Clause{On: seek.OnDays, From: "2026-03-29", Until: "2026-03-29"}.Span(london, time.Time{})
	assert.Equal(t, 23*time.Hour, until.Sub(from), "clocks go forward")
	from, until = seek.Clause{On: seek.OnDays, Until: "2026-03-29"}.Span(london, time.Time{})
	assert.True(t, from.IsZero())
	assert.False(t, until.IsZero())
	now := time.Date(2026, 11, 2, 0, 30, 0, 0, time.UTC)
	from, until = seek.Clause{On: seek.OnLast, Days: 7}.Span(london, now)
	assert.Equal(t, "2026-10-27 00:00", from.Format("2006-01-02 15:04"))
	assert.Equal(t, "2026-11-03 00:00", until.Format("2006-01-02 15:04"))
}

func TestHowWordsAreFound(t *testing.T) {
	for text, want := range map[string]string{
		"Łódź: the FLOOD-gate’s shut": "lodz the flood gates shut",
		"明日の練習":                       "明 日 の 練 習",
		"U14 練習 at 08:30":             "u14 練 習 at 08 30",
		"نادي التجديف":                "نادي التجديف",
		"":                            "",
	} {
		assert.Equal(t, want, seek.Indexed(text), text)
	}
	assert.Equal(t, []string{"flood", "練 習"}, seek.Tokens("Flood 練習"))
}

// Whatever was written is found by any word of it.
func TestEveryWordOfATextIsInItsIndex(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.String().Draw(t, "text")
		index := " " + seek.Indexed(text) + " "
		for _, token := range seek.Tokens(text) {
			assert.Contains(t, index, token)
			assert.NotContains(t, token, `"`)
		}
		assert.Equal(t, strings.TrimSpace(index), seek.Indexed(seek.Indexed(text)))
	})
}

func FuzzTokens(f *testing.F) {
	f.Add(`low "water* NEAR(`)
	f.Fuzz(func(t *testing.T, typed string) {
		for _, token := range seek.Tokens(typed) {
			if strings.ContainsAny(token, `"*()`) {
				t.Fatal("something that a query could mean")
			}
		}
	})
}
