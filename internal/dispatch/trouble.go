package dispatch

import (
	"context"
	"fmt"
	"time"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
)

// trouble is what is known of a carrier that takes nothing for a reason of its own.
type trouble struct {
	tries   int
	retryAt time.Time
}

// recallTroubles takes up what an earlier process knew.
func (d *Dispatcher) recallTroubles(ctx context.Context) error {
	known, err := d.store.Troubles(ctx)
	d.troubling.Lock()
	defer d.troubling.Unlock()
	for _, t := range known {
		d.troubles[t.Channel] = trouble{t.Tries, t.RetryAt}
	}
	return err
}

// pause reports whether a carrier is in trouble, and how long nothing is handed
// over to it.
func (d *Dispatcher) pause(channel roster.Channel) (known bool, wait time.Duration) {
	d.troubling.Lock()
	defer d.troubling.Unlock()
	t, known := d.troubles[channel]
	return known, max(0, t.retryAt.Sub(d.Now()))
}

// pauseFor lets a carrier alone that is in trouble, unless it is already. Nothing
// more of its lane is handed over.
func (d *Dispatcher) pauseFor(l *lane, t *carrier.Trouble) {
	d.troubling.Lock()
	defer d.troubling.Unlock()
	known, now := d.troubles[l.channel], d.Now()
	if now.Before(known.retryAt) {
		return
	}
	known.tries++
	known.retryAt = now.Add(max(delivery.Wait(known.tries, 0), t.RetryAfter))
	d.troubles[l.channel] = known
	d.giveBack(l, l.shutDown())
	d.Log.Warn("a carrier takes nothing", "channel", l.channel, "says", t.Detail, "tried again", known.retryAt)
	d.book.add(entry{note: func(ctx context.Context) error {
		if err := d.store.PutTrouble(ctx, l.channel, t.Detail, now, known.retryAt); err != nil {
			return fmt.Errorf("keeping a carrier's trouble: %w", err)
		}
		d.Troubled()
		return nil
	}})
}

// wellAgain keeps that a carrier takes deliveries.
func (d *Dispatcher) wellAgain(channel roster.Channel) {
	d.troubling.Lock()
	defer d.troubling.Unlock()
	if t, known := d.troubles[channel]; !known || d.Now().Before(t.retryAt) {
		return // what was under way when the trouble began says nothing about it
	}
	delete(d.troubles, channel)
	d.book.add(entry{note: func(ctx context.Context) error {
		if err := d.store.DropTrouble(ctx, channel); err != nil {
			return fmt.Errorf("keeping that a carrier is well again: %w", err)
		}
		d.Troubled()
		return nil
	}})
}

// TryNow lets a carrier that is in trouble be tried at once.
func (d *Dispatcher) TryNow(channel roster.Channel) {
	d.troubling.Lock()
	if t, known := d.troubles[channel]; known {
		t.retryAt = d.Now()
		d.troubles[channel] = t
	}
	d.troubling.Unlock()
	d.Wake()
}
