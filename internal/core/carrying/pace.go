package carrying

import (
	"strings"
	"time"
)

// Pace spaces what goes to one domain, so that its mail servers do not take a large
// mailing for an attack. It is not for use by several goroutines at once.
type Pace struct {
	PerMinute int // the most to one domain
	next      map[string]time.Time
	turns     map[int64]time.Time // of deliveries that wait for theirs
}

// NewPace makes a pace of so many a minute.
func NewPace(perMinute int) *Pace {
	return &Pace{PerMinute: perMinute, next: map[string]time.Time{}, turns: map[int64]time.Time{}}
}

// Turn is when a delivery to a mailbox leaves: at once, or at a later instant that it
// keeps until then.
func (p *Pace) Turn(id int64, mailbox string, now time.Time) time.Time {
	if turn, waits := p.turns[id]; waits {
		if !turn.After(now) {
			delete(p.turns, id)
		}
		return turn
	}
	domain := strings.ToLower(mailbox[strings.LastIndexByte(mailbox, '@')+1:])
	turn := p.next[domain]
	if turn.Before(now) {
		turn = now
		p.forget(now)
	}
	p.next[domain] = turn.Add(time.Minute / time.Duration(p.PerMinute))
	if turn.After(now) {
		p.turns[id] = turn
	}
	return turn
}

// mostDomains is from when on domains are forgotten that have room again.
const mostDomains = 1000

func (p *Pace) forget(now time.Time) {
	if len(p.next) < mostDomains {
		return
	}
	for domain, next := range p.next {
		if next.Before(now) {
			delete(p.next, domain)
		}
	}
}
