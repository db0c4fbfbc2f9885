package app

import (
	"net"
	"net/netip"
	"slices"
	"sync"

	"golang.org/x/net/netutil"
)

// Connections that are open at the same time: in all, and from one address that
// is no named proxy. Further ones of an address are closed at once; further ones
// in all wait.
const (
	mostConnections  = 4096
	mostOfOneAddress = 512
)

// limited bounds the connections of a listener.
func limited(l net.Listener, proxies []netip.Prefix) net.Listener {
	return &fairListener{
		Listener: netutil.LimitListener(l, mostConnections), most: mostOfOneAddress, proxies: proxies,
		open: map[netip.Addr]int{},
	}
}

type fairListener struct {
	net.Listener
	most    int
	proxies []netip.Prefix

	mu   sync.Mutex
	open map[netip.Addr]int
}

// Accept returns the next connection of an address that has not too many.
func (l *fairListener) Accept() (net.Conn, error) {
	for {
		c, err := l.Listener.Accept()
		if err != nil {
			return nil, err
		}
		from, counted := l.admit(c)
		if !counted {
			_ = c.Close()
			continue
		}
		return &countedConn{Conn: c, done: sync.OnceFunc(func() { l.leave(from) })}, nil
	}
}

func (l *fairListener) admit(c net.Conn) (netip.Addr, bool) {
	peer, err := netip.ParseAddrPort(c.RemoteAddr().String())
	if err != nil {
		return netip.Addr{}, false
	}
	from := peer.Addr().Unmap()
	l.mu.Lock()
	defer l.mu.Unlock()
	named := slices.ContainsFunc(l.proxies, func(p netip.Prefix) bool { return p.Contains(from) })
	if l.open[from] >= l.most && !named {
		return from, false
	}
	l.open[from]++
	return from, true
}

func (l *fairListener) leave(from netip.Addr) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.open[from]--; l.open[from] == 0 {
		delete(l.open, from)
	}
}

type countedConn struct {
	net.Conn
	done func()
}

func (c *countedConn) Close() error {
	c.done()
	return c.Conn.Close()
}
