package asking_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/record"
)

func TestHowItStandsWithSomebody(t *testing.T) {
	for _, c := range []struct {
		name string
		of   asking.Asked
		want asking.Stand
	}{
		{"answered", asking.Asked{Number: 2, Outcome: record.Answered}, asking.Answered},
		{"answered on the phone, though no delivery arrived", asking.Asked{Number: 1, Outcome: record.NotReached}, asking.Answered},
		{"wrote something else", asking.Asked{Wrote: true, Outcome: record.Reached}, asking.Wrote},
		{"has it", asking.Asked{Outcome: record.Reached}, asking.Silent},
		{"on the way", asking.Asked{Outcome: record.Waiting}, asking.OnTheWay},
		{"not reached", asking.Asked{Outcome: record.NotReached}, asking.Missed},
		{"stopped", asking.Asked{Outcome: record.Stopped}, asking.Missed},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, c.of.Stand()) })
	}
}

// Everybody who was asked is counted once, whatever they answered.
func TestATallyAddsUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list := rapid.SliceOf(rapid.Custom(func(t *rapid.T) asking.Asked {
			return asking.Asked{
				Number: rapid.IntRange(0, 6).Draw(t, "number"), Wrote: rapid.Bool().Draw(t, "wrote"),
				Outcome: rapid.SampledFrom(record.Outcomes).Draw(t, "outcome"),
			}
		})).Draw(t, "asked")
		tally := asking.Count(coming, list)
		sum := tally.Answered() + tally.Wrote + tally.Silent + tally.OnTheWay + tally.Missed
		if sum != len(list) || tally.Asked != sum {
			t.Fatalf("%+v counts %d of %d", tally, sum, len(list))
		}
		if tally.Fills != tally.Choices[0]+tally.Choices[1] {
			t.Fatalf("%+v fills by something else than what counts", tally)
		}
		if tally.Attend != tally.Choices[3] {
			t.Fatalf("%+v attends to somebody else than who needs it", tally)
		}
	})
}
