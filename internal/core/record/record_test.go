package record_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/delivery"
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
		{"answered", states{delivery.Opened, delivery.Answered}, record.Reached, delivery.Answered},
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
			f.Count(states)
		}
		require.Equal(t, len(recipients), f.Recipients)
		require.Equal(t, f.Recipients, f.Reached+f.Waiting+f.NotReached+f.Stopped)
		require.LessOrEqual(t, f.Answered, f.Reached)
	})
}

func TestFailures(t *testing.T) {
	assert.Equal(t, []record.Failure{
		{Detail: "mailbox full", Deliveries: 2},
		{Detail: "no such number", Deliveries: 1},
		{Detail: "the text gateway does not answer", Deliveries: 1, Retrying: true},
	}, record.Failures([]record.Heard{
		{State: delivery.Failed, Detail: "no such number"},
		{State: delivery.Failed, Detail: "mailbox full"},
		{State: delivery.Arrived, Detail: "in the mailbox"},
		{State: delivery.Retrying, Detail: "the text gateway does not answer"},
		{State: delivery.Failed, Detail: "mailbox full"},
	}))
}
