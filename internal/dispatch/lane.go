package dispatch

import (
	"context"
	"slices"
	"sync"

	"golang.org/x/time/rate"

	"upperlantern/internal/core/carrying"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// work is a delivery that lies ready to be handed over.
type work struct {
	store.Leased
	content delivery.Content
}

// lane is the way of a channel's deliveries to its carrier.
type lane struct {
	channel  roster.Channel
	hands    int           // how many are handed over at once
	reserved int           // of them for emergencies
	largest  int           // how many are leased at once, besides emergencies, without a limit
	wake     chan struct{} // of the one that feeds the lane
	after    int64         // the message that had the last turn
	pace     *carrying.Pace

	mu       sync.Mutex
	changed  *sync.Cond
	limit    *rate.Limiter // of hand-overs; nil is none
	most     int           // how many are leased at once, besides emergencies
	ready    map[roster.Urgency][]work
	inHand   map[int64]int64 // messages by the deliveries that are leased and not written down
	recalled map[int64]bool  // messages that were stopped
	admitted int             // hand-overs that the limit allows now
	shut     bool            // the carrier is in trouble: nothing is handed over
}

const (
	usualHands    = 32
	reservedHands = 8
	leasedAtOnce  = 512
	mailHands     = 16
	mailsAtOnce   = 24 // of which a crash leaves nobody knowing whether they left
	mailsReserved = 4
)

func newLane(channel roster.Channel) *lane {
	l := &lane{
		channel: channel, hands: usualHands + reservedHands, reserved: reservedHands, largest: leasedAtOnce,
		wake:  make(chan struct{}, 1),
		ready: map[roster.Urgency][]work{}, inHand: map[int64]int64{}, recalled: map[int64]bool{},
	}
	l.changed = sync.NewCond(&l.mu)
	if channel == roster.Email {
		l.hands, l.reserved, l.largest = mailHands+mailsReserved, mailsReserved, mailsAtOnce
	}
	l.most = l.largest
	return l
}

// limitTo lets so many deliveries a second go; 0 is no limit.
func (l *lane) limitTo(perSecond float64) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.limit == nil && perSecond <= 0 || l.limit != nil && l.limit.Limit() == rate.Limit(perSecond) {
		return
	}
	l.limit, l.most, l.admitted = nil, l.largest, 0
	if perSecond > 0 {
		l.limit = rate.NewLimiter(rate.Limit(perSecond), max(1, int(perSecond)))
		l.most = min(l.largest, max(1, int(perSecond)))
	}
	l.changed.Broadcast()
}

// room is how many deliveries may be leased for the lane.
func (l *lane) room() store.Room {
	l.mu.Lock()
	defer l.mu.Unlock()
	// Emergencies find as much room again when others fill the lane.
	r := store.Room{Most: 2*l.most - len(l.inHand), Others: l.most - len(l.inHand)}
	if r.Others < l.most/2 {
		r.Others = 0 // many at once cost little more than few
	}
	return r
}

// empty reports whether nothing of the lane is leased.
func (l *lane) empty() bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return len(l.inHand) == 0
}

// push lays deliveries ready and returns those that are not to leave any more.
func (l *lane) push(list []work) (back []store.Leased) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for _, w := range list {
		l.inHand[w.ID] = w.Message
		if l.shut || l.recalled[w.Message] {
			back = append(back, w.Leased)
			continue
		}
		l.ready[w.Urgency] = append(l.ready[w.Urgency], w)
	}
	l.changed.Broadcast()
	return back
}

// hold keeps a delivery in hand that is to be given back.
func (l *lane) hold(w work) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.inHand[w.ID] = w.Message
}

// release lets everybody look again who waits for the lane, when ctx has ended.
func (l *lane) release(ctx context.Context) {
	<-ctx.Done()
	l.mu.Lock()
	defer l.mu.Unlock()
	l.changed.Broadcast()
}

// next waits for a delivery to be handed over: the most urgent, and for a reserved
// hand an emergency. Without ok, ctx has ended.
func (l *lane) next(ctx context.Context, reserved bool) (w work, ok bool) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for ctx.Err() == nil {
		if w, ok := l.pick(reserved); ok {
			return w, true
		}
		l.changed.Wait()
	}
	return w, false
}

func (l *lane) pick(reserved bool) (w work, ok bool) {
	if l.limit != nil && l.admitted == 0 {
		return w, false
	}
	for _, urgency := range slices.Backward(roster.Urgencies) {
		if reserved && urgency != roster.Emergency {
			return w, false
		}
		if list := l.ready[urgency]; len(list) > 0 {
			l.ready[urgency] = list[1:]
			if l.limit != nil {
				l.admitted--
				l.changed.Broadcast()
			}
			return list[0], true
		}
	}
	return w, false
}

// waiting reports whether a delivery lies ready.
func (l *lane) waiting() bool {
	for _, list := range l.ready {
		if len(list) > 0 {
			return true
		}
	}
	return false
}

// admit lets deliveries of a limited lane go, one by one, until ctx ends.
func (l *lane) admit(ctx context.Context) {
	for ctx.Err() == nil {
		l.mu.Lock()
		for ctx.Err() == nil && (l.limit == nil || l.admitted > 0 || !l.waiting()) {
			l.changed.Wait()
		}
		limit := l.limit
		l.mu.Unlock()
		if limit == nil || limit.Wait(ctx) != nil {
			return
		}
		l.mu.Lock()
		l.admitted++
		l.changed.Broadcast()
		l.mu.Unlock()
	}
}

// takeBack takes ready deliveries out of the lane; they stay in hand until they
// are given back.
func (l *lane) takeBack(which func(store.Leased) bool) (back []store.Leased) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for urgency, list := range l.ready {
		var rest []work
		for _, w := range list {
			if which(w.Leased) {
				back = append(back, w.Leased)
			} else {
				rest = append(rest, w)
			}
		}
		l.ready[urgency] = rest
	}
	return back
}

// recall takes the deliveries of a stopped message out of the lane, now and later.
func (l *lane) recall(message int64) []store.Leased {
	l.mu.Lock()
	l.recalled[message] = true
	l.mu.Unlock()
	return l.takeBack(func(one store.Leased) bool { return one.Message == message })
}

// shutDown takes everything out of the lane of a carrier in trouble.
func (l *lane) shutDown() []store.Leased {
	l.mu.Lock()
	l.shut = true
	l.mu.Unlock()
	return l.takeBack(func(store.Leased) bool { return true })
}

// open lets deliveries into the lane again.
func (l *lane) open() {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.shut = false
}

// settle forgets deliveries about which everything was written down.
func (l *lane) settle(ids []int64) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for _, id := range ids {
		delete(l.inHand, id)
	}
	l.changed.Broadcast()
	poke(l.wake)
}

// known are the deliveries that are leased and not written down.
func (l *lane) known() []int64 {
	l.mu.Lock()
	defer l.mu.Unlock()
	ids := make([]int64, 0, len(l.inHand))
	for id := range l.inHand {
		ids = append(ids, id)
	}
	return ids
}

// await waits until no delivery of a message is in hand, or until ctx ends, and
// returns how many are.
func (l *lane) await(ctx context.Context, message int64) int {
	defer context.AfterFunc(ctx, func() {
		l.mu.Lock()
		defer l.mu.Unlock()
		l.changed.Broadcast()
	})()
	l.mu.Lock()
	defer l.mu.Unlock()
	for {
		n := 0
		for _, m := range l.inHand {
			if m == message {
				n++
			}
		}
		if n == 0 || ctx.Err() != nil {
			return n
		}
		l.changed.Wait()
	}
}
