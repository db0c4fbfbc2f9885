// Package record works out what became of a message from the states of its
// deliveries.
package record

import (
	"cmp"
	"slices"
	"strings"

	"upperlantern/internal/core/delivery"
)

// Outcome is what a message came to for one recipient.
type Outcome string

const (
	Reached    Outcome = "reached"
	Waiting    Outcome = "waiting"
	NotReached Outcome = "not-reached"
	Stopped    Outcome = "stopped"
)

// Of is the outcome for a recipient whose deliveries are in the given states.
// One arrival is enough; until then anything still under way is worth waiting
// for; and what was stopped is not a failure.
func Of(states []delivery.State) Outcome {
	waiting, stopped := false, false
	for _, s := range states {
		switch {
		case s.Reached():
			return Reached
		case s.Waiting():
			waiting = true
		case s == delivery.Stopped:
			stopped = true
		}
	}
	switch {
	case waiting:
		return Waiting
	case stopped:
		return Stopped
	}
	return NotReached
}

// Best is the state to show for a recipient: the one that says most about
// the outcome. No states give Failed.
func Best(states []delivery.State) delivery.State {
	best := delivery.Failed
	for i, s := range states {
		if i == 0 || weight(s) > weight(best) {
			best = s
		}
	}
	return best
}

// weight orders states by how much they say: what got furthest, except that
// anything under way comes before a failure.
func weight(s delivery.State) int {
	order := []delivery.State{
		delivery.Failed, delivery.Expired, delivery.Stopped, delivery.Held, delivery.Queued,
		delivery.Retrying, delivery.Carrier, delivery.Arrived, delivery.Opened, delivery.Answered,
	}
	for i, o := range order {
		if o == s {
			return i
		}
	}
	return -1
}

// Figures are the counts of one message. Recipients is always Reached +
// Waiting + NotReached + Stopped; Answered is part of Reached.
type Figures struct {
	Recipients int `json:"recipients"`
	Reached    int `json:"reached"`
	Answered   int `json:"answered"`
	Waiting    int `json:"waiting"`
	NotReached int `json:"notReached"`
	Stopped    int `json:"stopped"`
	// LeftOut people were named and planned nothing; they are not recipients.
	LeftOut int `json:"leftOut"`
	// Told are dependents who were told through a guardian; nobody else counts them.
	Told       int `json:"told"`
	Deliveries int `json:"deliveries"`
	// Here is how many deliveries have not left and can still be stopped.
	Here int `json:"here"`
}

// Count adds one recipient with the states of their deliveries.
func (f *Figures) Count(states []delivery.State) {
	f.Recipients++
	switch Of(states) {
	case Reached:
		f.Reached++
		if Best(states) == delivery.Answered {
			f.Answered++
		}
	case Waiting:
		f.Waiting++
	case Stopped:
		f.Stopped++
	default:
		f.NotReached++
	}
}

// CountDelivery adds one delivery in a state.
func (f *Figures) CountDelivery(s delivery.State) {
	f.Deliveries++
	if s.Here() {
		f.Here++
	}
}

// Failure is one thing that carriers said of deliveries that did not arrive.
type Failure struct {
	Detail     string `json:"detail"`
	Deliveries int    `json:"deliveries"`
	Retrying   bool   `json:"retrying" doc:"It will be tried again"`
}

// Heard is the last thing heard of a delivery.
type Heard struct {
	State  delivery.State
	Detail string
}

// Failures counts what was said of deliveries that failed, or that are tried
// again, most first.
func Failures(heard []Heard) []Failure {
	counts := map[Failure]int{}
	for _, h := range heard {
		switch h.State {
		case delivery.Failed, delivery.Expired, delivery.Retrying:
			counts[Failure{Detail: h.Detail, Retrying: h.State == delivery.Retrying}]++
		}
	}
	list := make([]Failure, 0, len(counts))
	for f, n := range counts {
		f.Deliveries = n
		list = append(list, f)
	}
	slices.SortFunc(list, func(a, b Failure) int {
		return cmp.Or(b.Deliveries-a.Deliveries, strings.Compare(a.Detail, b.Detail))
	})
	return list
}
