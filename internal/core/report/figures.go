package report

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/money"
)

// Figures are what the messages of a row came to. Of channels and carriers All are
// deliveries: Reached those that arrived, Missed those that failed.
type Figures struct {
	Messages int
	All      int // Reached + Waiting + Missed + Stopped
	Reached  int
	Waiting  int
	Missed   int
	Stopped  int
	LeftOut  int                     // who got nothing
	Costs    map[string]money.Amount // by currency, ISO 4217
	Delays   []Delay
}

// Delay is how many were reached after a time.
type Delay struct {
	After time.Duration
	Count int
}

// Counted is a row: a month, an account, a group and the like by its key.
type Counted struct {
	Key string
	Figures
}

// Add adds what a part of the messages came to. Delays are not joined.
func (f *Figures) Add(more Figures) {
	f.Messages += more.Messages
	f.All += more.All
	f.Reached += more.Reached
	f.Waiting += more.Waiting
	f.Missed += more.Missed
	f.Stopped += more.Stopped
	f.LeftOut += more.LeftOut
	for currency, amount := range more.Costs {
		if f.Costs == nil {
			f.Costs = map[string]money.Amount{}
		}
		f.Costs[currency] += amount
	}
}

// Cost is the cost in words, one amount for each currency.
func (f Figures) Cost() string {
	var list []string
	for _, currency := range slices.Sorted(maps.Keys(f.Costs)) {
		if f.Costs[currency] != 0 {
			list = append(list, f.Costs[currency].Format(currency))
		}
	}
	return strings.Join(list, " + ")
}

// Within is how long it took until a share of all were reached; known is false when
// fewer were. A share is between 0 and 1.
func (f Figures) Within(share float64) (d time.Duration, known bool) {
	need := int(math.Ceil(share * float64(f.All)))
	if need == 0 {
		return 0, false
	}
	slices.SortFunc(f.Delays, func(a, b Delay) int { return cmp.Compare(a.After, b.After) })
	for _, delay := range f.Delays {
		if need -= delay.Count; need <= 0 {
			return delay.After, true
		}
	}
	return 0, false
}

// Lasted says how long something took, rounded the way people say it.
func Lasted(d time.Duration) string {
	switch {
	case d < 90*time.Second:
		return fmt.Sprintf("%d s", max(1, int(d.Round(time.Second)/time.Second)))
	case d < 90*time.Minute:
		return fmt.Sprintf("%d min", int(d.Round(time.Minute)/time.Minute))
	case d < 36*time.Hour:
		return fmt.Sprintf("%d h", int(d.Round(time.Hour)/time.Hour))
	}
	return fmt.Sprintf("%d days", int(d.Round(24*time.Hour)/(24*time.Hour)))
}

// Together is what rows come to that have no message in common.
func Together(rows []Counted) Figures {
	var total Figures
	for _, row := range rows {
		total.Add(row.Figures)
		total.Delays = append(total.Delays, row.Delays...)
	}
	return total
}

// Nothing is the key of the row for those who got nothing.
const Nothing = "nothing"

// Overlapping completes rows that can have messages in common, and says what they come
// to. Each is what the messages come to when each counts once.
func Overlapping(by By, rows []Counted, each Figures) ([]Counted, Figures) {
	switch {
	case by == ByGroup:
		return rows, each
	case by == ByLanguage && each.LeftOut > 0:
		return append(rows, Counted{Key: Nothing, Figures: Figures{LeftOut: each.LeftOut}}), each
	case by == ByLanguage:
		return rows, each
	}
	total := Together(rows) // of deliveries, which have one channel and one carrier
	total.Messages = each.Messages
	return rows, total
}

// EveryMonth puts rows of months in order, with the months between in which nothing left.
func EveryMonth(rows []Counted, months []Month) []Counted {
	list := make([]Counted, len(months))
	for i, m := range months {
		list[i].Key = m.Key
		if at := slices.IndexFunc(rows, func(c Counted) bool { return c.Key == m.Key }); at >= 0 {
			list[i] = rows[at]
		}
	}
	return list
}
