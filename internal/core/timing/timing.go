// Package timing says when something leaves: clock times in time zones, quiet
// hours, and sending that is spread over a while.
package timing

import (
	"fmt"
	"time"
)

// Clock is a time of day in minutes since midnight.
type Clock int

const (
	minutesOfHour = 60
	minutesOfDay  = 24 * minutesOfHour
)

// UnmarshalText reads hours and minutes, such as 21:30.
func (c *Clock) UnmarshalText(text []byte) error {
	var h, m int
	var rest string
	if n, _ := fmt.Sscanf(string(text), "%2d:%2d%s", &h, &m, &rest); n != 2 || h < 0 || h > 23 || m < 0 || m > 59 {
		return fmt.Errorf("%q is no time of day such as 21:30", text)
	}
	*c = Clock(h*minutesOfHour + m)
	return nil
}

// MarshalText writes hours and minutes.
func (c Clock) MarshalText() ([]byte, error) { return []byte(c.String()), nil }

func (c Clock) String() string { return fmt.Sprintf("%02d:%02d", c/minutesOfHour, c%minutesOfHour) }

// On is the instant at which clocks in the day's location show the time on that day.
func (c Clock) On(day time.Time) time.Time {
	return time.Date(day.Year(), day.Month(), day.Day(), 0, int(c), 0, 0, day.Location())
}

// of is the time of day that clocks in t's location show.
func of(t time.Time) Clock { return Clock(t.Hour()*minutesOfHour + t.Minute()) }

// Quiet are hours in which nothing is sent, from one time of day to another,
// which may lie on the next day. Two times that are the same are no hours.
type Quiet struct {
	From Clock `json:"from" doc:"Such as 21:00"`
	To   Clock `json:"to" doc:"Such as 07:00; before from it is on the next day"`
}

// Holds reports whether a time of day lies within the quiet hours.
func (q Quiet) Holds(c Clock) bool {
	if q.From <= q.To {
		return q.From <= c && c < q.To
	}
	return c >= q.From || c < q.To
}

// Next is the first instant from t on that is not quiet where clocks show the
// time of a location. On days with 23 and 25 hours it is what clocks show
// that counts: an end that is skipped is the instant after the gap, one that
// comes twice is its first.
func (q Quiet) Next(t time.Time, in *time.Location) time.Time {
	local := t.In(in)
	if !q.Holds(of(local)) {
		return t
	}
	day := local.Day()
	if of(local) >= q.To {
		day++
	}
	end := wall(local.Year(), local.Month(), day, q.To, in)
	if end.Before(t) { // the end came once already, before the clocks were put back
		return t
	}
	return end
}

// NextIn is the first instant from t on that is not quiet in any of the
// locations. Where it is always quiet in one of them, it is the latest of
// what each of them allows first.
func (q Quiet) NextIn(t time.Time, in []*time.Location) time.Time {
	next := t
	for range daysTried {
		latest := next
		for _, location := range in {
			if at := q.Next(next, location); at.After(latest) {
				latest = at
			}
		}
		if latest.Equal(next) {
			return next
		}
		next = latest
	}
	for i, location := range in {
		if at := q.Next(t, location); i == 0 || at.After(next) {
			next = at
		}
	}
	return next
}

// daysTried is how often quiet hours of several places are waited for: each
// time one of them ends, so that a place follows another a day at most.
const daysTried = 8

// Note says what is odd about a clock time on a day when clocks change.
type Note string

const (
	Skipped Note = "skipped" // clocks are put forward over it
	Twice   Note = "twice"   // clocks are put back over it
)

const wallLayout = "2006-01-02T15:04"

// At is the instant at which clocks in a location show a date and time, such
// as 2026-11-28T18:00. One that is skipped is the instant as long after the
// change as it would have been; of one that comes twice it is the first.
func At(text string, in *time.Location) (time.Time, Note, error) {
	asUTC, err := time.Parse(wallLayout, text)
	if err != nil {
		return time.Time{}, "", fmt.Errorf("%q is no date and time such as 2026-11-28T18:00", text)
	}
	at := wall(asUTC.Year(), asUTC.Month(), asUTC.Day(), of(asUTC), in)
	switch {
	case at.In(in).Format(wallLayout) != text:
		return at, Skipped, nil
	case IsTwice(at, in):
		return at, Twice, nil
	}
	return at, "", nil
}

// wall is the first instant at which clocks show a time, or the one as long
// after the change when they skip it.
func wall(year int, month time.Month, day int, c Clock, in *time.Location) time.Time {
	at := time.Date(year, month, day, int(c)/minutesOfHour, int(c)%minutesOfHour, 0, 0, in)
	if of(at) != c {
		// time.Date may have taken the offset from before or after the change.
		_, before := at.Add(-changeAround).Zone()
		utc := time.Date(year, month, day, int(c)/minutesOfHour, int(c)%minutesOfHour, 0, 0, time.UTC)
		return utc.Add(-time.Duration(before) * time.Second).In(in)
	}
	for _, change := range []time.Duration{time.Hour, time.Hour / 2} {
		if earlier := at.Add(-change); of(earlier) == c {
			return earlier
		}
	}
	return at
}

// changeAround is well beyond any change of clocks, and within a day of it.
const changeAround = 12 * time.Hour

// IsTwice reports whether clocks show the time of an instant twice.
func IsTwice(t time.Time, in *time.Location) bool {
	t = t.In(in)
	for _, change := range []time.Duration{time.Hour, -time.Hour, time.Hour / 2, -time.Hour / 2} {
		if other := t.Add(change); of(other) == of(t) {
			return true
		}
	}
	return false
}

// Spread is when the nth of count, from 0, leaves when they are spread evenly
// over a while from a start, in whole milliseconds: what is kept of an instant.
func Spread(start time.Time, over time.Duration, n, count int) time.Time {
	if count < 2 || over <= 0 {
		return start
	}
	return start.Truncate(time.Millisecond).Add(
		time.Duration(over.Milliseconds()*int64(n)/int64(count)) * time.Millisecond,
	)
}

// AtNight reports whether an instant lies at night where clocks show the time
// of a location.
func AtNight(t time.Time, in *time.Location) bool {
	return Quiet{From: 22 * minutesOfHour, To: 6 * minutesOfHour}.Holds(of(t.In(in)))
}
