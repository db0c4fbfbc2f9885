package dates_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/dates"
)

var today = time.Date(2026, 11, 25, 15, 0, 0, 0, time.UTC) // a Wednesday

func TestOdd(t *testing.T) {
	for _, c := range []struct {
		name, text string
		want       []string
	}{
		{"none", "Come on Thursday at 17:45, bring 2 towels", nil},
		{"a day to come", "Thursday 26 November", nil},
		{"today", "Wednesday, 25th of November 2026", nil},
		{"the wrong weekday", "on Friday 26 November we meet", []string{"Friday 26 November: Thursday"}},
		{"a short one", "Tues 26 Nov", []string{"Tues 26 Nov: Thursday"}},
		{"month first", "Friday, November 26", []string{"Friday, November 26: Thursday"}},
		{"past", "since 24 November", []string{"24 November: past"}},
		{"next year's, nearer than this year's", "on 3 January", nil},
		{"past, with a year", "3 January 2026", []string{"3 January 2026: past"}},
		{"ISO 8601", "2026-11-24 and 2026-11-26", []string{"2026-11-24: past"}},
		{"with slashes", "Mon 26/11/2026", []string{"Mon 26/11/2026: Thursday"}},
		{"with dots", "24.11.2026", []string{"24.11.2026: past"}},
		{"said twice", "24 November, I repeat: 24 November", []string{"24 November: past"}},
		{"no day", "30 February", nil},
		{"a telephone number", "+44 7700 900123, 24/7", nil},
		{"a name that begins like a month", "12 marching bands, 4 mayors", nil},
		{"in other letters", "٢٤ نوفمبر", nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			var said []string
			for _, odd := range dates.Odd(c.text, today) {
				what := "past"
				if !odd.Past {
					what = odd.Day.Weekday().String()
				}
				said = append(said, odd.Text+": "+what)
			}
			assert.Equal(t, c.want, said)
		})
	}
}

func TestFindIsInOrder(t *testing.T) {
	var texts []string
	for _, f := range dates.Find("2026-12-01, then 2 December, then Dec 3", today) {
		texts = append(texts, f.Text)
	}
	assert.Equal(t, []string{"2026-12-01", "2 December", "Dec 3"}, texts)
}

func FuzzOdd(f *testing.F) {
	for _, s := range []string{"Friday 26 November", "2026-13-45", "99/99/2026", "Feb 29 2027"} {
		f.Add(s)
	}
	f.Fuzz(func(_ *testing.T, text string) { dates.Odd(text, today) })
}
