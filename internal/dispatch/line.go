package dispatch

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/carrying"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// Post is a carrier in its channel's order.
type Post struct {
	ID        int64 // 0 is what the program was started with
	Name      string
	Carrier   Carrier
	PerSecond float64 // the most hand-overs in a second; 0 is no limit
	PerDay    int     // the most that it takes in a day; 0 is no limit
	PerDomain int     // of email, the most in a minute to one domain; 0 is no limit
}

// Lines are the carriers of each channel, in the order in which they are tried.
type Lines map[roster.Channel][]Post

// place names a carrier of a channel.
type place struct {
	channel roster.Channel
	id      int64
}

// post is a carrier with what is known of it.
type post struct {
	Post
	at       place
	troubled bool // it takes nothing for a reason of its own
	tries    int  // how often it was in trouble since it last was well
	retryAt  time.Time
	trying   bool // a delivery finds out whether it is well again
	taken    int  // today
}

func (p *post) full() bool { return p.PerDay > 0 && p.taken >= p.PerDay }

// Carry exchanges the carriers of all channels. What is known of one that stays is
// kept; one that is in trouble is tried at once.
func (d *Dispatcher) Carry(lines Lines, zone *time.Location) {
	d.lining.Lock()
	before := d.line
	d.line, d.zone = map[roster.Channel][]*post{}, zone
	for _, channel := range roster.Channels {
		for _, one := range lines[channel] {
			p := &post{Post: one, at: place{channel, one.ID}}
			if known := find(before[channel], one.ID); known != nil {
				p.troubled, p.tries, p.retryAt, p.taken = known.troubled, known.tries, d.Now(), known.taken
			}
			d.line[channel] = append(d.line[channel], p)
		}
		for _, gone := range before[channel] {
			if gone.troubled && find(d.line[channel], gone.ID) == nil {
				d.forgetTrouble(gone.at)
			}
		}
		d.lanes[channel].limitTo(d.limitOf(channel))
	}
	d.lining.Unlock()
	d.Wake()
}

func find(line []*post, id int64) *post {
	at := slices.IndexFunc(line, func(p *post) bool { return p.ID == id })
	if at < 0 {
		return nil
	}
	return line[at]
}

// limitOf is how many deliveries a second the carrier takes that is next.
func (d *Dispatcher) limitOf(channel roster.Channel) float64 {
	line := d.line[channel]
	if at := carrying.Pick(states(line), false, d.Now()); at >= 0 {
		return line[at].PerSecond
	}
	return 0
}

func states(line []*post) []carrying.State {
	list := make([]carrying.State, len(line))
	for i, p := range line {
		list[i] = carrying.State{Troubled: p.troubled, RetryAt: p.retryAt, Trying: p.trying, Full: p.full()}
	}
	return list
}

// Off are the channels that nothing carries.
func (d *Dispatcher) Off() []roster.Channel {
	d.lining.Lock()
	defer d.lining.Unlock()
	var off []roster.Channel
	for _, c := range roster.Channels {
		if len(d.line[c]) == 0 {
			off = append(off, c)
		}
	}
	return off
}

// recall takes up what an earlier process knew of the carriers.
func (d *Dispatcher) recall(ctx context.Context) error {
	troubles, err := d.store.Troubles(ctx)
	if err != nil {
		return err
	}
	d.lining.Lock()
	defer d.lining.Unlock()
	for _, t := range troubles {
		if p := find(d.line[t.Channel], t.Carrier); p != nil {
			p.troubled, p.tries, p.retryAt = true, t.Tries, t.RetryAt
		} else {
			d.forgetTrouble(place{t.Channel, t.Carrier})
		}
	}
	return d.turnDay(ctx)
}

// turnDay begins to count what carriers took on a new day.
func (d *Dispatcher) turnDay(ctx context.Context) error {
	day := d.Now().In(d.zone).Format(time.DateOnly)
	if day == d.day {
		return nil
	}
	taken, err := d.store.TakenOn(ctx, day)
	if err != nil {
		return fmt.Errorf("counting what carriers took: %w", err)
	}
	d.day = day
	for channel, line := range d.line {
		for _, p := range line {
			p.taken = 0
			for _, t := range taken {
				if t.Channel == channel && t.Carrier == p.ID {
					p.taken = t.Count
				}
			}
		}
	}
	return nil
}

// choose is the carrier that a delivery goes to, or nil when none takes it now.
func (d *Dispatcher) choose(l *lane, urgency roster.Urgency) *post {
	d.lining.Lock()
	defer d.lining.Unlock()
	line := d.line[l.channel]
	at := carrying.Pick(states(line), urgency == roster.Emergency, d.Now())
	if at < 0 {
		return nil
	}
	p := line[at]
	p.taken++ // given back when it does not take it
	p.trying = p.troubled
	l.limitTo(p.PerSecond)
	return p
}

// roomFor is how many deliveries may be leased for a lane now, and how long to wait
// when none may: everything that its lane takes, emergencies only when its carriers
// took enough for the day, a single delivery to see whether they are all still in
// trouble, nothing while they pause.
func (d *Dispatcher) roomFor(ctx context.Context, l *lane) (store.Room, time.Duration, error) {
	d.lining.Lock()
	defer d.lining.Unlock()
	if err := d.turnDay(ctx); err != nil {
		return store.Room{}, 0, err
	}
	line := states(d.line[l.channel])
	if len(line) == 0 {
		return store.Room{}, longestNap, nil
	}
	if first, all := carrying.AllTroubled(line); all {
		if wait := first.Sub(d.Now()); wait > 0 {
			return store.Room{}, min(wait, longestNap), nil
		}
		if !l.empty() {
			return store.Room{}, longestNap, nil // one is being tried
		}
		l.open()
		return store.Room{Most: 1, Others: 1}, longestNap, nil
	}
	l.open()
	room := l.room()
	if carrying.Pick(line, false, d.Now()) < 0 {
		room.Others = 0
		return room, d.untilTried(l.channel), nil
	}
	return room, busyNap, nil
}

// untilTried is how long to wait until a carrier of a channel is tried again.
func (d *Dispatcher) untilTried(channel roster.Channel) time.Duration {
	wait := longestNap
	for _, p := range d.line[channel] {
		if p.troubled {
			wait = min(wait, max(p.retryAt.Sub(d.Now()), busyNap))
		}
	}
	return wait
}

// paceOf is how deliveries to one domain are spaced now; nil is not at all.
func (d *Dispatcher) paceOf(l *lane) *carrying.Pace {
	d.lining.Lock()
	defer d.lining.Unlock()
	line := d.line[l.channel]
	at := carrying.Pick(states(line), true, d.Now())
	if at < 0 || line[at].PerDomain == 0 {
		return nil
	}
	if l.pace == nil || l.pace.PerMinute != line[at].PerDomain {
		l.pace = carrying.NewPace(line[at].PerDomain)
	}
	return l.pace
}

// space has deliveries wait whose domain got enough for the moment. Emergencies do not.
func (d *Dispatcher) space(l *lane, list []work) (now []work) {
	pace := d.paceOf(l)
	if pace == nil {
		return list
	}
	for _, w := range list {
		turn := d.Now()
		if w.Urgency != roster.Emergency {
			turn = pace.Turn(w.ID, w.Address, d.Now())
		}
		if !turn.After(d.Now()) {
			now = append(now, w)
			continue
		}
		l.hold(w)
		d.book.add(entry{lane: l, id: w.ID, due: turn})
	}
	return now
}

// handTo hands an item to the carriers of a lane, one after the other, until one
// answers about it. ErrNobody means that none takes it now.
func (d *Dispatcher) handTo(
	ctx context.Context, l *lane, urgency roster.Urgency, item carrier.Item,
) (p *post, err error) {
	for {
		if p = d.choose(l, urgency); p == nil {
			return nil, ErrNobody
		}
		err = p.Carrier.Hand(ctx, item)
		if err == nil {
			d.wellAgain(p)
			return p, nil
		}
		trouble := d.troubleOf(l.channel, err)
		d.notTaken(p)
		if ctx.Err() != nil {
			return p, err
		}
		if trouble == nil {
			if down := (*carrier.Down)(nil); !errors.As(err, &down) {
				d.wellAgain(p)
			}
			return p, err
		}
		d.pauseFor(l, p, trouble)
	}
}

// ErrNobody means that no carrier of a channel takes anything now.
var ErrNobody = errors.New("nothing takes it now")

// HandNow hands something over at once that is no delivery of a message, such as an
// email to an account.
func (d *Dispatcher) HandNow(ctx context.Context, channel roster.Channel, item carrier.Item) error {
	p, err := d.handTo(ctx, d.lanes[channel], roster.Timely, item)
	if err == nil {
		d.book.add(entry{by: &p.at})
	}
	return err
}

// troubleOf is the trouble that an error tells of, or nil. Where another carrier could
// take a delivery, one that cannot be reached is in trouble.
func (d *Dispatcher) troubleOf(channel roster.Channel, err error) *carrier.Trouble {
	var trouble *carrier.Trouble
	if errors.As(err, &trouble) {
		return trouble
	}
	d.lining.Lock()
	defer d.lining.Unlock()
	if down := (*carrier.Down)(nil); errors.As(err, &down) && len(d.line[channel]) > 1 {
		return &carrier.Trouble{Detail: err.Error()}
	}
	return nil
}

// notTaken gives back what choose counted.
func (d *Dispatcher) notTaken(p *post) {
	d.lining.Lock()
	defer d.lining.Unlock()
	p.taken--
	p.trying = false
}

// pauseFor lets a carrier alone that is in trouble, unless it is already. When all of
// its channel are, nothing more of its lane is handed over.
func (d *Dispatcher) pauseFor(l *lane, p *post, t *carrier.Trouble) {
	d.lining.Lock()
	defer d.lining.Unlock()
	now := d.Now()
	if find(d.line[l.channel], p.ID) != p || now.Before(p.retryAt) {
		return // it was exchanged, or another delivery told already
	}
	p.tries++
	p.troubled, p.retryAt = true, now.Add(max(delivery.Wait(p.tries, 0), t.RetryAfter))
	if _, all := carrying.AllTroubled(states(d.line[l.channel])); all {
		d.giveBack(l, l.shutDown())
	}
	at, retryAt := p.at, p.retryAt
	d.Log.Warn("a carrier takes nothing", "channel", at.channel, "carrier", at.id, "says", t.Detail, "tried again", retryAt)
	d.book.add(entry{note: func(ctx context.Context) error {
		if err := d.store.PutTrouble(ctx, at.channel, at.id, t.Detail, now, retryAt); err != nil {
			return fmt.Errorf("keeping a carrier's trouble: %w", err)
		}
		d.Troubled()
		return nil
	}})
}

// wellAgain keeps that a carrier takes deliveries.
func (d *Dispatcher) wellAgain(p *post) {
	d.lining.Lock()
	defer d.lining.Unlock()
	p.trying = false
	if !p.troubled || d.Now().Before(p.retryAt) {
		return // what was under way when the trouble began says nothing about it
	}
	p.troubled, p.tries = false, 0
	d.forgetTrouble(p.at)
}

func (d *Dispatcher) forgetTrouble(at place) {
	d.book.add(entry{note: func(ctx context.Context) error {
		if err := d.store.DropTrouble(ctx, at.channel, at.id); err != nil {
			return fmt.Errorf("keeping that a carrier is well again: %w", err)
		}
		d.Troubled()
		return nil
	}})
}

// TryNow lets the carriers of a channel that are in trouble be tried at once.
func (d *Dispatcher) TryNow(channel roster.Channel) {
	d.lining.Lock()
	for _, p := range d.line[channel] {
		if p.troubled {
			p.retryAt = d.Now()
		}
	}
	d.lining.Unlock()
	d.Wake()
}

// Condition is how a carrier is.
type Condition struct {
	Next  bool // it takes the next delivery
	Taken int  // today
}

// Conditions are how the carriers of a channel are, by their identifiers.
func (d *Dispatcher) Conditions(channel roster.Channel) map[int64]Condition {
	d.lining.Lock()
	defer d.lining.Unlock()
	line := d.line[channel]
	next := carrying.Pick(states(line), false, d.Now())
	all := map[int64]Condition{}
	for i, p := range line {
		all[p.ID] = Condition{Next: i == next, Taken: p.taken}
	}
	return all
}
