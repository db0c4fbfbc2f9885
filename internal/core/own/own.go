// Package own makes the personal page of somebody: what they got, in the form that says
// most, with what they can do about it, and what they wrote.
package own

import (
	"cmp"
	"slices"
	"time"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
)

// Limits of a page.
const (
	Shows      = 90 * 24 * time.Hour // how far back it goes
	newFor     = 48 * time.Hour      // how long something counts as new that was not opened
	most       = 100                 // messages
	MostWrites = 30                  // things that somebody writes there
	MostFile   = 8 << 20             // bytes of a file that they send
	WritesIn   = 10 * time.Minute    // within which
)

// BackKey is the key of something that was written on the page of a delivery.
func BackKey(delivery, nonce string) string { return "back " + delivery + " " + nonce }

// Received is a delivery that left to somebody.
type Received struct {
	Message  int64
	Desk     bool // a desk said it
	Urgency  roster.Urgency
	Question *message.Question // that it asks; nil for none
	Confirms bool              // only an answer confirms that they know
	Answer   int               // which they gave last; 0 for none
	Minutes  int
	Job      roster.GroupID // to which it belongs; 0 for none
	// Interrupts says that a desk made it interrupt.
	Interrupts bool

	Delivery int64
	Key      string // of the delivery
	Channel  roster.Channel
	Address  string
	State    delivery.State
	Left     time.Time
	Subject  string
	Body     string
	Link     string
	Language string // BCP 47
	Parts    delivery.Parts
}

// Wrote is something that somebody wrote to us.
type Wrote struct {
	ID      int64
	At      time.Time
	Said    string
	Files   []attachment.File
	Message int64  // that it answers; 0 for none
	Source  string // the key under which it came
}

// Item is a message as its recipient sees it on their page.
type Item struct {
	Received         // by the delivery that says most
	New       bool   // left lately, and was not opened
	Confirmed bool   // they said that they know
	Foremost  bool   // it interrupts, or belongs to a job of theirs
	Waits     bool   // a foremost one that was not touched
	OnDevice  string // the key of the delivery to the device that looks; "" for none
	Wrote     []Wrote
}

// says is how much a form says, the most first.
var says = []roster.Channel{roster.Email, roster.Text, roster.Push, roster.Voice}

// better reports of two deliveries of a message which one the page shows: one that did
// not fail, then the one that says more.
func better(a, b Received) int {
	failed := func(r Received) int {
		if r.State == delivery.Failed || r.State == delivery.Undecided {
			return 1
		}
		return 0
	}
	return cmp.Or(
		cmp.Compare(failed(a), failed(b)), cmp.Compare(slices.Index(says, a.Channel), slices.Index(says, b.Channel)),
		cmp.Compare(a.Delivery, b.Delivery),
	)
}

// Page is what somebody got, the newest first, by all that left to them, and what they
// wrote beside what answers none of it. Jobs are theirs, and device is the push address
// that looks, "" for none.
func Page(
	received []Received, wrote []Wrote, jobs []roster.GroupID, device string, now time.Time,
) (items []Item, others []Wrote) {
	items, at := []Item{}, map[int64]int{}
	for _, r := range received {
		n, known := at[r.Message]
		if !known {
			n = len(items)
			at[r.Message] = n
			items = append(items, Item{Received: r, New: true})
		}
		items[n].take(r, device)
	}
	for n := range items {
		items[n].judge(jobs, now)
	}
	slices.SortStableFunc(items, func(a, b Item) int { return b.Left.Compare(a.Left) })
	items = items[:min(len(items), most)]
	return items, join(items, wrote)
}

// take adds a delivery to what is known of a message.
func (i *Item) take(r Received, device string) {
	i.Confirmed = i.Confirmed || r.State == delivery.Answered
	if device != "" && r.Channel == roster.Push && r.Address == device {
		i.OnDevice = r.Key
		i.Waits = !opened(r.State)
	}
	i.New = i.New && !opened(r.State)
	if better(r, i.Received) < 0 {
		i.Received = r
	}
}

// Fetched are those of some deliveries that a terminal has once its page fetches them:
// what was handed over to its push address.
func Fetched(received []Received, device string) []Received {
	var list []Received
	for _, r := range received {
		if device != "" && r.Channel == roster.Push && r.Address == device && r.State == delivery.Carrier {
			list = append(list, r)
		}
	}
	return list
}

func opened(s delivery.State) bool { return s == delivery.Opened || s == delivery.Answered }

// judge says of a message with all its deliveries whether it is new and foremost.
func (i *Item) judge(jobs []roster.GroupID, now time.Time) {
	i.New = i.New && i.Answer == 0 && now.Sub(i.Left) < newFor
	i.Foremost = i.Interrupts || i.Urgency == roster.Emergency || i.Job != 0 && slices.Contains(jobs, i.Job)
	i.Waits = i.Waits && i.Foremost && now.Sub(i.Left) < newFor
}

// join puts what somebody wrote to the messages that it answers, the oldest first, and
// returns the rest.
func join(items []Item, wrote []Wrote) []Wrote {
	others := []Wrote{}
	for _, w := range slices.Backward(wrote) {
		at := slices.IndexFunc(items, func(i Item) bool { return w.Message != 0 && i.Message == w.Message })
		if at < 0 {
			others = append(others, w)
			continue
		}
		items[at].Wrote = append(items[at].Wrote, w)
	}
	return others
}
