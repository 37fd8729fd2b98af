package api

import (
	"bytes"
	"crypto/rand"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"slatebell/server/api/answer"
	"slatebell/server/api/code"
	"slatebell/server/api/live"
	"slatebell/server/api/recordings"
	"slatebell/server/room"
)

// problem answers with problem details, RFC 9457.
func problem(c *gin.Context, status int, detail string) {
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(status, gin.H{"title": http.StatusText(status), "status": status, "detail": detail})
}

// guard refuses requests that name a foreign host, as a rebound DNS name would,
// and those that come from a page of another origin. Who comes through the room names the room.
func guard(hosts []string) gin.HandlerFunc {
	allowed := append([]string{"localhost", "127.0.0.1", "::1"}, hosts...)
	return func(c *gin.Context) {
		host, names, scheme := c.Request.Host, allowed, "http"
		if name, secure, through := room.Through(c.Request.Context()); through {
			names = []string{name}
			if secure {
				scheme = "https"
			}
		}
		if name := hostName(host); !slices.Contains(names, name) {
			problem(c, http.StatusForbidden, fmt.Sprintf("host %q is not served here; open the address that the program printed", answer.Cut(host, 80)))
			return
		}
		if origin := c.GetHeader("Origin"); origin != "" {
			u, err := url.Parse(origin)
			if err != nil || u.Scheme != scheme || u.Host != host {
				problem(c, http.StatusForbidden, fmt.Sprintf("origin %q is not this application's", answer.Cut(origin, 80)))
				return
			}
		}
	}
}

// ownPage refuses what would run a program of this machine unless this machine's own page asks
// for it: from a loopback address, with the origin that a browser says it has.
func ownPage(c *gin.Context) {
	path := c.Request.URL.Path
	if path != code.BuildPath && !strings.HasPrefix(path, live.Path) {
		return
	}
	if !loopback(c.Request.RemoteAddr) || c.Request.Method != http.MethodGet && c.GetHeader("Origin") == "" {
		problem(c, http.StatusForbidden, "only the page on this machine itself has its compiler run and its ports opened")
	}
}

// hostName strips port and brackets.
func hostName(host string) string {
	if name, _, err := net.SplitHostPort(host); err == nil {
		return name
	}
	if n := len(host); n > 1 && host[0] == '[' && host[n-1] == ']' {
		return host[1 : n-1]
	}
	return host
}

// policy allows nothing from elsewhere and no inline script. The page's own
// style rules carry a nonce, which is new with every answer.
const policy = "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-%s'; font-src 'self'; img-src 'self' data:; connect-src 'self'; worker-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

// nonceKey is where the request's nonce is kept.
const nonceKey = "nonce"

func headers(c *gin.Context) {
	nonce := rand.Text()
	c.Set(nonceKey, nonce)
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", fmt.Sprintf(policy, nonce))
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
}

// drained is how much of a body that is refused is read all the same, so that a browser,
// which sends on meanwhile, gets to the answer.
const drained = 64 << 20

// bodyBound is how large the body of a request may be, in bytes.
func bodyBound(method, path string) int64 {
	if method == http.MethodPost && path == recordings.Path {
		return recordings.MaxBytes
	}
	return maxBody
}

// bounded refuses a body that is too large, by what it says of itself; one that does not
// say is read first.
func bounded(c *gin.Context) {
	if bodyBound(c.Request.Method, c.Request.URL.Path) > maxBody {
		return // it goes to the disk as it comes, up to its own bound
	}
	large := c.Request.ContentLength > maxBody
	if c.Request.ContentLength < 0 {
		body, err := io.ReadAll(io.LimitReader(c.Request.Body, maxBody+1))
		if err != nil {
			problem(c, http.StatusBadRequest, "the request ended before its body was complete")
			return
		}
		large = len(body) > maxBody
		if !large {
			c.Request.Body = io.NopCloser(bytes.NewReader(body))
		}
	}
	if large {
		io.CopyN(io.Discard, c.Request.Body, drained) // it is refused, whether it comes or not
		problem(c, http.StatusRequestEntityTooLarge, answer.TooLarge)
	}
}
