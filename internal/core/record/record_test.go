package record_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/record"
)

func TestOutcome(t *testing.T) {
	type states = []delivery.State
	for _, c := range []struct {
		name   string
		states states
		want   record.Outcome
		best   delivery.State
	}{
		{"one arrival is enough", states{delivery.Failed, delivery.Arrived}, record.Reached, delivery.Arrived},
		{"under way comes before a failure", states{delivery.Failed, delivery.Carrier}, record.Waiting, delivery.Carrier},
		{"all failed", states{delivery.Failed, delivery.Expired}, record.NotReached, delivery.Expired},
		{"stopped is no failure", states{delivery.Failed, delivery.Stopped}, record.Stopped, delivery.Stopped},
		{"tried again is waiting", states{delivery.Retrying}, record.Waiting, delivery.Retrying},
		{"answered", states{delivery.Opened, delivery.Answered}, record.Answered, delivery.Answered},
	} {
		t.Run(c.name, func(t *testing.T) {
			assert.Equal(t, c.want, record.Of(c.states))
			assert.Equal(t, c.best, record.Best(c.states))
		})
	}
}

func TestFiguresAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		recipients := rapid.SliceOf(rapid.SliceOfN(rapid.SampledFrom(delivery.States), 1, 5)).Draw(t, "recipients")
		var f record.Figures
		for _, states := range recipients {
			f.AddRecipients(record.Of(states), 1)
		}
		require.Equal(t, len(recipients), f.Recipients)
		require.Equal(t, f.Recipients, f.Reached+f.Waiting+f.NotReached+f.Stopped)
		require.LessOrEqual(t, f.Answered, f.Reached)
	})
}

// Counting every change comes to the same as counting everything anew.
func TestFiguresFollowEveryChange(t *testing.T) {
	kept := rapid.SampledFrom(delivery.States[1:]) // no delivery is kept as held
	rapid.Check(t, func(t *rapid.T) {
		states := rapid.SliceOfN(kept, 1, 6).Draw(t, "states")
		var followed, anew record.Figures
		for i, s := range states {
			followed.AddDelivery(s, money.Amount(i))
		}
		followed.AddRecipients(record.Of(states), 1)
		for range rapid.IntRange(0, 8).Draw(t, "changes") {
			i, to := rapid.IntRange(0, len(states)-1).Draw(t, "which"), kept.Draw(t, "to")
			from, was := states[i], record.Of(states)
			states[i] = to
			followed.MoveDelivery(from, to, money.Amount(i))
			if now := record.Of(states); now != was {
				require.False(t, record.SameOutcome(from, to))
				followed.AddRecipients(was, -1)
				followed.AddRecipients(now, 1)
			}
		}
		for i, s := range states {
			anew.AddDelivery(s, money.Amount(i))
		}
		anew.AddRecipients(record.Of(states), 1)
		require.Equal(t, anew, followed)
		require.Equal(t, followed.Planned >= followed.Spent+followed.Saved, true)
	})
}
