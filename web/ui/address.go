package ui

import (
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strings"
)

// Address is a path of the site as others can type it. Where the page was opened under a name of this computer's own,
// it is under the first address at which others reach the server.
func (s *Site) Address(r *http.Request, path string) string {
	scheme, host := "http", r.Host
	if s.Secure {
		scheme = "https"
	}
	if isLoopback(host) && len(s.Reach) > 0 {
		host = s.Reach[0]
	}
	return fmt.Sprintf("%s://%s%s", scheme, host, path)
}

// OnlyHere reports whether Address opens on this computer only, which has to be said beside it.
func (s *Site) OnlyHere(r *http.Request) bool { return isLoopback(r.Host) && len(s.Reach) == 0 }

// isLoopback reports whether a host, with or without a port, is a loopback address or a name of one.
func isLoopback(host string) bool {
	name, _, err := net.SplitHostPort(host)
	if err != nil {
		name = host
	}
	name = strings.ToLower(strings.Trim(name, "[]"))
	if name == "localhost" || strings.HasSuffix(name, ".localhost") {
		return true
	}
	ip, err := netip.ParseAddr(name)
	return err == nil && ip.Unmap().IsLoopback()
}
