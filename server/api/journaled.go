package api

import (
	"fmt"
	"log/slog"
	"net/http"
	"runtime"
	"runtime/debug"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
)

// tooLong is how long an answer takes that is worth a line. Those that go on by themselves, as events do, are never slow.
const tooLong = 5 * time.Second

// journaled has the program's log hear of each answer that says the program failed, and of slow ones. What they say is left out, since it may quote a bench.
func journaled(log *slog.Logger) gin.HandlerFunc {
	return func(c *gin.Context) {
		began := time.Now()
		c.Next()
		took, status := time.Since(began), c.Writer.Status()
		kind := c.Writer.Header().Get("Content-Type")
		goesOn := status == http.StatusSwitchingProtocols || strings.HasPrefix(kind, "text/event-stream") || strings.HasPrefix(kind, "application/x-ndjson")
		about := []any{"method", c.Request.Method, "path", c.FullPath(), "status", status, "ms", took.Milliseconds()}
		switch {
		case status >= http.StatusInternalServerError:
			log.Error("failed", about...)
		case took >= tooLong && !goesOn:
			log.Warn("slow", about...)
		}
	}
}

// recovered answers a request on which the program panicked, and has the log hear where. The words of the panic stand there only where Go's own
// runtime said them.
func recovered(log *slog.Logger) gin.RecoveryFunc {
	return func(c *gin.Context, why any) {
		said := fmt.Sprintf("%T", why)
		if e, ok := why.(runtime.Error); ok {
			said = e.Error()
		}
		log.Error("panicked", "method", c.Request.Method, "path", c.FullPath(), "why", said, "stack", string(debug.Stack()))
		problem(c, http.StatusInternalServerError, "the server failed on this request")
	}
}
