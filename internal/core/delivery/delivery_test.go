package delivery_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
)

func TestAdvance(t *testing.T) {
	for _, c := range []struct {
		name             string
		current, reports delivery.State
		want             delivery.State
	}{
		{"arrives", delivery.Carrier, delivery.Arrived, delivery.Arrived},
		{"the answer overtook the arrival", delivery.Answered, delivery.Arrived, delivery.Answered},
		{"a late report of the hand-over", delivery.Arrived, delivery.Carrier, delivery.Arrived},
		{"a failure after the arrival", delivery.Arrived, delivery.Failed, delivery.Arrived},
		{"an arrival after the carrier gave up", delivery.Failed, delivery.Arrived, delivery.Arrived},
		{"fails after hand-over", delivery.Carrier, delivery.Failed, delivery.Failed},
		{"a report overtakes the hand-over", delivery.Queued, delivery.Arrived, delivery.Arrived},
		{"it did leave before it was stopped", delivery.Stopped, delivery.Arrived, delivery.Arrived},
		{"the same again", delivery.Arrived, delivery.Arrived, delivery.Arrived},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, delivery.Advance(c.current, c.reports)) })
	}
}

// Whatever the order in which carriers' reports come, the delivery ends where
// the furthest of them says, unless two are equally far.
func TestAdvanceDoesNotDependOnOrder(t *testing.T) {
	reported := []delivery.State{delivery.Carrier, delivery.Failed, delivery.Arrived, delivery.Opened, delivery.Answered}
	rapid.Check(t, func(t *rapid.T) {
		reports := rapid.SliceOf(rapid.SampledFrom(reported)).Draw(t, "reports")
		shuffled := rapid.Permutation(reports).Draw(t, "shuffled")
		end := func(list []delivery.State) delivery.State {
			s := delivery.Queued
			for _, r := range list {
				s = delivery.Advance(s, r)
			}
			return s
		}
		require.Equal(t, end(reports), end(shuffled))
	})
}

func TestWaitGrowsAndIsJittered(t *testing.T) {
	assert.Equal(t, 5*time.Second, delivery.Wait(1, 0))
	assert.Equal(t, 20*time.Second, delivery.Wait(3, 0))
	assert.Equal(t, 10*time.Second, delivery.Wait(3, 1))
	assert.Equal(t, 15*time.Minute, delivery.Wait(40, 0), "it stops growing")
	assert.Equal(t, 5*time.Second, delivery.Wait(0, 0))
}

func TestFailureNext(t *testing.T) {
	queued := time.Date(2026, 11, 19, 18, 30, 0, 0, time.UTC)
	for _, c := range []struct {
		name    string
		failure delivery.Failure
		now     time.Time
		want    delivery.State
		wait    time.Duration
	}{
		{"refused for good", delivery.Failure{Permanent: true, Attempts: 1, QueuedAt: queued}, queued, delivery.Failed, 0},
		{"tried again", delivery.Failure{Attempts: 2, QueuedAt: queued}, queued.Add(time.Minute), delivery.Retrying, 10 * time.Second},
		{"a full mailbox", delivery.Failure{Attempts: 1, Code: "4.2.2", QueuedAt: queued}, queued.Add(time.Minute), delivery.Retrying, 15 * time.Minute},
		{"a mailbox that stays full", delivery.Failure{Attempts: 9, Code: "4.2.2", QueuedAt: queued}, queued.Add(time.Minute), delivery.Retrying, 2 * time.Hour},
		{"greylisting", delivery.Failure{Attempts: 2, Code: "4.7.1", QueuedAt: queued}, queued.Add(time.Minute), delivery.Retrying, 10 * time.Minute},
		{"another code", delivery.Failure{Attempts: 1, Code: "4.4.2", QueuedAt: queued}, queued.Add(time.Minute), delivery.Retrying, 5 * time.Second},
		{"what is no code", delivery.Failure{Attempts: 1, Code: "7", QueuedAt: queued}, queued.Add(time.Minute), delivery.Retrying, 5 * time.Second},
		{"given up after a day", delivery.Failure{Attempts: 90, QueuedAt: queued}, queued.Add(23*time.Hour + 50*time.Minute), delivery.Expired, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			state, due := c.failure.Next(c.now, 0)
			assert.Equal(t, c.want, state)
			assert.Equal(t, c.wait, due.Sub(c.now))
		})
	}
}

func TestHealth(t *testing.T) {
	for _, c := range []struct {
		state delivery.State
		gone  bool
		want  roster.Health
		known bool
	}{
		{delivery.Arrived, false, roster.Good, true},
		{delivery.Answered, false, roster.Good, true},
		{delivery.Failed, true, roster.Dead, true},
		{delivery.Failed, false, roster.Failing, true},
		{delivery.Carrier, false, "", false},
		{delivery.Stopped, false, "", false},
	} {
		health, known := delivery.Health(c.state, c.gone)
		assert.Equal(t, c.want, health, c.state)
		assert.Equal(t, c.known, known, c.state)
	}
}

func TestReportsAreBounded(t *testing.T) {
	now := time.Date(2026, 11, 26, 8, 0, 0, 0, time.UTC)
	for name, at := range map[string]time.Time{
		"none": {}, "in the future": now.Add(time.Minute), "long past": now.AddDate(0, -2, 0),
	} {
		assert.Equal(t, now, delivery.Report{OccurredAt: at}.Bounded(now).OccurredAt, name)
	}
	assert.Equal(t, now.Add(-time.Hour), delivery.Report{OccurredAt: now.Add(-time.Hour)}.Bounded(now).OccurredAt)
	long := delivery.Report{Detail: strings.Repeat("mailbox\nfull ", 100)}.Bounded(now).Detail
	assert.Len(t, []rune(long), 300)
	assert.NotContains(t, long, "\n")
}

func TestWhatAReportTeaches(t *testing.T) {
	gone := delivery.Report{Via: delivery.ViaMail, State: delivery.Failed, Gone: true}
	health, known := gone.Health()
	assert.True(t, known)
	assert.Equal(t, roster.Failing, health, "a returned email alone may be forged")
	gone.Via = delivery.ViaGateway
	health, _ = gone.Health()
	assert.Equal(t, roster.Dead, health, "a signed report is believed")
}

func TestThreeFailuresInARow(t *testing.T) {
	for failures, want := range map[int]roster.Health{
		1: roster.Failing, 2: roster.Failing, 3: roster.Dead, 4: roster.Dead,
	} {
		assert.Equal(t, want, delivery.Worn(roster.Email, failures), failures)
	}
	assert.Equal(t, roster.Failing, delivery.Worn(roster.Voice, 9), "a call that nobody takes says nothing of the number")
}
