package main

import (
	"bytes"
	"net"
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a server prints for others is an address that they can open, or how to let them in.
func TestReachable(t *testing.T) {
	listening := func(at string) net.Addr { return net.TCPAddrFromAddrPort(netip.MustParseAddrPort(at)) }
	for _, at := range []string{"127.0.0.1:8080", "127.8.0.1:8080", "[::1]:8080", "[::ffff:127.0.0.1]:8080"} {
		assert.Empty(t, reachable(listening(at)), at)
		var said bytes.Buffer
		printReachable(&said, listening(at), nil)
		assert.Contains(t, said.String(), "--addr :8080", at)
	}
	assert.Equal(t, []string{"10.0.0.5:8080"}, reachable(listening("10.0.0.5:8080")))
	assert.Equal(t, "127.0.0.1:8080", localAddr(listening("0.0.0.0:8080")))
	assert.Equal(t, "10.0.0.5:8080", localAddr(listening("10.0.0.5:8080")))
	for _, at := range []string{"0.0.0.0:8080", "[::]:8080"} {
		for _, host := range reachable(listening(at)) {
			one, err := netip.ParseAddrPort(host)
			require.NoError(t, err)
			assert.EqualValues(t, 8080, one.Port())
			assert.False(t, one.Addr().IsLoopback() || one.Addr().IsUnspecified() || one.Addr().IsLinkLocalUnicast(),
				host)
		}
	}
	var said bytes.Buffer
	printReachable(&said, listening("0.0.0.0:8080"), []string{"10.0.0.5:8080", "[fd00::5]:8080"})
	assert.Equal(t, "Other computers and phones connect to http://10.0.0.5:8080 or http://[fd00::5]:8080\n",
		said.String())
}
