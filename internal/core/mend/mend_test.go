package mend_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"upperlantern/internal/core/mend"
	"upperlantern/internal/core/plan"
)

func TestWhatWouldMendIt(t *testing.T) {
	for _, c := range []struct {
		name   string
		missed mend.Missed
		want   mend.Way
	}{
		{"a further step has an address", mend.Missed{Next: true, Fresh: true, Blamed: true, Usable: true}, mend.NextChannel},
		{"an address was added since", mend.Missed{Fresh: true, Blamed: true, Usable: true}, mend.Again},
		{"the address failed", mend.Missed{Blamed: true, Usable: true}, mend.Address},
		{"the address is dead and the only one", mend.Missed{Blamed: true}, mend.Address},
		{"nobody picked up", mend.Missed{Usable: true}, mend.Again},
		{"they have no address any more", mend.Missed{}, mend.Details},
		{"never had one", mend.Missed{Reason: plan.NoAddress}, mend.Details},
		{"never had one, and has one now", mend.Missed{Reason: plan.NoAddress, Fresh: true}, mend.Again},
		{"a child without a guardian", mend.Missed{Reason: plan.NoGuardian}, mend.Details},
		{"all dead", mend.Missed{Reason: plan.AllDead}, mend.Address},
		{"a field was empty", mend.Missed{Reason: plan.FieldEmpty}, mend.Words},
		{"declined", mend.Missed{Reason: plan.OptedOut}, mend.Paper},
		{"barred", mend.Missed{Reason: plan.Barred}, mend.Nothing},
		{"away", mend.Missed{Reason: plan.AwayOrLeft}, mend.Nothing},
		{"had enough this week", mend.Missed{Reason: plan.Enough}, mend.Nothing},
		{"rests after a job", mend.Missed{Reason: plan.Resting}, mend.Nothing},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, mend.Of(c.missed)) })
	}
}

// Nobody who was to be reached is lost: only what was meant needs nothing.
func TestNobodyIsLost(t *testing.T) {
	meant := []plan.Reason{plan.Barred, plan.AwayOrLeft, plan.BeyondScope, plan.Enough, plan.Resting}
	rapid.Check(t, func(t *rapid.T) {
		m := mend.Missed{
			Reason: rapid.SampledFrom(append([]plan.Reason{""}, plan.Reasons...)).Draw(t, "reason"),
			Next:   rapid.Bool().Draw(t, "next"), Fresh: rapid.Bool().Draw(t, "fresh"),
			Blamed: rapid.Bool().Draw(t, "blamed"), Usable: rapid.Bool().Draw(t, "usable"),
		}
		way := mend.Of(m)
		if way == mend.Nothing {
			assert.Contains(t, meant, m.Reason)
		} else {
			assert.True(t, slices.Contains(mend.Ways, way))
		}
	})
}
