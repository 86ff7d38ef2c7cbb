package web

import (
	"context"
	"net"
	"net/http"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"

	"github.com/gofiber/fiber/v3"
)

// The session's cookie: over TLS under a name that browsers take from nobody but this very host (RFC 6265bis, "__Host-").
const (
	cookieName   = "lanternrow_session"
	securePrefix = "__Host-"
)

// A CookieMode is when the session's cookie is kept to TLS.
type CookieMode string

// The modes: kept to TLS unless the browser is on this very machine; always; never.
const (
	CookieAuto   CookieMode = "auto"
	CookieSecure CookieMode = "true"
	CookiePlain  CookieMode = "false"
)

type transportKey struct{}

// transport is how a request came.
type transport struct{ tls, loopback bool }

// from is the context of a request: where it comes from, and how.
func from(c fiber.Ctx) context.Context {
	host, _, err := net.SplitHostPort(c.Host())
	if err != nil {
		host = c.Host()
	}
	ip := net.ParseIP(host)
	origin := people.OriginOf(c.Context())
	origin.Address, origin.Device = addressOf(c), string(append([]byte{}, c.Request().Header.UserAgent()...))
	ctx := people.From(c.Context(), origin)
	return context.WithValue(ctx, transportKey{}, transport{overTLS(c), host == "localhost" || ip != nil && ip.IsLoopback()})
}

// overTLS tells whether the browser came over TLS, to us or to a proxy on this very machine. (Fiber's own Secure looks at the
// version of HTTP instead, and is never true.)
func overTLS(c fiber.Ctx) bool { return c.Scheme() == "https" }

// addressOf is where a request comes from: as a proxy on this very machine says, which adds whom it asks for at the end.
func addressOf(c fiber.Ctx) string {
	if said := c.Get(fiber.HeaderXForwardedFor); said != "" && c.IsProxyTrusted() {
		return strings.Clone(strings.TrimSpace(said[strings.LastIndex(said, ",")+1:]))
	}
	return c.RequestCtx().RemoteIP().String()
}

// cookie is the session's cookie for whoever asks.
func (m CookieMode) cookie(ctx context.Context, token string, age int) http.Cookie {
	c := http.Cookie{Name: cookieName, Value: token, Path: "/", MaxAge: age, HttpOnly: true, SameSite: http.SameSiteStrictMode}
	if m.secure(ctx) {
		c.Name, c.Secure = securePrefix+cookieName, true
	}
	return c
}

func (m CookieMode) secure(ctx context.Context) bool {
	t, _ := ctx.Value(transportKey{}).(transport)
	return m == CookieSecure || m != CookiePlain && !t.loopback
}

// check refuses to sign somebody on whose browser would not keep the cookie.
func (m CookieMode) check(ctx context.Context) error {
	if t, known := ctx.Value(transportKey{}).(transport); known && m.secure(ctx) && !t.tls {
		return refusal.New(refusal.TLSWanted, "", "This page came without TLS, and a session would be open to whoever listens. Open it by "+
			"its https address; or have whoever runs the server allow it (LANTERNROW_SECURE_COOKIE=false).").Of(refusal.Forbidden)
	}
	return nil
}

// tokenOf is the session's token in a Cookie header; empty where there is none.
func tokenOf(header string) string {
	cookies, err := http.ParseCookie(header)
	if err != nil {
		return ""
	}
	for _, name := range []string{securePrefix + cookieName, cookieName} {
		for _, c := range cookies {
			if c.Name == name && c.Value != "" {
				return c.Value
			}
		}
	}
	return ""
}
