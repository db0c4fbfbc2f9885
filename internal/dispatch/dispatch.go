// Package dispatch takes deliveries that are due to their carriers, tries
// again what failed for now, and takes reports back.
//
// Each channel has a line of carriers, of which the first that is open takes the next
// delivery, and a lane: one goroutine leases what is due, the most urgent
// first, and several hands hand it over. One goroutine writes down what became of
// all hand-overs. A delivery is leased in the store before it is handed over; if
// the process ends between the two, the lease runs out, and what becomes of the
// delivery then depends on whether its carrier knows keys.
package dispatch

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// Carrier takes one delivery onward. It returns a *carrier.Refusal when the
// carrier answered and did not take it, and a *carrier.Trouble when it would take
// none at all.
type Carrier interface {
	Hand(context.Context, carrier.Item) error
}

// Store is where deliveries are kept.
type Store interface {
	Organisation(context.Context) (store.Organisation, error)
	FilePath(hash string) string
	Device(ctx context.Context, name string) (store.Device, error)
	Contents(ctx context.Context, ids []int64) (map[int64]delivery.Content, error)
	BeginRun(ctx context.Context, now time.Time) (run int64, err error)
	RunOut(ctx context.Context, run int64, known []int64, again bool, now time.Time) (messages []int64, err error)
	Beat(ctx context.Context, now time.Time, limit time.Duration) (late []int64, err error)
	Release(ctx context.Context, now time.Time) (messages []int64, err error)
	NextRelease(ctx context.Context, now time.Time) (time.Time, error)
	Lease(
		ctx context.Context, run int64, channel roster.Channel, room store.Room, after int64, now, until time.Time,
	) ([]store.Leased, error)
	Expired(ctx context.Context, now time.Time) ([]int64, error)
	Expire(ctx context.Context, id int64, now time.Time) error
	NextExpiry(context.Context) (time.Time, error)
	NextDue(ctx context.Context, channel roster.Channel) (time.Time, error)
	Finish(ctx context.Context, run int64, done []store.Handover, now time.Time) (messages []int64, err error)
	GiveBack(ctx context.Context, ids []int64, later map[int64]time.Time, now time.Time) error
	Troubles(context.Context) ([]store.Trouble, error)
	PutTrouble(
		ctx context.Context, channel roster.Channel, carrier int64, detail string, now, retryAt time.Time,
	) error
	DropTrouble(ctx context.Context, channel roster.Channel, carrier int64) error
	TakenOn(ctx context.Context, day string) ([]store.Taken, error)
	CountTaken(ctx context.Context, day string, more []store.Taken) error
	TakeReport(ctx context.Context, r delivery.Report, now time.Time) (int64, error)
}

// Options are how a dispatcher works.
type Options struct {
	Lines Lines
	Zone  *time.Location // whose days are counted; nil is UTC
	// Recordings is the URL below which carriers fetch recordings.
	Recordings string
	// OneClick is the URL by which the recipients of a delivery end emails of its kind, or
	// ""; nil gives none.
	OneClick func(key string) string
	// Answer is the URL of the page that takes the answer of a delivery's recipient.
	Answer func(key string) string
	Now    func() time.Time
	// Changed is told the message that moved on. It must not block.
	Changed func(messageID int64)
	// Troubled is told that a carrier is in trouble, or well again. It must not block.
	Troubled func()
	Log      *slog.Logger
}

// Dispatcher runs until its context ends.
type Dispatcher struct {
	store Store
	Options
	run   int64 // of this process, in the store
	lanes map[roster.Channel]*lane
	tick  chan struct{} // wakes the keeper
	book  *book

	beating sync.Mutex
	beat    time.Time // when Beat was last called

	lining sync.Mutex
	line   map[roster.Channel][]*post
	zone   *time.Location
	day    string // that is counted, ISO 8601
}

const (
	longestNap = time.Minute
	afterError = 2 * time.Second
	// leaseFor is longer than any hand-over takes, with every time limit that the
	// carriers have.
	leaseFor = 5 * time.Minute
)

// New makes a dispatcher; Run starts it.
func New(s Store, o Options) *Dispatcher {
	d := &Dispatcher{
		store: s, Options: o, lanes: map[roster.Channel]*lane{}, tick: make(chan struct{}, 1), book: newBook(),
	}
	for _, channel := range roster.Channels {
		d.lanes[channel] = newLane(channel)
	}
	d.Carry(o.Lines, cmp.Or(o.Zone, time.UTC))
	return d
}

// Wake makes the dispatcher look for work now.
func (d *Dispatcher) Wake() {
	poke(d.tick)
	for _, l := range d.lanes {
		poke(l.wake)
	}
}

func poke(wake chan<- struct{}) {
	select {
	case wake <- struct{}{}:
	default:
	}
}

// Run takes up what an earlier process left and dispatches until ctx ends.
func (d *Dispatcher) Run(ctx context.Context) error {
	if err := d.takeUp(ctx); err != nil {
		if ctx.Err() != nil {
			return nil
		}
		return err
	}
	var working, writing sync.WaitGroup
	written, stopWriting := context.WithCancel(context.WithoutCancel(ctx))
	defer stopWriting()
	writing.Go(func() { d.writeDown(written) })
	working.Go(func() { d.keep(ctx) })
	for _, l := range d.lanes {
		working.Go(func() { d.feed(ctx, l) })
		working.Go(func() { l.admit(ctx) })
		working.Go(func() { l.release(ctx) })
		for n := range l.hands {
			working.Go(func() { d.handOver(ctx, l, n < l.reserved) })
		}
	}
	working.Wait()
	for _, l := range d.lanes {
		d.giveBack(l, l.takeBack(func(store.Leased) bool { return true }))
	}
	stopWriting() // what is in the book by now is still written down
	writing.Wait()
	return nil
}

// takeUp goes on where an earlier process ended.
func (d *Dispatcher) takeUp(ctx context.Context) (err error) {
	if d.run, err = d.store.BeginRun(ctx, d.Now()); err != nil {
		return fmt.Errorf("taking up earlier deliveries: %w", err)
	}
	if err := d.runOut(ctx); err != nil {
		return fmt.Errorf("taking up earlier deliveries: %w", err)
	}
	if err := d.holdLate(ctx); err != nil {
		return fmt.Errorf("looking for what is late: %w", err)
	}
	if err := d.recall(ctx); err != nil {
		return fmt.Errorf("recalling how the carriers were: %w", err)
	}
	return nil
}

// Report keeps a carrier's report.
func (d *Dispatcher) Report(ctx context.Context, r delivery.Report) error {
	message, err := d.store.TakeReport(ctx, r, d.Now())
	if err == nil {
		d.Changed(message)
	}
	return err
}

// keep releases messages and ends leases that have run out until ctx ends.
func (d *Dispatcher) keep(ctx context.Context) {
	for ctx.Err() == nil {
		wait, err := d.release(ctx)
		if err != nil && ctx.Err() == nil {
			d.Log.Error("releasing", "error", err)
			wait = afterError
		}
		nap(ctx, d.tick, wait)
	}
}

// release lets messages leave whose hold is over and returns how long to wait
// before looking again.
func (d *Dispatcher) release(ctx context.Context) (time.Duration, error) {
	if err := d.holdLate(ctx); err != nil {
		return 0, fmt.Errorf("looking for what is late: %w", err)
	}
	released, err := d.store.Release(ctx, d.Now())
	if err != nil {
		return 0, err
	}
	for _, id := range released {
		d.Changed(id)
	}
	for _, l := range d.lanes {
		if len(released) > 0 {
			poke(l.wake)
		}
	}
	if err := d.runOut(ctx); err != nil {
		return 0, err
	}
	if err := d.expire(ctx); err != nil {
		return 0, err
	}
	wait := beatEvery
	for _, next := range []func(context.Context) (time.Time, error){
		d.store.NextExpiry,
		func(ctx context.Context) (time.Time, error) { return d.store.NextRelease(ctx, d.Now()) },
	} {
		at, err := next(ctx)
		if err != nil {
			return wait, err
		}
		if !at.IsZero() {
			wait = min(wait, max(at.Sub(d.Now()), shortestWait))
		}
	}
	return wait, nil
}

// shortestWait is how long it is waited at least: what is just being handed over when
// its time is over expires, or not, once that has ended.
const shortestWait = 50 * time.Millisecond

// expire ends what has not left of messages whose time is over.
func (d *Dispatcher) expire(ctx context.Context) error {
	over, err := d.store.Expired(ctx, d.Now())
	if err != nil {
		return err
	}
	for _, id := range over {
		d.takeBack(id)
		if err := d.store.Expire(ctx, id, d.Now()); err != nil {
			return fmt.Errorf("ending what is left of message %d: %w", id, err)
		}
		d.Changed(id)
	}
	return nil
}

// takeBack takes back what lies ready to be handed over of a message; it may leave
// later.
func (d *Dispatcher) takeBack(message int64) {
	for _, l := range d.lanes {
		d.giveBack(l, l.takeBack(func(one store.Leased) bool { return one.Message == message }))
	}
}

// Pause takes back what lies ready to be handed over of a message that was paused.
func (d *Dispatcher) Pause(message int64) { d.takeBack(message) }

// runOut ends leases that have run out.
func (d *Dispatcher) runOut(ctx context.Context) error {
	o, err := d.store.Organisation(ctx)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	var known []int64
	for _, l := range d.lanes {
		known = append(known, l.known()...)
	}
	messages, err := d.store.RunOut(ctx, d.run, known, o.Sending.SendAgain, d.Now())
	for _, id := range messages {
		d.Changed(id)
	}
	return err
}

// beatEvery is how often it is kept that the program is there.
const beatEvery = 30 * time.Second

// holdLate holds, before anything is released, what should have left while the
// program was down or the machine slept.
func (d *Dispatcher) holdLate(ctx context.Context) error {
	d.beating.Lock()
	defer d.beating.Unlock()
	now := d.Now()
	if now.Sub(d.beat).Abs() < beatEvery {
		return nil
	}
	o, err := d.store.Organisation(ctx)
	if err != nil {
		return err
	}
	late, err := d.store.Beat(ctx, now, o.Sending.Late())
	if err != nil {
		return err
	}
	d.beat = now
	for _, id := range late {
		d.Log.Warn("a message is late and waits for a yes", "message", id)
		d.Changed(id)
	}
	return nil
}

// Recall takes back what lies ready to be handed over of a message that was
// stopped, and waits for a moment until what is being handed over has ended. It
// returns how many deliveries are being handed over all the same.
func (d *Dispatcher) Recall(ctx context.Context, message int64) int {
	ctx, cancel := context.WithTimeout(ctx, recallTime)
	defer cancel()
	for _, l := range d.lanes {
		d.giveBack(l, l.recall(message))
	}
	left := 0
	for _, l := range d.lanes {
		left += l.await(ctx, message)
	}
	return left
}

// recallTime is how long Stop waits to say how many it stopped.
const recallTime = time.Second

func nap(ctx context.Context, wake <-chan struct{}, length time.Duration) {
	timer := time.NewTimer(length)
	defer timer.Stop()
	select {
	case <-ctx.Done():
	case <-timer.C:
	case <-wake:
	}
}
