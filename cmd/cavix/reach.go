package main

import (
	"fmt"
	"io"
	"net"
	"net/netip"
	"slices"
	"strconv"
	"strings"
)

// reachable lists the hosts, with the port, at which other computers may reach a server that listens at an address:
// none for a loopback address, and every address of this machine where it listens at all of them. IPv4 comes first,
// since it is typed.
func reachable(listening net.Addr) []string {
	at, err := netip.ParseAddrPort(listening.String())
	if err != nil || at.Addr().Unmap().IsLoopback() {
		return nil
	}
	if !at.Addr().IsUnspecified() {
		return []string{at.String()}
	}
	addrs, err := net.InterfaceAddrs()
	if err != nil {
		return nil
	}
	var out []netip.Addr
	for _, a := range addrs {
		prefix, err := netip.ParsePrefix(a.String())
		if err != nil {
			continue
		}
		if ip := prefix.Addr().Unmap(); ip.IsGlobalUnicast() {
			out = append(out, ip)
		}
	}
	slices.SortStableFunc(out, func(a, b netip.Addr) int { return a.BitLen() - b.BitLen() })
	hosts := make([]string, len(out))
	for i, ip := range out {
		hosts[i] = net.JoinHostPort(ip.String(), strconv.Itoa(int(at.Port())))
	}
	return hosts
}

// localAddr returns the address at which this machine opens a server that listens at another.
func localAddr(listening net.Addr) string {
	at, err := netip.ParseAddrPort(listening.String())
	if err != nil || !at.Addr().IsUnspecified() {
		return listening.String()
	}
	return net.JoinHostPort("127.0.0.1", strconv.Itoa(int(at.Port())))
}

// printReachable says at which addresses others reach a server, or how to let them in.
func printReachable(out io.Writer, listening net.Addr, reach []string) {
	if len(reach) > 0 {
		fmt.Fprintf(out, "Other computers and phones connect to http://%s\n", strings.Join(reach, " or http://"))
		return
	}
	_, port, _ := net.SplitHostPort(listening.String())
	fmt.Fprintf(out, "Only this computer can connect. To let phones and other computers connect: --addr :%s\n", port)
}
