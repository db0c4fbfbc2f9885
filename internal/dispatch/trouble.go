package dispatch

import (
	"context"
	"fmt"
	"time"

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

// paused is how long nothing is handed over by a channel; trying reports that its
// carrier was in trouble and a single delivery shows whether it still is.
func (d *Dispatcher) paused(channel roster.Channel) (wait time.Duration, trying bool) {
	d.troubling.Lock()
	defer d.troubling.Unlock()
	t, known := d.troubles[channel]
	if !known {
		return 0, false
	}
	return max(0, t.retryAt.Sub(d.Now())), true
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
		d.troubles[channel] = known
		d.Log.Warn("a carrier takes nothing", "channel", channel, "says", out.trouble.Detail, "tried again", known.retryAt)
		if err := d.store.PutTrouble(ctx, channel, out.trouble.Detail, now, known.retryAt); err != nil {
			return fmt.Errorf("keeping a carrier's trouble: %w", err)
		}
	case was && len(out.handed) > 0:
		delete(d.troubles, channel)
		if err := d.store.DropTrouble(ctx, channel); err != nil {
			return fmt.Errorf("keeping that a carrier is well again: %w", err)
		}
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
