// Package idle keeps the program small: it bounds how far the heap grows under
// load, and gives memory back to the machine while nobody asks for anything.
package idle

import (
	"net/http"
	"runtime/debug"
	"time"
)

// What the heap is kept to under load: the collector runs at as much
// garbage as live data, and more often near heapLimit.
const (
	garbagePercent = 100
	heapLimit      = 96 << 20 // bytes
)

// LimitMemory bounds the heap of the whole program. The bound is soft: what is
// live stays, and the collector works harder.
func LimitMemory() {
	debug.SetGCPercent(garbagePercent)
	debug.SetMemoryLimit(heapLimit)
}

// Watch passes requests on. Once none has come for a while, and none is being answered, it calls rest and
// returns what is free to the machine; it does so again after the next request. What goes on and on, as events and open lines do, keeps nobody awake.
func Watch(next http.Handler, quiet time.Duration, rest func()) http.Handler {
	timer := time.AfterFunc(quiet, func() {
		rest()
		debug.FreeOSMemory()
	})
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if goesOn := r.Header.Get("Upgrade") != "" || r.Header.Get("Accept") == "text/event-stream"; goesOn {
			timer.Reset(quiet)
		} else {
			timer.Stop()
			defer timer.Reset(quiet)
		}
		next.ServeHTTP(w, r)
	})
}
