// Package shift picks what a shift has to know of messages when it begins: what leaves on
// its day, and what is not settled yet.
package shift

import (
	"slices"
	"time"
)

// Message is what there is to know of one.
type Message struct {
	ID         int64
	Leaves     time.Time // when it left, or leaves
	Held       bool      // it has not left
	Ended      bool      // nothing of it is on its way any more
	NotReached int
}

// Recent is how long a message is looked after that did not reach everybody.
const Recent = 48 * time.Hour

// Day is from midnight to midnight around an instant, on its location's clocks.
func Day(now time.Time) (from, to time.Time) {
	from = time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, now.Location())
	return from, time.Date(now.Year(), now.Month(), now.Day()+1, 0, 0, 0, 0, now.Location())
}

// Today are the messages that leave, or left, on the day of an instant, the earliest
// first.
func Today(list []Message, now time.Time) []Message {
	from, to := Day(now)
	day := slices.DeleteFunc(slices.Clone(list), func(m Message) bool {
		return m.Leaves.Before(from) || !m.Leaves.Before(to)
	})
	slices.SortStableFunc(day, func(a, b Message) int { return a.Leaves.Compare(b.Leaves) })
	return day
}

// Lately are the messages that left within Recent, the latest first.
func Lately(list []Message, now time.Time) []Message {
	left := slices.DeleteFunc(slices.Clone(list), func(m Message) bool {
		return m.Held || m.Leaves.After(now) || now.Sub(m.Leaves) > Recent
	})
	slices.SortStableFunc(left, func(a, b Message) int { return b.Leaves.Compare(a.Leaves) })
	return left
}

// Unsettled are the messages that left lately and did not reach everybody, the latest
// first. One that is still going out may reach them yet.
func Unsettled(list []Message, now time.Time) []Message {
	return slices.DeleteFunc(Lately(list, now), func(m Message) bool { return !m.Ended || m.NotReached == 0 })
}
