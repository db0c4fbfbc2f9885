package dispatch

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"strconv"
	"strings"
	"time"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// feed leases what is due for a lane until ctx ends.
func (d *Dispatcher) feed(ctx context.Context, l *lane) {
	contents := map[int64]delivery.Content{}
	for ctx.Err() == nil {
		wait, err := d.refill(ctx, l, contents)
		if err != nil && ctx.Err() == nil {
			d.Log.Error("leasing", "channel", l.channel, "error", err)
			wait = afterError
		}
		if wait > 0 {
			nap(ctx, l.wake, wait)
		}
	}
}

// refill leases what is due for a lane, as far as there is room, and returns how
// long to wait before the next time; 0 when more may be due.
func (d *Dispatcher) refill(ctx context.Context, l *lane, contents map[int64]delivery.Content) (time.Duration, error) {
	if err := d.holdLate(ctx); err != nil {
		return 0, fmt.Errorf("looking for what is late: %w", err)
	}
	room, wait, err := d.roomFor(ctx, l)
	if err != nil || room.Most <= 0 {
		return wait, err
	}
	now := d.Now()
	leased, err := d.store.Lease(ctx, d.run, l.channel, room, l.after, now, now.Add(leaseFor))
	if err != nil {
		return 0, err
	}
	switch {
	case len(leased) == 0 && room.Others == 0:
		return wait, nil // the lane is full, and woken as soon as it is not
	case len(leased) == 0:
		return d.untilDue(ctx, l.channel), nil
	}
	l.after = leased[len(leased)-1].Message
	list, err := d.withContents(ctx, leased, contents)
	if err != nil {
		d.giveBack(l, leased)
		return 0, err
	}
	d.giveBack(l, l.push(d.space(l, list)))
	return 0, nil
}

const busyNap = time.Second

func (d *Dispatcher) untilDue(ctx context.Context, channel roster.Channel) time.Duration {
	due, err := d.store.NextDue(ctx, channel)
	if err != nil || due.IsZero() {
		return longestNap
	}
	return min(max(due.Sub(d.Now()), time.Millisecond), longestNap)
}

// keptContents is how many contents are remembered that many deliveries may share.
const keptContents = 64

// withContents adds what deliveries say. It remembers some of that.
func (d *Dispatcher) withContents(
	ctx context.Context, leased []store.Leased, known map[int64]delivery.Content,
) ([]work, error) {
	var missing []int64
	for _, one := range leased {
		if _, ok := known[one.ContentID]; !ok {
			missing = append(missing, one.ContentID)
		}
	}
	read, err := d.store.Contents(ctx, missing)
	if err != nil {
		return nil, err
	}
	list := make([]work, len(leased))
	for i, one := range leased {
		content, ok := known[one.ContentID]
		if !ok {
			content = read[one.ContentID]
		}
		list[i] = work{one, content}
	}
	if len(known)+len(read) > keptContents {
		clear(known)
	}
	for id, content := range read {
		if len(known) < keptContents {
			known[id] = content
		}
	}
	return list, nil
}

// handOver hands over what lies ready in a lane until ctx ends.
func (d *Dispatcher) handOver(ctx context.Context, l *lane, reserved bool) {
	for {
		w, ok := l.next(ctx, reserved)
		if !ok {
			return
		}
		d.hand(ctx, l, w)
	}
}

// grace is how long a hand-over that has begun may go on when the program ends.
const grace = 2 * time.Second

// hand hands over one delivery. When the end of the program broke it off, its lease
// runs out.
func (d *Dispatcher) hand(ctx context.Context, l *lane, w work) {
	ending, cancel := context.WithCancel(context.WithoutCancel(ctx))
	defer cancel()
	defer context.AfterFunc(ctx, func() { time.AfterFunc(grace, cancel) })()
	item, err := d.item(ending, w)
	if err != nil {
		d.Log.Error("reading what is to be handed over", "delivery", w.ID, "error", err)
		nap(ctx, nil, afterError)
		d.giveBack(l, []store.Leased{w.Leased})
		return
	}
	p, err := d.handTo(ending, l, w.Urgency, item)
	if errors.Is(err, ErrNobody) {
		d.giveBack(l, []store.Leased{w.Leased})
		return
	}
	if ending.Err() != nil && err != nil {
		return
	}
	h := d.outcome(ending, w.Leased, err)
	h.Carrier = p.Name
	e := entry{lane: l, id: w.ID, handover: &h}
	if err == nil {
		e.by = &p.at
	}
	d.book.add(e)
}

// outcome is what a carrier's answer makes of a delivery.
func (d *Dispatcher) outcome(ctx context.Context, one store.Leased, err error) store.Handover {
	if err == nil {
		return store.Handover{Leased: one.As(delivery.Carrier, "with the carrier")}
	}
	h := store.Handover{Leased: one.As("", err.Error())}
	var uncertain *carrier.Uncertain
	if errors.As(err, &uncertain) && !d.sendsAgain(ctx) {
		h.State = delivery.Undecided
		return h
	}
	failure := delivery.Failure{Attempts: one.Attempts + 1, QueuedAt: one.QueuedAt}
	var refusal *carrier.Refusal
	if errors.As(err, &refusal) {
		failure.Permanent, failure.RetryAfter, failure.Code = refusal.Permanent, refusal.RetryAfter, refusal.Code
		h.Gone, h.Blames, h.Code = refusal.Gone, refusal.Address, refusal.Code
	}
	h.State, h.Due = failure.Next(d.Now(), rand.Float64())
	return h
}

// sendsAgain reports whether the organisation sends again what nobody can tell of.
func (d *Dispatcher) sendsAgain(ctx context.Context) bool {
	o, err := d.store.Organisation(ctx)
	return err == nil && o.Sending.SendAgain
}

// item is what a carrier gets for a delivery.
func (d *Dispatcher) item(ctx context.Context, w work) (carrier.Item, error) {
	c, parts := w.content, w.content.Parts
	item := carrier.Item{
		Key: w.Key, To: w.Address, From: w.Sender, Subject: c.Subject, Body: c.Body, HTML: c.HTML, Language: c.Language,
	}
	if (len(parts.Choices) > 0 || w.Channel == roster.Push) && d.Answer != nil {
		item.Answer = d.Answer(w.Key)
	}
	switch w.Channel {
	case roster.Email:
		leadsTo(&item)
		item.From, item.FromName, item.ReplyTo = parts.Mailbox, w.Sender, parts.ReplyTo
		item.Replies = parts.Replies
		if parts.OneClick && d.OneClick != nil {
			item.OneClick = d.OneClick(w.Key)
		}
		for _, f := range parts.Files {
			file := carrier.File{Name: f.Name, Type: f.Type, Path: d.store.FilePath(f.Hash)}
			if c.Shows(f) {
				file.Shown = f.Hash
			}
			item.Files = append(item.Files, file)
		}
	case roster.Voice:
		item.Call = carrier.Call{RepeatKey: parts.RepeatKey, ConfirmKey: parts.ConfirmKey}
		for i := range parts.Choices {
			item.Call.AnswerKeys = append(item.Call.AnswerKeys, strconv.Itoa(i+1))
		}
		if parts.Recording != "" {
			item.Call.Recording = d.Recordings + parts.Recording
		}
	case roster.Push:
		device, err := d.store.Device(ctx, w.Address)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return item, fmt.Errorf("device %q: %w", w.Address, err)
		}
		item.Push = carrier.Push{
			Device: carrier.Device{Endpoint: device.Endpoint, P256dh: device.P256dh, Auth: device.Auth},
			Link:   c.Link, Badge: parts.Badge, Quiet: parts.Quiet, Urgency: parts.Urgency,
			Choices: parts.Choices,
		}
	}
	return item, nil
}

// leadsTo puts the recipient's own page into an email that asks something.
func leadsTo(item *carrier.Item) {
	if item.Answer == "" {
		return // it asks nothing
	}
	item.Body = strings.TrimRight(item.Body, "\n") + "\n\n" + item.Answer
	item.HTML = strings.ReplaceAll(item.HTML, `"`+delivery.AnswerPlace, `"`+item.Answer+"?say=")
}
