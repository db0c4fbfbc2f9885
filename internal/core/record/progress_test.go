package record_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
)

var began = time.Date(2026, 11, 27, 9, 0, 0, 0, time.UTC)

func TestHowFarDeliveriesCame(t *testing.T) {
	after := func(s int) time.Time { return began.Add(time.Duration(s) * time.Second) }
	points := record.Progress([]record.Moment{
		{after(10), roster.Text, record.Arrived, 2}, {after(0), roster.Email, record.Free, 5},
		{after(1), roster.Email, record.Left, 5}, {after(4), roster.Email, record.Arrived, 3},
	}, 2)
	require.Len(t, points, 3)
	assert.Equal(t, record.Point{At: after(0), Free: 5, Arrived: map[roster.Channel]int{}}, points[0])
	halfway := record.Point{At: after(5), Free: 5, Left: 5, Arrived: map[roster.Channel]int{roster.Email: 3}}
	assert.Equal(t, halfway, points[1])
	assert.Equal(t, map[roster.Channel]int{roster.Email: 3, roster.Text: 2}, points[2].Arrived)
	assert.Empty(t, record.Progress(nil, 2))
	assert.Len(t, record.Progress([]record.Moment{{after(3), roster.Text, record.Free, 1}}, 60), 1, "all at once")
}

// One answer hours later does not stretch the picture of what came within minutes.
func TestWhatCameVeryLateDoesNotStretchIt(t *testing.T) {
	after := func(s int) time.Time { return began.Add(time.Duration(s) * time.Second) }
	moments := []record.Moment{
		{after(0), roster.Text, record.Free, 50}, {after(100), roster.Text, record.Arrived, 49},
		{after(20_000), roster.Text, record.Arrived, 1},
	}
	points := record.Progress(moments, 10)
	assert.Equal(t, after(125), points[10].At)
	assert.Equal(t, 50, points[10].Arrived[roster.Text], "it is counted all the same")
	moments[2].At = after(300)
	assert.Equal(t, after(300), record.Progress(moments, 10)[10].At, "what is a little late stands in its place")
}

func TestShares(t *testing.T) {
	seconds := func(list ...int) (out []time.Duration) {
		for _, s := range list {
			out = append(out, time.Duration(s)*time.Second)
		}
		return out
	}
	for _, c := range []struct {
		of          []time.Duration
		half, nines time.Duration
	}{
		{nil, 0, 0},
		{seconds(4), 4 * time.Second, 4 * time.Second},
		{seconds(1, 9), time.Second, 9 * time.Second},
		{seconds(1, 2, 3, 4, 5, 6, 7, 8, 9, 10), 5 * time.Second, 9 * time.Second},
	} {
		assert.Equal(t, c.half, record.Share(c.of, 0.5))
		assert.Equal(t, c.nines, record.Share(c.of, 0.9))
	}
}

// Whatever the order, points never go down, and the last counts everything.
func TestProgressProperties(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		moment := rapid.Custom(func(t *rapid.T) record.Moment {
			return record.Moment{
				At:      began.Add(time.Duration(rapid.Int64Range(0, 1<<40).Draw(t, "after"))),
				Channel: rapid.SampledFrom(roster.Channels).Draw(t, "channel"),
				What:    rapid.SampledFrom([]record.What{record.Free, record.Left, record.Arrived}).Draw(t, "what"),
				Count:   rapid.IntRange(1, 9).Draw(t, "count"),
			}
		})
		moments := rapid.SliceOfN(moment, 1, 20).Draw(t, "moments")
		points := record.Progress(moments, rapid.IntRange(1, 60).Draw(t, "points"))
		all := func(p record.Point) int {
			n := p.Free + p.Left
			for _, arrived := range p.Arrived {
				n += arrived
			}
			return n
		}
		want := 0
		for _, m := range moments {
			want += m.Count
		}
		assert.Equal(t, want, all(points[len(points)-1]))
		for i := 1; i < len(points); i++ {
			assert.GreaterOrEqual(t, all(points[i]), all(points[i-1]))
			assert.False(t, points[i].At.Before(points[i-1].At))
		}
	})
}
