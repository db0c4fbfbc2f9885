package dates_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/dates"
)

// thursday is the day on which everything below is typed.
var thursday = time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC)

func written(t dates.Typed) string {
	day, clock := "", ""
	if !t.Day.IsZero() {
		day = t.Day.Format(time.DateOnly)
	}
	if t.Timed {
		clock = fmt.Sprintf(" %02d:%02d", t.Minute/60, t.Minute%60)
	}
	return day + clock
}

func TestRead(t *testing.T) {
	for text, want := range map[string]string{
		"28 Nov 2026, 18:00":     "2026-11-28 18:00",
		"Sat 28 Nov 2026, 18:00": "2026-11-28 18:00",
		"Sat 28 Nov, 18:00":      "2026-11-28 18:00",
		"28th of November 6pm":   "2026-11-28 18:00",
		"Nov 28 at 7.30":         "2026-11-28 07:30",
		"2026-11-28T18:00":       "2026-11-28 18:00",
		"2026-11-28 18:00":       "2026-11-28 18:00",
		"28/11/2026":             "2026-11-28",
		"28.11.2026 18.00":       "2026-11-28 18:00",
		"28.11.":                 "2026-11-28",
		"28.11":                  "2026-11-28",
		"28/11":                  "2026-11-28",
		"1/2":                    "2027-02-01", // the next one
		"26 Nov":                 "2026-11-26", // today is one
		"25 Nov":                 "2027-11-25",
		"29 Feb":                 "2028-02-29",
		"12 May 1998":            "1998-05-12",
		"today":                  "2026-11-26",
		"tomorrow 7:30":          "2026-11-27 07:30",
		"7:30 tomorrow":          "2026-11-27 07:30",
		"7am tomorrow":           "2026-11-27 07:00",
		"Monday 07:30":           "2026-11-30 07:30",
		"thursday":               "2026-12-03", // never today
		"18:00":                  " 18:00",
		"18.00":                  " 18:00",
		"12 am":                  " 00:00",
		"12pm":                   " 12:00",
		"  6   pm ":              " 18:00",
		"18h30":                  " 18:30",
	} {
		t.Run(text, func(t *testing.T) {
			got, err := dates.Read(text, thursday, false)
			require.NoError(t, err)
			assert.Equal(t, want, written(got))
		})
	}
}

func TestReadWhereTheMonthComesFirst(t *testing.T) {
	got, err := dates.Read("11/28/2026 6pm", thursday, true)
	require.NoError(t, err)
	assert.Equal(t, "2026-11-28 18:00", written(got))
}

func TestReadSaysWhatIsWrong(t *testing.T) {
	for text, want := range map[string]string{
		"":                     "this is no day or time",
		"soon":                 "this is no day or time",
		"18":                   "this is no day or time", // a day or an hour
		"25:00":                "this is no day or time",
		"13 pm":                "this is no day or time",
		"31/11/2026":           "there is no day 31/11/2026",
		"30 Feb":               "there is no day 30 Feb",
		"Fri 28 November 2026": "28 November 2026 is a Saturday",
	} {
		_, err := dates.Read(text, thursday, false)
		require.ErrorContains(t, err, want, text)
	}
}

// What the interface writes is read as what it was.
func TestReadUndoesWriting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		at := thursday.Add(time.Duration(rapid.IntRange(-2_000_000, 2_000_000).Draw(t, "minutes")) * time.Minute)
		got, err := dates.Read(at.Format("Mon 2 Jan 2006, 15:04"), thursday, rapid.Bool().Draw(t, "month first"))
		require.NoError(t, err)
		assert.Equal(t, at.Format("2006-01-02 15:04"), written(got))
	})
}

func FuzzRead(f *testing.F) {
	for _, seed := range []string{"28 Nov 2026, 18:00", "tomorrow 7:30", "28.11.", "6pm", "2026-11-28T18:00"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		got, err := dates.Read(text, thursday, false)
		if err == nil && got.Day.IsZero() && !got.Timed {
			t.Fatal("neither a day nor a time, and no error")
		}
		if got.Minute < 0 || got.Minute >= 24*60 {
			t.Fatalf("minute %d", got.Minute)
		}
	})
}

func TestUsualMomentsAreAhead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		now := thursday.Add(time.Duration(rapid.IntRange(0, 14*24*60).Draw(t, "minutes")) * time.Minute)
		today := now.Truncate(24 * time.Hour)
		seen := map[string]bool{}
		for _, text := range dates.Usual(now) {
			got, err := dates.Read(text, today, false)
			require.NoError(t, err, text)
			at := got.Day.Add(time.Duration(got.Minute) * time.Minute)
			assert.True(t, at.After(now), "%s at %s", text, now)
			assert.False(t, seen[at.String()], "%s is offered twice", at)
			seen[at.String()] = true
		}
	})
}
