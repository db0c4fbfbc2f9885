// Package delivery holds the states a delivery passes through and when a
// failed hand-over is tried again.
package delivery

import (
	"math"
	"strings"
	"time"

	"upperlantern/internal/core/money"
	"upperlantern/internal/core/roster"
)

// State is how far a delivery got.
type State string

const (
	Held     State = "held"     // waits through the hold, or for its time
	Queued   State = "queued"   // may leave now
	Retrying State = "retrying" // failed for now, will be tried again
	Carrier  State = "carrier"  // with the carrier
	// Undecided is a delivery of which nobody can tell whether it left: the program
	// ended while it was handed over to a carrier that knows no keys.
	Undecided State = "undecided"
	Expired   State = "expired" // too late to be worth sending
	Failed    State = "failed"  // failed for good
	Stopped   State = "stopped" // the sender stopped it before it left
	Arrived   State = "arrived"
	Opened    State = "opened" // or heard, for a call
	Answered  State = "answered"
)

// States lists every state from the first to the last.
var States = []State{Held, Queued, Retrying, Undecided, Carrier, Expired, Failed, Stopped, Arrived, Opened, Answered}

var stateWords = map[State]string{
	Held: "on hold", Queued: "about to leave", Retrying: "failed for now", Undecided: "not known if it left",
	Carrier: "with the carrier", Expired: "too late", Failed: "failed for good", Stopped: "stopped", Arrived: "arrived",
	Opened: "opened", Answered: "answered",
}

// Words says a state the way the interface does.
func (s State) Words() string { return stateWords[s] }

// rank orders states: a report only ever moves a delivery up. A failure can
// still be followed by an arrival, since some carriers give up too early, but
// nothing that arrived can fail any more.
var rank = map[State]int{
	Held: 0, Queued: 1, Retrying: 1, Undecided: 2, Carrier: 3,
	Expired: 4, Failed: 4, Stopped: 4,
	Arrived: 5, Opened: 6, Answered: 7,
}

// Valid reports whether s is a state.
func (s State) Valid() bool { _, ok := rank[s]; return ok }

// Envelope is where a delivery goes and what that takes: all of it but what it says.
type Envelope struct {
	Channel roster.Channel
	Address string // a mailbox, a number in E.164, or the name of a device
	Sender  string // the sender's name of an email, the number of a text or a call
	Step    int    // on which it was planned, from 1
	Parts   int    // of a text
	Seconds int    // of a call, estimated
	Cost    money.Amount
}

// Delivery is an envelope on its way.
type Delivery struct {
	ID      int64
	Message int64
	Envelope
	Key       string // the idempotency key of its hand-over
	State     State
	Attempts  int
	Detail    string    // the last thing heard
	QueuedAt  time.Time // when it was first free to leave
	UpdatedAt time.Time
}

// Reached reports whether the delivery got to its address.
func (s State) Reached() bool { return rank[s] >= rank[Arrived] }

// MayBeThere reports whether the delivery is at its address, or may be for all that is
// known: some carriers never report.
func (s State) MayBeThere() bool { return s == Undecided || s == Carrier || s.Reached() }

// Waiting reports whether nothing final is known yet.
func (s State) Waiting() bool { return rank[s] <= rank[Carrier] }

// Here reports whether the delivery has not left yet, so that it can be stopped.
func (s State) Here() bool { return rank[s] < rank[Undecided] }

// Of is the state to show of a delivery whose message is held, or not.
func (s State) Of(held bool) State {
	if held && s.Here() {
		return Held
	}
	return s
}

// Abandoned is what becomes of a delivery whose hand-over was interrupted: what a
// report told of it meanwhile stands. Stopped says that its message was stopped,
// again that the organisation sends again what nobody can tell of.
func (s State) Abandoned(c roster.Channel, stopped, again bool) State {
	switch {
	case !s.Here():
		return s
	case c == roster.Email && !again:
		return Undecided
	case stopped:
		return Stopped
	}
	return s
}

// Advance is the state after a report. Reports may be late, doubled or out of
// order: one that would move the delivery backwards or sideways changes nothing.
func Advance(current, reported State) State {
	if rank[reported] > rank[current] {
		return reported
	}
	return current
}

// Health is what a state teaches about the address: known is false when it
// teaches nothing. Gone means that the carrier says there is no such address.
func Health(s State, gone bool) (health roster.Health, known bool) {
	switch {
	case s.Reached():
		return roster.Good, true
	case s == Failed && gone:
		return roster.Dead, true
	case s == Failed:
		return roster.Failing, true
	}
	return "", false
}

// failuresUntilDead is how many deliveries in a row must fail for good at an address
// before nothing is sent to it any more.
const failuresUntilDead = 3

// Worn is what so many deliveries in a row that failed for good make of an address. A
// call that nobody takes says nothing of the number.
func Worn(c roster.Channel, failures int) roster.Health {
	if c != roster.Voice && failures >= failuresUntilDead {
		return roster.Dead
	}
	return roster.Failing
}

// Retry policy: growing waits, jittered so that a carrier that comes back is
// not met by everything at once.
const (
	firstWait   = 5 * time.Second
	longestWait = 15 * time.Minute
	// GiveUpAfter is how long a delivery is tried before it expires.
	GiveUpAfter = 24 * time.Hour
)

// waits are the first and the longest wait for what a carrier says with a code, by its
// subject and detail (RFC 3463 §3.3, §3.8).
var waits = map[string][2]time.Duration{
	"2.1": {15 * time.Minute, 2 * time.Hour}, // the mailbox is switched off
	"2.2": {15 * time.Minute, 2 * time.Hour}, // the mailbox is full
	"7":   {5 * time.Minute, time.Hour},      // security or policy: greylisting says so
}

// Wait is the time until the next try after the given number of failed
// attempts (1 or more). Jitter, 0 to 1, takes away up to half of it.
func Wait(attempts int, jitter float64) time.Duration { return WaitFor("", attempts, jitter) }

// WaitFor is Wait for what was said with an enhanced status code (RFC 3463), or "".
func WaitFor(code string, attempts int, jitter float64) time.Duration {
	first, longest := firstWait, longestWait
	_, rest, _ := strings.Cut(code, ".")
	subject, _, _ := strings.Cut(rest, ".")
	for _, kind := range []string{subject, rest} {
		if of, known := waits[kind]; known {
			first, longest = of[0], of[1]
		}
	}
	wait := float64(first) * math.Pow(2, float64(max(attempts, 1)-1))
	return time.Duration(min(wait, float64(longest)) * (1 - jitter/2))
}

// Failure is a hand-over that a carrier did not take.
type Failure struct {
	Permanent bool      // the carrier will never take it
	Code      string    // what the carrier said, RFC 3463, or ""
	Attempts  int       // including this one
	QueuedAt  time.Time // when the delivery was first free to leave
	// RetryAfter is how long the carrier asks to wait, at least.
	RetryAfter time.Duration
}

// Next is what a failed hand-over leads to at an instant: it failed for good,
// expired, or is tried again when due.
func (f Failure) Next(now time.Time, jitter float64) (state State, due time.Time) {
	if f.Permanent {
		return Failed, now
	}
	due = now.Add(max(WaitFor(f.Code, f.Attempts, jitter), f.RetryAfter))
	if due.Sub(f.QueuedAt) > GiveUpAfter {
		return Expired, now
	}
	return Retrying, due
}

// Via is the way by which a report came.
type Via string

const (
	ViaMail    Via = "mail"    // a notification to the return address of an email, from anybody who knows it
	ViaGateway Via = "gateway" // signed by the gateway
	ViaDevice  Via = "device"  // from the device that shows a push
)

// Speaks reports whether a way is one of the channel: nothing else moves its
// deliveries.
func (v Via) Speaks(c roster.Channel) bool {
	switch v {
	case ViaMail:
		return c == roster.Email
	case ViaGateway:
		return c == roster.Text || c == roster.Voice
	case ViaDevice:
		return c == roster.Push
	}
	return false
}

// ViaOf is the way by which reports about a channel come; "" of none.
func ViaOf(c roster.Channel) Via {
	for _, v := range []Via{ViaMail, ViaGateway, ViaDevice} {
		if v.Speaks(c) {
			return v
		}
	}
	return ""
}

// Report is what a carrier says about a delivery after it took it.
type Report struct {
	Via         Via
	DeliveryKey string // the idempotency key of the hand-over
	Key         string // the carrier's own, the same when it reports twice
	State       State
	Code        string // an enhanced status code (RFC 3463), if it gives one
	Detail      string
	Gone        bool   // there is no such address
	Pressed     string // a key during a call; "" for none
	OccurredAt  time.Time
}

// Limits of what a report may say.
const (
	LongestKey    = 200 // characters of either key
	longestDetail = 300
	longestCode   = 20
	oldestReport  = 30 * 24 * time.Hour
)

// Bounded is a report within its limits: a time that is missing, in the future or
// long past is now, and a long detail is cut.
func (r Report) Bounded(now time.Time) Report {
	if r.OccurredAt.After(now) || now.Sub(r.OccurredAt) > oldestReport {
		r.OccurredAt = now
	}
	if len(r.Code) > longestCode {
		r.Code = ""
	}
	r.Detail = strings.Join(strings.Fields(r.Detail), " ")
	if detail := []rune(r.Detail); len(detail) > longestDetail {
		r.Detail = string(detail[:longestDetail-1]) + "…"
	}
	return r
}

// Health is what a report teaches about the address. A failure that is heard from
// a returned email alone can be forged by whoever was forwarded one: it makes the
// address doubtful, and no more than that.
func (r Report) Health() (health roster.Health, known bool) {
	if r.Via == ViaMail && r.State == Failed {
		return roster.Failing, true
	}
	return Health(r.State, r.Gone)
}
