package httpapi

import (
	"sync"
	"time"
)

// bodies counts what is being read of strangers' bodies, in all and by network.
type bodies struct {
	mu    sync.Mutex
	all   chan struct{}
	by    map[string]int
	ofOne int
}

func newBodies(atOnce, ofOne int) *bodies {
	return &bodies{all: make(chan struct{}, atOnce), by: map[string]int{}, ofOne: ofOne}
}

// take waits for a place for a body of a network, up to so long.
func (b *bodies) take(network string, wait time.Duration) bool {
	if !b.count(network) {
		return false
	}
	timer := time.NewTimer(wait)
	defer timer.Stop()
	select {
	case b.all <- struct{}{}:
		return true
	case <-timer.C:
		b.uncount(network)
		return false
	}
}

func (b *bodies) give(network string) {
	<-b.all
	b.uncount(network)
}

func (b *bodies) count(network string) bool {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.by[network] >= b.ofOne {
		return false
	}
	b.by[network]++
	return true
}

func (b *bodies) uncount(network string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.by[network]--; b.by[network] == 0 {
		delete(b.by, network)
	}
}
