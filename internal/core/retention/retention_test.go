package retention_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/retention"
)

var noon = time.Date(2026, 11, 27, 12, 0, 0, 0, time.UTC)

func daysAgo(n int) time.Time { return noon.AddDate(0, 0, -n) }

func TestWhenABackupIsDue(t *testing.T) {
	for name, c := range map[string]struct {
		last     time.Time
		due, old bool
	}{
		"there is none":             {time.Time{}, true, true},
		"made just now":             {noon, false, false},
		"a day ago":                 {daysAgo(1), true, false},
		"nearly a day ago":          {daysAgo(1).Add(time.Second), false, false},
		"two days ago":              {daysAgo(2), true, false},
		"longer ago":                {daysAgo(2).Add(-time.Second), true, true},
		"by a clock that was ahead": {noon.Add(time.Hour), true, false},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Equal(t, c.due, retention.Due(c.last, noon))
			assert.Equal(t, c.old, retention.Old(c.last, noon))
		})
	}
}

func TestWhichBackupsAreKept(t *testing.T) {
	var daily []time.Time
	for n := range 100 {
		daily = append(daily, daysAgo(n))
	}
	kept := retention.Usual.Kept(daily, time.UTC)
	assert.Equal(t, daily[:14], kept[:14], "each of the last 14 days")
	assert.Len(t, kept, 14+5, "and of the 8 weeks those that these days do not reach")
	for _, at := range kept[14:] {
		assert.Equal(t, time.Sunday, at.Weekday(), "the newest of its week")
	}
	twice := []time.Time{noon, noon.Add(-time.Hour), daysAgo(1)}
	assert.Equal(t, []time.Time{noon, daysAgo(1)}, retention.Usual.Kept(twice, time.UTC), "the newest of each day")
	pacific := time.FixedZone("", -8*60*60)
	night := []time.Time{noon, noon.Add(-6 * time.Hour)} // 4:00 and 22:00 the day before
	assert.Len(t, retention.Usual.Kept(night, pacific), 2, "days are meant on the organisation's clocks")
	assert.Empty(t, retention.Usual.Kept(nil, time.UTC))
}

func TestTheNewestIsAlwaysKept(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var made []time.Time
		for range rapid.IntRange(1, 60).Draw(t, "backups") {
			made = append(made, noon.Add(-time.Duration(rapid.Int64Range(0, int64(120*24*time.Hour)).Draw(t, "ago"))))
		}
		rules := retention.Rules{Days: rapid.IntRange(0, 20).Draw(t, "days"), Weeks: rapid.IntRange(0, 10).Draw(t, "weeks")}
		kept := rules.Kept(made, time.UTC)
		require.Equal(t, slices.MaxFunc(made, time.Time.Compare), kept[0])
		require.LessOrEqual(t, len(kept), max(1, rules.Days+rules.Weeks))
		require.Equal(t, kept, rules.Kept(kept, time.UTC), "what is kept is kept again")
	})
}
