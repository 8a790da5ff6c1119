package guard

import (
	"context"
	"net"
	"net/http"
	"net/netip"
	"strings"

	"lucidletter/internal/httpapi/web"
)

// caller is where the address of a request stands in its context.
type caller struct{}

// ThisMachine are the proxies that are trusted unless others are named.
func ThisMachine() []netip.Prefix {
	return []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8"), netip.MustParsePrefix("::1/128")}
}

// WithCaller notes the address that a request comes from.
func WithCaller(next http.Handler, proxies func() []netip.Prefix) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), caller{}, CallerOf(r, proxies()))))
	})
}

// Caller gives what WithCaller noted.
func Caller(ctx context.Context) string {
	from, _ := ctx.Value(caller{}).(string)
	return from
}

// CallerOf gives the address that a request comes from: the last one on its way that is no
// trusted proxy. All lines of X-Forwarded-For are one list, to which each proxy adds at the end
// who asked it; what stands before the last hop that is not trusted anybody may have written.
func CallerOf(r *http.Request, proxies []netip.Prefix) string {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		return r.RemoteAddr
	}
	at, err := netip.ParseAddr(host)
	if err != nil {
		return host
	}
	hops := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
	for i := len(hops) - 1; i >= 0 && web.Within(proxies, at); i-- {
		hop := strings.TrimSpace(hops[i])
		if a, err := netip.ParseAddrPort(hop); err == nil { // some proxies name the port too
			at = a.Addr()
		} else if a, err := netip.ParseAddr(strings.Trim(hop, "[]")); err == nil {
			at = a
		} else {
			break
		}
	}
	return web.Network(at)
}
