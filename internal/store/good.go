package store

import (
	"sync"

	"upperlantern/internal/core/roster"
)

// goodAddresses remembers addresses that are known to work, so that what arrives
// there need not say so again. It changes within transactions, of which there is
// one at a time, and forgets everything when one fails or the roster changes.
type goodAddresses struct {
	mu    sync.Mutex
	known map[goodAddress]struct{}
}

type goodAddress struct {
	channel roster.Channel
	value   string
}

// mostGood bounds the memory that this takes.
const mostGood = 200_000

// unknown are those of some addresses that are not known to work.
func (g *goodAddresses) unknown(channel roster.Channel, addresses []string) []string {
	g.mu.Lock()
	defer g.mu.Unlock()
	var list []string
	for _, a := range addresses {
		if _, known := g.known[goodAddress{channel, a}]; !known {
			list = append(list, a)
		}
	}
	return list
}

func (g *goodAddresses) add(channel roster.Channel, addresses []string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.known == nil || len(g.known)+len(addresses) > mostGood {
		g.known = map[goodAddress]struct{}{}
	}
	for _, a := range addresses {
		g.known[goodAddress{channel, a}] = struct{}{}
	}
}

func (g *goodAddresses) forget() {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.known = nil
}

func (g *goodAddresses) remove(channel roster.Channel, address string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	delete(g.known, goodAddress{channel, address})
}
