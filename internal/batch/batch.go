// Package batch does at once what comes at once: a transaction for each
// small thing would cost more than all that it holds.
package batch

import "sync"

// Group gathers things while earlier ones are being done. Do does some of
// them; its error is that of each of them.
type Group[T any] struct {
	Do   func([]T) error
	Most int // how many are done in one go

	mu      sync.Mutex
	waiting []waiting[T]
	busy    bool
}

type waiting[T any] struct {
	thing T
	done  chan<- error
}

// Add waits until a thing was done, alone or with others.
func (g *Group[T]) Add(thing T) error {
	done := make(chan error, 1)
	g.mu.Lock()
	g.waiting = append(g.waiting, waiting[T]{thing, done})
	first := !g.busy
	g.busy = true
	g.mu.Unlock()
	if first {
		go g.run()
	}
	return <-done
}

func (g *Group[T]) run() {
	for some := g.next(); len(some) > 0; some = g.next() {
		things := make([]T, len(some))
		for i, w := range some {
			things[i] = w.thing
		}
		err := g.Do(things)
		for _, w := range some {
			w.done <- err
		}
	}
}

// next takes what waits, none when nothing does.
func (g *Group[T]) next() []waiting[T] {
	g.mu.Lock()
	defer g.mu.Unlock()
	n := min(len(g.waiting), g.Most)
	some := g.waiting[:n:n]
	g.waiting, g.busy = g.waiting[n:], n > 0
	return some
}
