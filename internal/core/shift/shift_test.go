package shift_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/shift"
)

func ids(list []shift.Message) []int64 {
	out := []int64{}
	for _, m := range list {
		out = append(out, m.ID)
	}
	return out
}

// The day is that of the organisation's clocks, also when they change.
func TestToday(t *testing.T) {
	london, err := time.LoadLocation("Europe/London")
	require.NoError(t, err)
	at := func(day, hour, minute int) time.Time { return time.Date(2026, 10, day, hour, minute, 0, 0, london) }
	list := []shift.Message{
		{ID: 1, Leaves: at(25, 23, 59)}, {ID: 2, Leaves: at(24, 23, 59)}, {ID: 3, Leaves: at(25, 0, 0).UTC()},
		{ID: 4, Leaves: at(26, 0, 0)}, {ID: 5, Leaves: at(25, 9, 0)},
	}
	now := at(25, 12, 0)
	assert.Equal(t, []int64{3, 5, 1}, ids(shift.Today(list, now)))
	from, to := shift.Day(now)
	assert.Equal(t, 25*time.Hour, to.Sub(from), "clocks go back on that day")
}

func TestUnsettled(t *testing.T) {
	now := time.Date(2026, 11, 26, 12, 0, 0, 0, time.UTC)
	ended := func(id int64, ago time.Duration, missed int) shift.Message {
		return shift.Message{ID: id, Leaves: now.Add(-ago), Ended: true, NotReached: missed}
	}
	going := ended(4, time.Hour, 3)
	going.Ended = false
	held := ended(6, 0, 3)
	held.Held = true
	list := []shift.Message{
		ended(1, 47*time.Hour, 1), ended(2, time.Hour, 12), ended(3, time.Hour, 0), going, ended(5, 49*time.Hour, 2), held,
	}
	assert.Equal(t, []int64{2, 1}, ids(shift.Unsettled(list, now)))
}
