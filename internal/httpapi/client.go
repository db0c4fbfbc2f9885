package httpapi

import (
	"context"
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strings"

	"upperlantern/internal/httpapi/route"
)

type clientKey struct{}

// knowClient keeps with every request which address it comes from.
func (s *server) knowClient(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		client := clientOf(r, s.Proxies)
		ctx := route.At(context.WithValue(r.Context(), clientKey{}, client), s.siteOf(r))
		ctx = route.From(ctx, networkOf(ctx))
		ctx = context.WithValue(ctx, agentKey{}, shortened(r.UserAgent()))
		next.ServeHTTP(w, r.WithContext(ctx))
	})
}

// agentKey is that of how the browser of a request names itself.
type agentKey struct{}

// longestAgent is how much is kept of how a browser names itself.
const longestAgent = 300

func shortened(agent string) string { return agent[:min(len(agent), longestAgent)] }

// siteOf is where people reach the interface: as it is set, or as a request names it.
func (s *server) siteOf(r *http.Request) string {
	switch {
	case s.Site != "":
		return s.Site
	case s.Secure || r.TLS != nil:
		return "https://" + r.Host
	}
	return "http://" + r.Host
}

// clientOf is the address of whoever speaks to us: the peer, or, where the peer
// is a named proxy, the last address in X-Forwarded-For that is no named proxy.
// From any other peer that header can be made up and is not looked at.
func clientOf(r *http.Request, proxies []netip.Prefix) netip.Addr {
	named := func(a netip.Addr) bool {
		return slices.ContainsFunc(proxies, func(p netip.Prefix) bool { return p.Contains(a) })
	}
	client := peerOf(r.RemoteAddr)
	hops := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
	for _, hop := range slices.Backward(hops) {
		if !named(client) {
			break
		}
		next, err := netip.ParseAddr(strings.TrimSpace(hop))
		if err != nil {
			break
		}
		client = next.Unmap()
	}
	return client
}

func peerOf(remote string) netip.Addr {
	host, _, err := net.SplitHostPort(remote)
	if err != nil {
		return netip.Addr{}
	}
	peer, _ := netip.ParseAddr(host) // none, such as a test's own, is the zero address
	return peer.Unmap().WithZone("")
}

// How many bits of an address are one network: what a household or an office
// usually has.
const (
	networkBits4 = 24
	networkBits6 = 56
)

// networkOf is the network from which a request comes, such as 192.0.2.0/24.
func networkOf(ctx context.Context) string {
	client, _ := ctx.Value(clientKey{}).(netip.Addr)
	bits := networkBits4
	if client.Is6() {
		bits = networkBits6
	}
	network, err := client.Prefix(bits)
	if err != nil {
		return "nowhere"
	}
	return network.String()
}
