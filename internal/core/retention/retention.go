// Package retention says when a backup is to be made, and which ones are kept.
package retention

import (
	"slices"
	"time"
)

// Rules are how long backups are kept: the newest of each of the last days on which
// there is one, and the newest of each of the last weeks (ISO 8601).
type Rules struct{ Days, Weeks int }

// Usual are the rules unless somebody says otherwise.
var Usual = Rules{Days: 14, Weeks: 8}

// Every is how often a backup is made.
const Every = 24 * time.Hour

// Due reports whether a backup is to be made, when the last good one was made at an
// instant; a zero time means that there is none. A clock that was set back makes it due.
func Due(last, now time.Time) bool {
	return last.IsZero() || now.Sub(last) >= Every || last.After(now)
}

// Old reports whether the last good backup is so old that people are to be warned.
func Old(last, now time.Time) bool { return last.IsZero() || now.Sub(last) > 2*Every }

// Kept are those of the backups made at some instants, in a zone, that are kept, the
// newest first. The newest of all always is.
func (r Rules) Kept(made []time.Time, zone *time.Location) []time.Time {
	newest := slices.Clone(made)
	slices.SortFunc(newest, func(a, b time.Time) int { return b.Compare(a) })
	var kept []time.Time
	days, weeks := map[string]bool{}, map[[2]int]bool{}
	for i, at := range newest {
		day := at.In(zone).Format(time.DateOnly)
		year, number := at.In(zone).ISOWeek()
		week := [2]int{year, number}
		if i == 0 || !days[day] && len(days) < r.Days || !weeks[week] && len(weeks) < r.Weeks {
			kept = append(kept, at)
		}
		days[day], weeks[week] = true, true
	}
	return kept
}
