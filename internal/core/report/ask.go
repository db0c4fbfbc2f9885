// Package report works out what messages came to, by month, sender, group and the like:
// tables of figures, and the chart beside them.
package report

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/seek"
)

// By is what the rows of a report are.
type By string

const (
	ByMonth    By = "month"
	BySender   By = "sender"
	ByUnit     By = "unit"
	ByUrgency  By = "urgency"
	ByLanguage By = "language"
	ByGroup    By = "group"
	ByChannel  By = "channel"
	ByCarrier  By = "carrier"
	ByBudget   By = "budget" // what units spent in each month, beside their budgets
	ByGap      By = "gap"    // who could not be reached, day by day
	ByLoad     By = "load"   // how many messages households got
	Once       By = "once"   // each message once, in a single row
)

// Bys lists everything that a report can be asked by, as it is offered.
var Bys = []By{
	ByMonth, BySender, ByUnit, ByUrgency, ByGroup, ByChannel, ByLanguage, ByCarrier, ByBudget, ByLoad, ByGap,
}

// Deliveries reports whether deliveries are counted, not recipients.
func (b By) Deliveries() bool { return b == ByChannel || b == ByCarrier }

// Overlaps reports whether a message can count in several rows.
func (b By) Overlaps() bool { return b == ByGroup || b == ByLanguage || b.Deliveries() }

// Span is the days that a report is about.
type Span struct {
	Of    string      `json:"of" enum:"this-month,last-month,last-12-months,this-year,last-year,days"`
	From  roster.Date `json:"from,omitempty" doc:"The first day, of days"`
	Until roster.Date `json:"until,omitempty" doc:"The last day, of days"`
}

// Spans lists what a span can be of.
var Spans = []string{"this-month", "last-month", "last-12-months", "this-year", "last-year", "days"}

// Ask is what is to be counted.
type Ask struct {
	By         By            `json:"by"`
	Span       Span          `json:"span"`
	Conditions []seek.Clause `json:"conditions,omitempty" maxItems:"16" doc:"Only messages for which they hold"`
}

// ErrUnfit means that a report cannot be made as it is asked for.
var ErrUnfit = errors.New("this cannot be counted")

// mostMonths is how long a span may be.
const mostMonths = 120

// Validate refuses what cannot be counted.
func (a Ask) Validate() error {
	if !slices.Contains(Bys, a.By) {
		return fmt.Errorf("%w: there is no report by %q", ErrUnfit, a.By)
	}
	if (a.By == ByBudget || a.By == ByGap) && len(a.Conditions) > 0 {
		return fmt.Errorf("%w: a report of budgets or of gaps has no conditions", ErrUnfit)
	}
	return seek.Search{Conditions: a.Conditions}.Validate()
}

// Days are the first and the last day of a span, by the day of now. A month or a year
// that has not ended ends today.
func (s Span) Days(today time.Time) (from, until roster.Date, err error) {
	year, month, _ := today.Date()
	first := func(y int, m time.Month) time.Time { return time.Date(y, m, 1, 0, 0, 0, 0, time.UTC) }
	day := func(t time.Time) roster.Date { return roster.Date(t.Format(time.DateOnly)) }
	ends := func(from, next time.Time) (roster.Date, roster.Date, error) {
		return day(from), min(day(next.AddDate(0, 0, -1)), day(today)), nil
	}
	switch s.Of {
	case "this-month":
		return ends(first(year, month), first(year, month+1))
	case "last-month":
		return ends(first(year, month-1), first(year, month))
	case "last-12-months":
		return ends(first(year, month-11), first(year, month+1))
	case "this-year":
		return ends(first(year, time.January), first(year+1, time.January))
	case "last-year":
		return ends(first(year-1, time.January), first(year, time.January))
	case "days":
		return s.From, s.Until, s.validateDays()
	}
	return "", "", fmt.Errorf("%w: %q is no span of days", ErrUnfit, s.Of)
}

func (s Span) validateDays() error {
	from, err := time.Parse(time.DateOnly, string(s.From))
	if err != nil {
		return fmt.Errorf("%w: %q is no day such as 2026-11-28", ErrUnfit, s.From)
	}
	until, err := time.Parse(time.DateOnly, string(s.Until))
	if err != nil {
		return fmt.Errorf("%w: %q is no day such as 2026-11-28", ErrUnfit, s.Until)
	}
	if until.Before(from) {
		return fmt.Errorf("%w: the first day, %s, comes after the last, %s", ErrUnfit, s.From, s.Until)
	}
	if from.AddDate(0, mostMonths, 0).Before(until) {
		return fmt.Errorf("%w: a report is about %d months at most", ErrUnfit, mostMonths)
	}
	return nil
}

// Month is one of a span, or a part of one at its ends.
type Month struct {
	Key         string // 2026-11
	From, Until roster.Date
}

// Months are the months of a span between two days, which stand in it whole or in part.
func Months(from, until roster.Date) []Month {
	at, err := time.Parse(time.DateOnly, string(from))
	if err != nil {
		return nil
	}
	var list []Month
	for roster.Date(at.Format(time.DateOnly)) <= until {
		next := time.Date(at.Year(), at.Month()+1, 1, 0, 0, 0, 0, time.UTC)
		last := roster.Date(next.AddDate(0, 0, -1).Format(time.DateOnly))
		list = append(list, Month{at.Format("2006-01"), roster.Date(at.Format(time.DateOnly)), min(last, until)})
		at = next
	}
	return list
}
