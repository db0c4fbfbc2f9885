// Package record works out what became of a message from the states of its
// deliveries.
package record

import (
	"cmp"
	"slices"
	"strings"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/money"
)

// Outcome is what a message came to for one recipient.
type Outcome string

const (
	Waiting    Outcome = "waiting"
	Reached    Outcome = "reached"
	Answered   Outcome = "answered" // reached, and they answered
	NotReached Outcome = "not-reached"
	Stopped    Outcome = "stopped"
)

// Outcomes lists every outcome, the best first.
var Outcomes = []Outcome{Reached, Answered, Waiting, NotReached, Stopped}

// outcomeOf is what a single delivery in a state comes to.
func outcomeOf(s delivery.State) Outcome {
	switch {
	case s == delivery.Answered:
		return Answered
	case s.Reached():
		return Reached
	case s.Waiting():
		return Waiting
	case s == delivery.Stopped:
		return Stopped
	}
	return NotReached
}

// says orders outcomes by how much they say: one arrival is enough; until then
// anything still under way is worth waiting for; and what was stopped is not a
// failure.
var says = map[Outcome]int{NotReached: 0, Stopped: 1, Waiting: 2, Reached: 3, Answered: 4}

// Of is the outcome for a recipient whose deliveries are in the given states.
func Of(states []delivery.State) Outcome {
	best := NotReached
	for _, s := range states {
		if o := outcomeOf(s); says[o] > says[best] {
			best = o
		}
	}
	return best
}

// SameOutcome reports whether a change of state changes no recipient's outcome.
func SameOutcome(from, to delivery.State) bool { return outcomeOf(from) == outcomeOf(to) }

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
		delivery.Retrying, delivery.Undecided, delivery.Carrier, delivery.Arrived, delivery.Opened, delivery.Answered,
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
	// Undecided is of how many deliveries nobody can tell whether they left.
	Undecided int `json:"undecided"`
	// StoppedDeliveries is how many were stopped before they left.
	StoppedDeliveries int `json:"stoppedDeliveries"`
	// Planned is what all deliveries cost, Spent those that left, Saved those that
	// were stopped.
	Planned money.Amount `json:"-"`
	Spent   money.Amount `json:"-"`
	Saved   money.Amount `json:"-"`
}

// AddRecipients counts n recipients with an outcome; less than none takes away.
func (f *Figures) AddRecipients(o Outcome, n int) {
	f.Recipients += n
	switch o {
	case Answered:
		f.Reached, f.Answered = f.Reached+n, f.Answered+n
	case Reached:
		f.Reached += n
	case Waiting:
		f.Waiting += n
	case Stopped:
		f.Stopped += n
	case NotReached:
		f.NotReached += n
	}
}

// AddDelivery counts a delivery in a state with its cost.
func (f *Figures) AddDelivery(s delivery.State, cost money.Amount) { f.countDelivery(s, 1, cost) }

// DropDelivery takes a delivery back that was in a state.
func (f *Figures) DropDelivery(s delivery.State, cost money.Amount) { f.countDelivery(s, -1, -cost) }

// MoveDelivery counts a delivery in another state than before.
func (f *Figures) MoveDelivery(from, to delivery.State, cost money.Amount) {
	f.countDelivery(from, -1, -cost)
	f.countDelivery(to, 1, cost)
}

func (f *Figures) countDelivery(s delivery.State, n int, cost money.Amount) {
	f.Deliveries += n
	f.Planned += cost
	switch {
	case s.Here():
		f.Here += n
	case s == delivery.Stopped:
		f.StoppedDeliveries, f.Saved = f.StoppedDeliveries+n, f.Saved+cost
	default:
		f.Spent += cost
	}
	if s == delivery.Undecided {
		f.Undecided += n
	}
}

// Failure is one thing that carriers said of deliveries that did not arrive.
type Failure struct {
	Detail     string `json:"detail"`
	Deliveries int    `json:"deliveries"`
	Retrying   bool   `json:"retrying" doc:"It will be tried again"`
}

// SortFailures puts what was said most often first.
func SortFailures(list []Failure) {
	slices.SortFunc(list, func(a, b Failure) int {
		return cmp.Or(b.Deliveries-a.Deliveries, strings.Compare(a.Detail, b.Detail))
	})
}
