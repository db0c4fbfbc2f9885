package timing_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/timing"
)

func zone(t testing.TB, name string) *time.Location {
	loc, err := time.LoadLocation(name)
	require.NoError(t, err)
	return loc
}

func instant(t testing.TB, s string) time.Time {
	at, err := time.Parse(time.RFC3339, s)
	require.NoError(t, err)
	return at
}

func clock(t testing.TB, s string) (c timing.Clock) {
	require.NoError(t, c.UnmarshalText([]byte(s)))
	return c
}

func TestNext(t *testing.T) {
	for _, c := range []struct{ name, from, to, zone, at, want string }{
		{"by day", "21:00", "07:00", "Europe/London", "2026-11-25T12:00:00Z", "2026-11-25T12:00:00Z"},
		{"in the evening", "21:00", "07:00", "Europe/London", "2026-11-25T21:00:00Z", "2026-11-26T07:00:00Z"},
		{"after midnight", "21:00", "07:00", "Europe/London", "2026-11-25T03:00:00Z", "2026-11-25T07:00:00Z"},
		{"the last minute", "21:00", "07:00", "Europe/London", "2026-11-25T06:59:59Z", "2026-11-25T07:00:00Z"},
		{"where the recipient lives", "21:00", "07:00", "America/Sao_Paulo", "2026-11-25T08:00:00Z", "2026-11-25T10:00:00Z"},
		{"within a day", "12:00", "14:00", "Europe/London", "2026-11-25T13:00:00Z", "2026-11-25T14:00:00Z"},
		{"over the change to summer", "21:00", "07:00", "Europe/London", "2026-03-28T22:00:00Z", "2026-03-29T06:00:00Z"},
		{"over the change to winter", "21:00", "07:00", "Europe/London", "2026-10-24T22:00:00Z", "2026-10-25T07:00:00Z"},
		{"an end that is skipped", "21:00", "01:30", "Europe/London", "2026-03-28T23:00:00Z", "2026-03-29T01:30:00Z"},
		{"an end that comes twice", "21:00", "01:30", "Europe/London", "2026-10-24T22:00:00Z", "2026-10-25T00:30:00Z"},
		{"none", "00:00", "00:00", "Europe/London", "2026-11-25T00:00:00Z", "2026-11-25T00:00:00Z"},
	} {
		t.Run(c.name, func(t *testing.T) {
			q := timing.Quiet{From: clock(t, c.from), To: clock(t, c.to)}
			assert.Equal(t, c.want, q.Next(instant(t, c.at), zone(t, c.zone)).UTC().Format(time.RFC3339))
		})
	}
}

func TestAt(t *testing.T) {
	for _, c := range []struct {
		name, wall, zone, want string
		note                   timing.Note
	}{
		{"winter", "2026-11-28T18:00", "Europe/London", "2026-11-28T18:00:00Z", ""},
		{"summer", "2026-07-01T18:00", "Europe/London", "2026-07-01T17:00:00Z", ""},
		{"an hour that does not exist", "2026-03-29T01:30", "Europe/London", "2026-03-29T01:30:00Z", timing.Skipped},
		{"an hour that comes twice", "2026-10-25T01:30", "Europe/London", "2026-10-25T00:30:00Z", timing.Twice},
		{"west of Greenwich, skipped", "2026-03-08T02:30", "America/New_York", "2026-03-08T07:30:00Z", timing.Skipped},
		{"west of Greenwich, twice", "2026-11-01T01:30", "America/New_York", "2026-11-01T05:30:00Z", timing.Twice},
		{"half an hour's change", "2026-04-05T01:45", "Australia/Lord_Howe", "2026-04-04T14:45:00Z", timing.Twice},
	} {
		t.Run(c.name, func(t *testing.T) {
			at, note, err := timing.At(c.wall, zone(t, c.zone))
			require.NoError(t, err)
			assert.Equal(t, c.want, at.UTC().Format(time.RFC3339))
			assert.Equal(t, c.note, note)
		})
	}
	for _, bad := range []string{"", "tomorrow", "2026-02-30T10:00", "2026-11-28T25:00"} {
		_, _, err := timing.At(bad, time.UTC)
		require.Error(t, err, bad)
	}
}

func TestClock(t *testing.T) {
	var q timing.Quiet
	require.NoError(t, json.Unmarshal([]byte(`{"from":"21:30","to":"07:00"}`), &q))
	text, err := json.Marshal(q)
	require.NoError(t, err)
	assert.JSONEq(t, `{"from":"21:30","to":"07:00"}`, string(text))
	for _, bad := range []string{"", "24:00", "9", "21:60", "-1:00", "21:00x"} {
		var c timing.Clock
		assert.Error(t, c.UnmarshalText([]byte(bad)), bad)
	}
}

func TestSpread(t *testing.T) {
	start := instant(t, "2026-11-25T12:00:00Z")
	var minutes []float64
	for n := range 4 {
		minutes = append(minutes, timing.Spread(start, time.Hour, n, 4).Sub(start).Minutes())
	}
	assert.Equal(t, []float64{0, 15, 30, 45}, minutes)
	assert.Equal(t, start, timing.Spread(start, time.Hour, 0, 1))
}

// Whenever something is sent, it does not leave in quiet hours, nor before it
// was to, nor more than a day and the longest change of clocks later.
func TestNextProperties(t *testing.T) {
	zones := []string{"Europe/London", "America/New_York", "Australia/Lord_Howe", "Asia/Kathmandu", "UTC"}
	rapid.Check(t, func(rt *rapid.T) {
		q := timing.Quiet{
			From: timing.Clock(rapid.IntRange(0, 1439).Draw(rt, "from")),
			To:   timing.Clock(rapid.IntRange(0, 1439).Draw(rt, "to")),
		}
		in := zone(t, rapid.SampledFrom(zones).Draw(rt, "zone"))
		at := time.Unix(rapid.Int64Range(1_770_000_000, 1_800_000_000).Draw(rt, "at"), 0)
		next := q.Next(at, in)
		local := next.In(in)
		require.False(rt, next.Before(at))
		require.Less(rt, next.Sub(at), 25*time.Hour)
		if !timing.IsTwice(next, in) {
			require.False(rt, q.Holds(timing.Clock(local.Hour()*60+local.Minute())) && next.After(at), "%v", local)
		}
	})
}

func TestQuietHoursOfSeveralPlaces(t *testing.T) {
	london, tokyo, apia := zone(t, "Europe/London"), zone(t, "Asia/Tokyo"), zone(t, "Pacific/Apia")
	at := instant(t, "2026-11-25T22:00:00Z")
	always := timing.Quiet{From: clock(t, "20:00"), To: clock(t, "19:00")}
	night := timing.Quiet{From: clock(t, "21:00"), To: clock(t, "07:00")}
	assert.Equal(t, "2026-11-26T07:00:00Z", night.NextIn(at, []*time.Location{tokyo, london}).UTC().Format(time.RFC3339))
	assert.Equal(t, at, night.NextIn(at, nil))
	next := always.NextIn(at, []*time.Location{london, tokyo, apia})
	assert.Equal(
		t, "2026-11-26T19:00:00Z", next.UTC().Format(time.RFC3339),
		"no instant suits all: the latest of what each allows first",
	)
}

// What is spread never lies in quiet hours once it is kept in milliseconds.
func TestSpreadIsExactToTheMillisecond(t *testing.T) {
	quiet := timing.Quiet{From: clock(t, "21:00"), To: clock(t, "07:00")}
	start := instant(t, "2026-11-25T20:00:00Z")
	assert.Equal(
		t, instant(t, "2026-11-25T21:00:00Z"), timing.Spread(start, 70*time.Minute, 6, 7), "an even share falls on the hour",
	)
	rapid.Check(t, func(t *rapid.T) {
		count := rapid.IntRange(1, 200_000).Draw(t, "count")
		over := time.Duration(rapid.IntRange(0, 24*60).Draw(t, "minutes")) * time.Minute
		n := rapid.IntRange(0, count-1).Draw(t, "n")
		at := quiet.Next(
			timing.Spread(start.Add(time.Duration(rapid.IntRange(0, 999_999_999).Draw(t, "fraction"))), over, n, count),
			time.UTC,
		)
		kept := time.UnixMilli(at.UnixMilli()).UTC()
		if !quiet.Next(kept, time.UTC).Equal(kept) {
			t.Fatalf("%s is kept as %s, in quiet hours", at, kept)
		}
	})
}
