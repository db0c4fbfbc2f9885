package dispatch

import (
	"context"
	"fmt"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
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

// paused is how long nothing is handed over by a channel.
func (d *Dispatcher) paused(channel roster.Channel) time.Duration {
	d.troubling.Lock()
	defer d.troubling.Unlock()
	return max(0, d.troubles[channel].retryAt.Sub(d.Now()))
}

// claim takes what is due by a channel: a batch, a single delivery to see whether
// a carrier is still in trouble, nothing while it pauses. No judgement falls
// between the look at the pause and the claim.
func (d *Dispatcher) claim(ctx context.Context, channel roster.Channel) ([]store.Delivery, error) {
	d.troubling.Lock()
	defer d.troubling.Unlock()
	t, known := d.troubles[channel]
	most := batch
	now := d.Now()
	switch {
	case known && now.Before(t.retryAt):
		return nil, nil
	case known:
		most = 1
	}
	return d.store.Claim(ctx, channel, now, most)
}

// judge keeps whether the carrier of a batch is in trouble or well again.
func (d *Dispatcher) judge(ctx context.Context, channel roster.Channel, out outcome) error {
	d.troubling.Lock()
	defer d.troubling.Unlock()
	known, was := d.troubles[channel]
	now := d.Now()
	switch {
	case out.trouble != nil && now.Before(known.retryAt): // another batch found the same
		return nil
	case out.trouble != nil:
		known.tries++
		wait := max(delivery.Wait(known.tries, 0), out.trouble.RetryAfter)
		known.retryAt = now.Add(wait)
		if err := d.store.PutTrouble(ctx, channel, out.trouble.Detail, now, known.retryAt); err != nil {
			return fmt.Errorf("keeping a carrier's trouble: %w", err)
		}
		d.troubles[channel] = known
		d.Log.Warn("a carrier takes nothing", "channel", channel, "says", out.trouble.Detail, "tried again", known.retryAt)
	case was && len(out.handed) > 0:
		if err := d.store.DropTrouble(ctx, channel); err != nil {
			return fmt.Errorf("keeping that a carrier is well again: %w", err)
		}
		delete(d.troubles, channel)
	default:
		return nil
	}
	d.Troubled()
	return nil
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
