package api

import (
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strings"
	"time"

	"github.com/unrolled/secure"

	"jadegate/core/say"
)

// guarded turns away requests that no screen of this server sends, and tells browsers how
// little its answers may do. The options name the names by which the server is known beside
// localhost and plain addresses: a name that somebody else's server gave this machine (DNS
// rebinding) is none of them.
func guarded(o Options) []func(http.Handler) http.Handler {
	known := append([]string{"localhost"}, o.Hosts...)
	byName := func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			host, _, err := net.SplitHostPort(r.Host)
			if err != nil {
				host = r.Host
			}
			host = strings.TrimSuffix(strings.Trim(strings.ToLower(host), "[]"), ".")
			if _, err := netip.ParseAddr(host); err != nil && !slices.Contains(known, host) {
				writeProblem(w, &Problem{Title: say.T("Not this server"), Status: http.StatusMisdirectedRequest,
					Detail: say.T("this server is not known by the name in the address; whoever runs it names it with --host")})
				return
			}
			next.ServeHTTP(w, r)
		})
	}
	sts := int64(0)
	if o.Secure {
		sts = int64((365 * 24 * time.Hour).Seconds())
	}
	// A proxy that does the TLS hands on plain HTTP: the header is sent all the same.
	headers := secure.New(secure.Options{STSSeconds: sts, ForceSTSHeader: o.Secure, FrameDeny: true, ContentTypeNosniff: true, ReferrerPolicy: "no-referrer",
		CrossOriginOpenerPolicy: "same-origin", ContentSecurityPolicy: "default-src 'none'; frame-ancestors 'none'"})
	protect := http.NewCrossOriginProtection()
	protect.SetDenyHandler(http.HandlerFunc(func(rw http.ResponseWriter, _ *http.Request) {
		writeProblem(rw, &Problem{Title: say.T("Refused"), Status: http.StatusForbidden, Detail: say.T("a page of another origin may not write here")})
	}))
	return []func(http.Handler) http.Handler{headers.Handler, byName, protect.Handler}
}
