package host

import (
	"net"
	"net/netip"
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/link"
)

// DefaultAllow is the allow-list of a server that is told none: this machine
// and the networks that no public address lies in (RFC 1918, 4193, 3927).
var DefaultAllow = []string{"loopback", "private"}

// allowList says at which hosts devices may be. It holds for tests, probes and
// links alike, so that no setting of a device makes this server ask others.
type allowList struct {
	any      bool
	names    map[string]bool
	prefixes []netip.Prefix
}

var allowGroups = map[string][]string{
	"loopback": {"127.0.0.0/8", "::1/128"},
	"private":  {"10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "fc00::/7", "fe80::/10"},
}

// ParseAllow reads an allow-list: names of hosts, addresses, networks such as
// 10.1.0.0/16, the words loopback and private, or any.
func ParseAllow(list []string) (*allowList, error) {
	if len(list) == 0 {
		list = DefaultAllow
	}
	a := &allowList{names: map[string]bool{}}
	for _, item := range list {
		item = strings.ToLower(strings.TrimSpace(item))
		if group := allowGroups[item]; group != nil {
			for _, p := range group {
				a.prefixes = append(a.prefixes, netip.MustParsePrefix(p))
			}
			continue
		}
		if item == "any" {
			a.any = true
		} else if p, err := netip.ParsePrefix(item); err == nil {
			a.prefixes = append(a.prefixes, p.Masked())
		} else if ip, err := netip.ParseAddr(item); err == nil {
			a.prefixes = append(a.prefixes, netip.PrefixFrom(ip, ip.BitLen()))
		} else if item != "" && !strings.ContainsAny(item, "/: ") {
			a.names[item] = true
		} else {
			return nil, say.Errorf("--device-host %q is neither a host, an address, a network such as 10.1.0.0/16, nor loopback, private or any",
				item)
		}
	}
	return a, nil
}

// check refuses a host that the list does not name. A name that leads to no
// address passes, since nothing can be reached by it; what fails then says so.
func (a *allowList) check(host string) error {
	if a.any || a.names[strings.ToLower(host)] {
		return nil
	}
	ips := []net.IP{net.ParseIP(host)}
	if ips[0] == nil {
		var err error
		if ips, err = net.LookupIP(host); err != nil {
			return nil
		}
	}
	for _, ip := range ips {
		addr, ok := netip.AddrFromSlice(ip)
		if !ok || !a.has(addr.Unmap()) {
			return say.Errorf("%w: %s is not on its list of hosts for devices; whoever runs the server adds it with --device-host",
				link.ErrForbidden, host)
		}
	}
	return nil
}

func (a *allowList) has(ip netip.Addr) bool {
	for _, p := range a.prefixes {
		if p.Contains(ip) {
			return true
		}
	}
	return false
}
