package app

import (
	"net"
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Three connections of one address are let in, further ones are closed at once,
// and there is room again when one of the three has gone.
func TestConnectionsOfOneAddressAreBounded(t *testing.T) {
	for _, c := range []struct {
		name    string
		proxies []netip.Prefix
		admits  []bool
	}{
		{"anybody", nil, []bool{true, true, true, false, false}},
		{"a named proxy", []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}, []bool{true, true, true, true, true}},
	} {
		t.Run(c.name, func(t *testing.T) {
			inner, err := net.Listen("tcp", "127.0.0.1:0")
			require.NoError(t, err)
			l := limited(inner, c.proxies).(*fairListener)
			l.most = 3
			accepted := make(chan net.Conn, 10)
			go func() {
				for conn, err := l.Accept(); err == nil; conn, err = l.Accept() {
					_, _ = conn.Write([]byte("!")) // the other end hears it
					accepted <- conn
				}
			}()
			admitted := func() bool {
				conn, err := net.Dial("tcp", inner.Addr().String())
				require.NoError(t, err)
				t.Cleanup(func() { _ = conn.Close() })
				_, err = conn.Read(make([]byte, 1))
				return err == nil
			}
			for n, want := range c.admits {
				assert.Equal(t, want, admitted(), "connection %d", n+1)
			}
			require.NoError(t, (<-accepted).Close())
			assert.True(t, admitted())
			require.NoError(t, l.Close())
		})
	}
}
