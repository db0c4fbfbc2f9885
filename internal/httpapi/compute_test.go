package httpapi

import (
	"context"
	"errors"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/password"
)

// Of 240 at once two compute, some wait and the rest are refused at once.
func TestFewPasswordsAreComputedAtOnce(t *testing.T) {
	d := newDoor(password.Usual)
	var now, most, done, refused atomic.Int32
	release := make(chan struct{})
	var all sync.WaitGroup
	for range 240 {
		all.Go(func() {
			err := d.compute(context.Background(), func() error {
				most.Store(max(most.Load(), now.Add(1)))
				<-release
				now.Add(-1)
				done.Add(1)
				return nil
			})
			if errors.Is(err, errBusy) {
				if refused.Add(1) == 240-hashesAtOnce-hashesWaiting {
					close(release)
				}
			}
		})
	}
	all.Wait()
	assert.EqualValues(t, hashesAtOnce, most.Load())
	assert.EqualValues(t, hashesAtOnce+hashesWaiting, done.Load())
}

func TestWhoSpeaks(t *testing.T) {
	proxies := []netip.Prefix{netip.MustParsePrefix("10.0.0.0/8")}
	for _, c := range []struct{ name, peer, forwarded, want string }{
		{"nobody between", "192.0.2.1:5000", "", "192.0.2.1"},
		{"a named proxy", "10.0.0.1:5000", "192.0.2.1", "192.0.2.1"},
		{"two named proxies", "10.0.0.1:5000", "192.0.2.1, 10.0.0.2", "192.0.2.1"},
		{"what the client made up before it", "10.0.0.1:5000", "203.0.113.9, 192.0.2.1", "192.0.2.1"},
		{"an unnamed proxy", "192.0.2.1:5000", "203.0.113.9", "192.0.2.1"},
		{"junk", "10.0.0.1:5000", "unknown", "10.0.0.1"},
		{"an IPv4 address in IPv6", "[::ffff:192.0.2.1]:5000", "", "192.0.2.1"},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := httptest.NewRequest(http.MethodGet, "/", nil)
			r.RemoteAddr = c.peer
			if c.forwarded != "" {
				r.Header.Set("X-Forwarded-For", c.forwarded)
			}
			assert.Equal(t, c.want, clientOf(r, proxies).String())
		})
	}
}
