package api

import (
	"net/http"
	"net/netip"

	"github.com/go-chi/chi/v5/middleware"
)

// knowsSource notes where each request comes from: its own address, or what one of the proxies says.
func knowsSource(proxies []netip.Prefix) func(http.Handler) http.Handler {
	if len(proxies) == 0 {
		return middleware.ClientIPFromRemoteAddr
	}
	var prefixes []string
	for _, p := range proxies {
		prefixes = append(prefixes, p.String())
	}
	said := middleware.ClientIPFromXFF(prefixes...)
	return func(next http.Handler) http.Handler {
		direct, through := middleware.ClientIPFromRemoteAddr(next), said(next)
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if from, err := netip.ParseAddrPort(r.RemoteAddr); err == nil && among(proxies, from.Addr()) {
				through.ServeHTTP(w, r)
				return
			}
			direct.ServeHTTP(w, r)
		})
	}
}

func among(prefixes []netip.Prefix, a netip.Addr) bool {
	for _, p := range prefixes {
		if p.Contains(a.Unmap()) {
			return true
		}
	}
	return false
}
