package dispatch

import (
	"context"
	"sync"
	"time"

	"upperlantern/internal/store"
)

// entry is something that is to be written down: what became of a delivery, that
// one is given back, or how a carrier is.
type entry struct {
	lane     *lane
	id       int64           // of the delivery, 0 for none
	handover *store.Handover // nil for one that is given back
	due      time.Time       // of one that is given back: when it leaves, or zero for at once
	by       *place          // the carrier that took it; nil when none did
	note     func(context.Context) error
}

// book holds what is to be written down. What cannot be written stays in it until
// it can.
type book struct {
	mu      sync.Mutex
	entries []entry
	wake    chan struct{}
}

func newBook() *book { return &book{wake: make(chan struct{}, 1)} }

func (b *book) add(e entry) {
	b.mu.Lock()
	b.entries = append(b.entries, e)
	b.mu.Unlock()
	poke(b.wake)
}

func (b *book) take() []entry {
	b.mu.Lock()
	defer b.mu.Unlock()
	some := b.entries
	b.entries = nil
	return some
}

// giveBack has deliveries given back that were not handed over.
func (d *Dispatcher) giveBack(l *lane, list []store.Leased) {
	for _, one := range list {
		d.book.add(entry{lane: l, id: one.ID})
	}
}

// writeDown writes down what is in the book until ctx ends and the book is empty.
// What fails is tried again: nothing else knows of it.
func (d *Dispatcher) writeDown(ctx context.Context) {
	for {
		some := d.book.take()
		if len(some) > 0 {
			d.write(ctx, some)
			continue
		}
		select {
		case <-d.book.wake:
		case <-ctx.Done():
			d.write(ctx, d.book.take())
			return
		}
	}
}

// write writes entries down, in the order in which they concern each other: what
// was handed over, then how a carrier is, then what is given back.
func (d *Dispatcher) write(ctx context.Context, some []entry) {
	var done []store.Handover
	var back []int64
	later := map[int64]time.Time{}
	settled, taken := map[*lane][]int64{}, map[place]int{}
	for _, e := range some {
		switch {
		case e.handover != nil:
			done = append(done, *e.handover)
		case e.id != 0:
			back = append(back, e.id)
			if !e.due.IsZero() {
				later[e.id] = e.due
			}
		}
		if e.id != 0 {
			settled[e.lane] = append(settled[e.lane], e.id)
		}
		if e.by != nil {
			taken[*e.by]++
		}
	}
	writing := context.WithoutCancel(ctx)
	var messages []int64
	if len(done) > 0 && !d.insist(ctx, "recording hand-overs", func() (err error) {
		messages, err = d.store.Finish(writing, d.run, done, d.Now())
		return err
	}) {
		return
	}
	if len(taken) > 0 && !d.insist(ctx, "counting what carriers took", func() error { return d.countTaken(writing, taken) }) {
		return
	}
	for _, e := range some {
		if e.note != nil && !d.insist(ctx, "keeping how a carrier is", func() error { return e.note(writing) }) {
			return
		}
	}
	if len(back) > 0 && !d.insist(ctx, "giving back what was not handed over", func() error { return d.store.GiveBack(writing, back, later, d.Now()) }) {
		return
	}
	for l, ids := range settled {
		l.settle(ids)
	}
	for _, id := range messages {
		d.Changed(id)
	}
}

// insist tries to write something down until it succeeds or ctx ends, and reports
// whether it did.
func (d *Dispatcher) insist(ctx context.Context, what string, write func() error) bool {
	for {
		err := write()
		if err == nil {
			return true
		}
		d.Log.Error(what, "error", err)
		if ctx.Err() != nil {
			return false
		}
		nap(ctx, nil, afterError)
	}
}

func (d *Dispatcher) countTaken(ctx context.Context, taken map[place]int) error {
	d.lining.Lock()
	day := d.day
	d.lining.Unlock()
	more := make([]store.Taken, 0, len(taken))
	for at, n := range taken {
		more = append(more, store.Taken{Channel: at.channel, Carrier: at.id, Count: n})
	}
	return d.store.CountTaken(ctx, day, more)
}
