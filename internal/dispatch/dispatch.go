// Package dispatch takes deliveries that are due to their carriers, tries
// again what failed for now, and takes reports back.
//
// A delivery is claimed in the store before it is handed over and finished
// after; if the process ends between the two, it is handed over again under
// the same key, which the carrier knows.
package dispatch

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"golang.org/x/time/rate"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
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
	Message(ctx context.Context, id int64) (store.Message, error)
	FilePath(hash string) string
	Device(ctx context.Context, name string) (store.Device, error)
	Recover(context.Context) error
	Beat(ctx context.Context, now time.Time, limit time.Duration) (late []int64, err error)
	Release(ctx context.Context, now time.Time) ([]int64, error)
	Claim(ctx context.Context, channel roster.Channel, now time.Time, limit int) ([]store.Delivery, error)
	NextDue(ctx context.Context, channel roster.Channel) (time.Time, error)
	Finish(ctx context.Context, done []store.Handover, now time.Time) error
	Unclaim(ctx context.Context, ids []int64) error
	Troubles(context.Context) ([]store.Trouble, error)
	PutTrouble(ctx context.Context, channel roster.Channel, detail string, now, retryAt time.Time) error
	DropTrouble(ctx context.Context, channel roster.Channel) error
	TakeReport(ctx context.Context, r delivery.Report, now time.Time) (int64, error)
}

// Options are how a dispatcher works.
type Options struct {
	Carriers map[roster.Channel]Carrier
	// PerSecond limits the hand-overs of a channel; absent means no limit.
	PerSecond map[roster.Channel]float64
	// Recordings is the URL below which carriers fetch recordings.
	Recordings string
	Now        func() time.Time
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
	limits map[roster.Channel]*rate.Limiter
	wake   []chan struct{} // of each worker

	beating sync.Mutex
	beat    time.Time // when Beat was last called

	troubling sync.Mutex
	troubles  map[roster.Channel]trouble
}

const (
	batch      = 200
	atOnce     = 32
	workers    = 2 // of a channel: one hands over while the other writes down what became of its batch
	longestNap = time.Minute
	afterError = 2 * time.Second
)

// New makes a dispatcher; Run starts it.
func New(s Store, o Options) *Dispatcher {
	d := &Dispatcher{store: s, Options: o, limits: map[roster.Channel]*rate.Limiter{}, troubles: map[roster.Channel]trouble{}}
	for channel := range o.Carriers {
		if limit := o.PerSecond[channel]; limit > 0 {
			d.limits[channel] = rate.NewLimiter(rate.Limit(limit), max(1, int(limit)))
		}
	}
	for range workers * len(o.Carriers) {
		d.wake = append(d.wake, make(chan struct{}, 1))
	}
	return d
}

// Wake makes the dispatcher look for work now.
func (d *Dispatcher) Wake() {
	for _, wake := range d.wake {
		select {
		case wake <- struct{}{}:
		default:
		}
	}
}

// Run takes up what an earlier process left and dispatches until ctx ends.
func (d *Dispatcher) Run(ctx context.Context) error {
	if err := d.takeUp(ctx); err != nil && ctx.Err() == nil {
		return err
	}
	var all sync.WaitGroup
	for n, channel := range slices.Repeat(slices.Collect(maps.Keys(d.Carriers)), workers) {
		all.Go(func() { d.work(ctx, channel, d.wake[n]) })
	}
	all.Wait()
	return nil
}

// takeUp goes on where an earlier process ended.
func (d *Dispatcher) takeUp(ctx context.Context) error {
	if err := d.store.Recover(ctx); err != nil {
		return fmt.Errorf("taking up earlier deliveries: %w", err)
	}
	if err := d.holdLate(ctx); err != nil {
		return fmt.Errorf("looking for what is late: %w", err)
	}
	if err := d.recallTroubles(ctx); err != nil {
		return fmt.Errorf("recalling the carriers' troubles: %w", err)
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

// work hands over what is due by a channel until ctx ends.
func (d *Dispatcher) work(ctx context.Context, channel roster.Channel, wake <-chan struct{}) {
	for ctx.Err() == nil {
		worked, err := d.round(ctx, channel)
		if err != nil && ctx.Err() == nil {
			d.Log.Error("dispatching", "channel", channel, "error", err)
			nap(ctx, wake, afterError)
			continue
		}
		if !worked {
			nap(ctx, wake, d.untilDue(ctx, channel))
		}
	}
}

func nap(ctx context.Context, wake <-chan struct{}, length time.Duration) {
	timer := time.NewTimer(length)
	defer timer.Stop()
	select {
	case <-ctx.Done():
	case <-timer.C:
	case <-wake:
	}
}

func (d *Dispatcher) untilDue(ctx context.Context, channel roster.Channel) time.Duration {
	if wait := d.paused(channel); wait > 0 {
		return min(wait, longestNap)
	}
	due, err := d.store.NextDue(ctx, channel)
	if err != nil || due.IsZero() {
		return longestNap
	}
	return min(max(due.Sub(d.Now()), 0), longestNap)
}

// round hands over one batch and reports whether there was any.
func (d *Dispatcher) round(ctx context.Context, channel roster.Channel) (bool, error) {
	if err := d.holdLate(ctx); err != nil {
		return false, fmt.Errorf("looking for what is late: %w", err)
	}
	released, err := d.store.Release(ctx, d.Now())
	if err != nil {
		return false, fmt.Errorf("releasing: %w", err)
	}
	if len(released) > 0 {
		d.Wake()
	}
	for _, id := range released {
		d.Changed(id)
	}
	claimed, err := d.claim(ctx, channel)
	if err != nil || len(claimed) == 0 {
		return false, err
	}
	organisation, err := d.store.Organisation(ctx)
	if err != nil {
		return false, err
	}
	items, err := d.items(ctx, channel, organisation, claimed)
	if err != nil {
		return false, err
	}
	done := d.handAll(ctx, channel, items, claimed)
	// What was handed over must be written down, also while shutting down and
	// once there is room on the disk again: nothing else would know.
	writing := context.WithoutCancel(ctx)
	if err := d.insist(ctx, "recording hand-overs", func() error { return d.store.Finish(writing, done.handed, d.Now()) }); err != nil {
		return false, err
	}
	// The channel pauses before anything is given back, or it would be claimed again.
	if err := d.insist(ctx, "judging a carrier", func() error { return d.judge(writing, channel, done) }); err != nil {
		return false, err
	}
	if err := d.insist(ctx, "giving back what was not handed over", func() error { return d.store.Unclaim(writing, done.kept) }); err != nil {
		return false, err
	}
	seen := map[int64]bool{}
	for _, h := range done.handed {
		if !seen[h.Delivery.MessageID] {
			seen[h.Delivery.MessageID] = true
			d.Changed(h.Delivery.MessageID)
		}
	}
	return true, nil
}

// insist tries to write something down until it succeeds or ctx ends.
func (d *Dispatcher) insist(ctx context.Context, what string, write func() error) error {
	for {
		err := write()
		if err == nil {
			return nil
		}
		if ctx.Err() != nil {
			return fmt.Errorf("%s: %w", what, err)
		}
		d.Log.Error(what+"; tried again", "error", err)
		nap(ctx, nil, afterError)
	}
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

// outcome is what became of a batch.
type outcome struct {
	handed  []store.Handover
	kept    []int64          // deliveries that were given back, by identifier
	trouble *carrier.Trouble // for which they were
}

// handAll hands over a batch, several at once, until the carrier is in trouble.
// Deliveries that the end of ctx kept from being tried are in no list and stay
// claimed.
func (d *Dispatcher) handAll(ctx context.Context, channel roster.Channel, items []carrier.Item, claimed []store.Delivery) (out outcome) {
	var (
		mu   sync.Mutex
		all  sync.WaitGroup
		slot = make(chan struct{}, atOnce)
	)
	troubled := func() bool {
		mu.Lock()
		defer mu.Unlock()
		return out.trouble != nil
	}
	for i, one := range claimed {
		if troubled() {
			mu.Lock()
			out.kept = append(out.kept, one.ID)
			mu.Unlock()
			continue
		}
		if limit := d.limits[channel]; limit != nil && limit.Wait(ctx) != nil {
			break
		}
		slot <- struct{}{}
		all.Go(func() {
			defer func() { <-slot }()
			handover, trouble, tried := d.hand(ctx, channel, items[i], one)
			mu.Lock()
			defer mu.Unlock()
			switch {
			case trouble != nil:
				out.trouble, out.kept = trouble, append(out.kept, one.ID)
			case tried:
				out.handed = append(out.handed, handover)
			}
		})
	}
	all.Wait()
	return out
}

// hand hands over one delivery. Without tried the end of ctx kept it from being
// tried; with a trouble it is given back.
func (d *Dispatcher) hand(ctx context.Context, channel roster.Channel, item carrier.Item, one store.Delivery) (h store.Handover, trouble *carrier.Trouble, tried bool) {
	err := d.Carriers[channel].Hand(ctx, item)
	if err == nil {
		return store.Handover{Delivery: one, State: delivery.Carrier, Due: d.Now(), Detail: "with the carrier"}, nil, true
	}
	if ctx.Err() != nil {
		return h, nil, false
	}
	if errors.As(err, &trouble) {
		return h, trouble, true
	}
	failure := delivery.Failure{Attempts: one.Attempts + 1, QueuedAt: one.QueuedAt}
	h = store.Handover{Delivery: one, Detail: err.Error()}
	var refusal *carrier.Refusal
	if errors.As(err, &refusal) {
		failure.Permanent, failure.RetryAfter = refusal.Permanent, refusal.RetryAfter
		h.Gone, h.Blames = refusal.Gone, refusal.Address
	}
	h.State, h.Due = failure.Next(d.Now(), rand.Float64())
	return h, nil, true
}

// items are what is handed over for deliveries, with what goes along with
// their messages.
func (d *Dispatcher) items(ctx context.Context, channel roster.Channel, o store.Organisation, claimed []store.Delivery) ([]carrier.Item, error) {
	drafts := map[int64]message.Draft{}
	items := make([]carrier.Item, len(claimed))
	for i, one := range claimed {
		draft, known := drafts[one.MessageID]
		if !known {
			m, err := d.store.Message(ctx, one.MessageID)
			if err != nil {
				return nil, fmt.Errorf("message %d: %w", one.MessageID, err)
			}
			draft = m.Draft
			drafts[one.MessageID] = draft
		}
		items[i] = d.itemOf(channel, o, one, draft)
		if channel != roster.Push {
			continue
		}
		device, err := d.store.Device(ctx, one.Address)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return nil, fmt.Errorf("device %q: %w", one.Address, err)
		}
		items[i].Push.Device = carrier.Device{Endpoint: device.Endpoint, P256dh: device.P256dh, Auth: device.Auth}
	}
	return items, nil
}

func (d *Dispatcher) itemOf(channel roster.Channel, o store.Organisation, one store.Delivery, draft message.Draft) carrier.Item {
	item := carrier.Item{Key: one.Key, To: one.Address, Subject: one.Subject, Body: one.Body, HTML: one.HTML, Language: o.Language}
	switch channel {
	case roster.Email:
		item.ReplyTo = draft.ReplyTo
		item.From, item.FromName = o.MailFrom, cmp.Or(one.Sender, o.MailName)
		shown := draft.Email.Images()
		for _, f := range draft.Files {
			file := carrier.File{Name: f.Name, Type: f.Type, Path: d.store.FilePath(f.Hash)}
			if slices.Contains(shown, f.Hash) {
				file.Shown = f.Hash
			}
			item.Files = append(item.Files, file)
		}
		return item
	case roster.Push:
		item.Push = carrier.Push{Link: one.Link, Badge: draft.Push.Badge, Quiet: draft.PushIsQuiet(), Urgency: draft.Urgency}
		return item
	case roster.Voice:
		item.Call.RepeatKey, item.Call.ConfirmKey = draft.Voice.RepeatKey, draft.Voice.ConfirmKey
		if r := draft.Voice.Recording; r != nil {
			item.Call.Recording = d.Recordings + r.Hash
		}
	}
	item.From = cmp.Or(one.Sender, o.NumberFrom)
	return item
}
