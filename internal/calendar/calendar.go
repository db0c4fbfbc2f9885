// Package calendar knows what a typed moment means to the organisation, what
// a month holds, and what is scheduled as a calendar to subscribe to.
package calendar

import (
	"context"
	"errors"
	"fmt"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/dates"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/timing"
	"upperlantern/internal/holiday"
	"upperlantern/internal/store"
)

// Messages lists the drafts and what has not left, as far as an account may see.
type Messages interface {
	Open(ctx context.Context, by access.Principal) ([]store.Heading, error)
}

// Service answers by the organisation's clocks.
type Service struct {
	Store    *store.Store
	Messages Messages
	Now      func() time.Time
}

// Moment is what was typed as an instant.
type Moment struct {
	At   time.Time
	Note timing.Note // what is odd about it
}

// ErrUnread means that what was typed cannot be read as a moment; what it
// wraps says why.
var ErrUnread = errors.New("this cannot be read")

// usualTime is when a day without a time is meant, where no time stood before.
const usualTime = 8 * time.Hour

// clocks are the organisation's: its zone, and today there, at midnight UTC.
func (s *Service) clocks(ctx context.Context) (store.Organisation, *time.Location, time.Time, error) {
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return o, nil, time.Time{}, err
	}
	zone, err := time.LoadLocation(o.TimeZone)
	if err != nil {
		return o, nil, time.Time{}, fmt.Errorf("the organisation's time zone: %w", err)
	}
	y, m, d := s.Now().In(zone).Date()
	return o, zone, time.Date(y, m, d, 0, 0, 0, 0, time.UTC), nil
}

func monthFirst(region string) bool { return region == "US" }

// Moment reads a typed day and time. A day alone keeps the time of before, if
// there is one. ErrUnread is for what is no moment.
func (s *Service) Moment(ctx context.Context, typed string, before time.Time) (Moment, error) {
	o, zone, today, err := s.clocks(ctx)
	if err != nil {
		return Moment{}, err
	}
	read, err := dates.Read(typed, today, monthFirst(o.Region))
	if err != nil {
		return Moment{}, fmt.Errorf("%w: %w", ErrUnread, err)
	}
	clock := time.Duration(read.Minute) * time.Minute
	if !read.Timed {
		clock = usualTime
		if !before.IsZero() {
			there := before.In(zone)
			clock = time.Duration(there.Hour())*time.Hour + time.Duration(there.Minute())*time.Minute
		}
	}
	day := read.Day
	if day.IsZero() {
		day = today
	}
	m, err := at(day, clock, zone)
	if err == nil && read.Day.IsZero() && !m.At.After(s.Now()) {
		m, err = at(day.AddDate(0, 0, 1), clock, zone)
	}
	return m, err
}

func at(day time.Time, clock time.Duration, zone *time.Location) (Moment, error) {
	instant, note, err := timing.At(day.Add(clock).Format("2006-01-02T15:04"), zone)
	if err != nil {
		return Moment{}, fmt.Errorf("%w: %w", ErrUnread, err)
	}
	return Moment{At: instant, Note: note}, nil
}

// Day reads a typed day, midnight UTC. ErrUnread is for what is none.
func (s *Service) Day(ctx context.Context, typed string) (time.Time, error) {
	o, _, today, err := s.clocks(ctx)
	if err != nil {
		return time.Time{}, err
	}
	read, err := dates.Read(typed, today, monthFirst(o.Region))
	if err == nil && (read.Timed || read.Day.IsZero()) {
		err = errors.New("this is no day; write it like 28 Nov 2026")
	}
	if err != nil {
		return time.Time{}, fmt.Errorf("%w: %w", ErrUnread, err)
	}
	return read.Day, nil
}

// Month is what a month holds for an by.
type Month struct {
	First time.Time // its first day, midnight UTC
	Today time.Time // midnight UTC
	Days  []Day
	Quiet map[roster.Channel]timing.Quiet
	Usual []string // moments that are often meant, as they would be typed
}

// Day is one of its days.
type Day struct {
	Day     time.Time // midnight UTC
	Holiday string    // the name of a public holiday, in the country's own language, or ""
	Leaves  []Leaving
}

// Leaving is a message that waits for its time.
type Leaving struct {
	ID    int64
	Title string
	At    time.Time
}

// Month is the month of a day, the current one for the zero time.
func (s *Service) Month(ctx context.Context, of time.Time, by access.Principal) (Month, error) {
	o, zone, today, err := s.clocks(ctx)
	if err != nil {
		return Month{}, err
	}
	if of.IsZero() {
		of = today
	}
	open, err := s.Messages.Open(ctx, by)
	if err != nil {
		return Month{}, err
	}
	leaves := map[string][]Leaving{}
	for _, m := range open {
		if m.State == store.Held {
			day := m.LeavesAt.In(zone).Format(time.DateOnly)
			leaves[day] = append(leaves[day], Leaving{ID: m.ID, Title: m.Title, At: m.LeavesAt})
		}
	}
	first := time.Date(of.Year(), of.Month(), 1, 0, 0, 0, 0, time.UTC)
	month := Month{
		First: first, Today: today, Quiet: o.Sending.Quiet, Usual: dates.Usual(s.Now().In(zone)),
	}
	for day := first; day.Month() == first.Month(); day = day.AddDate(0, 0, 1) {
		month.Days = append(month.Days, Day{
			Day: day, Holiday: holiday.On(o.Region, day), Leaves: leaves[day.Format(time.DateOnly)],
		})
	}
	return month, nil
}
