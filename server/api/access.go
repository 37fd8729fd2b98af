package api

import (
	"net"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"slatebell/server/api/door"
	"slatebell/server/room"
)

// need is what somebody must be to ask for an operation.
type need int

const (
	desk     need = iota // this machine's own page
	part                 // a device that takes part
	watch                // a device that watches
	stranger             // anybody who reaches the room
)

// needs lists the operations that others than the desk may ask for, by their ids. What is
// not listed is the desk's: the real table, this machine's compiler and disk, and the room itself.
var needs = func() map[string]need {
	out := map[string]need{}
	for level, ids := range map[need]string{
		stranger: "ask-to-join wait-to-join",
		// Reads, and computes from what the request itself says.
		watch: `who-am-i list-benches get-bench watch-bench be-here export-bench check-bench get-glasses get-log get-log-csv get-log-md get-picture print-card
			list-states get-state get-catalog get-demo list-chart-screens write-code write-tool take-own-sections change-events work-out-fall list-faults list-module-faults find-faults
			animate-glyph make-bar cut-picture make-digits draw-cells edit-glyphs plan-loading read-glyphs list-shipped-glyphs list-signs write-glyphs
			list-own-hosts list-instructions read-live read-mapping plan-bench narrow-expander change-host plan-inputs add-inputs add-modules compare-links read-pins read-scan scan-bus
			begin-play edit-show judge-play play-on get-progress chart-rom get-rom-chart run-module get-moments find-stops get-waves get-waves-vcd get-wire-hex get-steps-csv draw-glasses
			guess-field screen-matrix scroll-screen search-screens change-screen compare-ways wire-bench draw-cutout work-out-figures first-light list-parts plan-wiring list-wires place-cells
			begin-round get-round answer-round hint inspect list-bin get-contest`,
		// Changes what is stored, or takes this machine long.
		part: `create-bench begin-from-parts begin-bench open-demo import-bench update-bench patch-bench duplicate-bench add-entry strike-entry reword-entry
			read-photograph read-chart-photograph learn-chart begin-contest-round`,
	} {
		for id := range strings.FieldsSeq(ids) {
			out[id] = level
		}
	}
	return out
}()

// access knows what each route needs.
type access map[string]need

// add notes what an operation needs, as it is registered.
func (a access) add(_ *huma.OpenAPI, op *huma.Operation) {
	route := strings.NewReplacer("{", ":", "}", "").Replace(op.Path)
	a[op.Method+" "+route] = needs[op.OperationID]
}

// openPaths are files that a stranger's page is made of; assets are too.
var openPaths = []string{"/join", "/bell.svg", "/icon-192.png", "/icon-512.png", "/manifest.webmanifest", "/sleep.js"}

// deviceNeeded is what a stranger is told.
const deviceNeeded = "this device was not let in; open the address with the code that the desk shows"

// admit finds out who asks, and refuses what they may not ask for. A request is the desk's where it comes
// from this machine, and not through the room.
func (a access) admit(r *room.Room) gin.HandlerFunc {
	return func(c *gin.Context) {
		ctx := door.WithRemote(c.Request.Context(), c.Request.RemoteAddr)
		_, _, through := room.Through(ctx)
		if !through && loopback(c.Request.RemoteAddr) {
			c.Request = c.Request.WithContext(room.With(ctx, room.Who{Desk: true}))
			return
		}
		c.Request = c.Request.WithContext(ctx)
		needed, isOperation := a[c.Request.Method+" "+c.FullPath()]
		path := c.Request.URL.Path
		if isOperation && needed == stranger || !isOperation && (slices.Contains(openPaths, path) || strings.HasPrefix(path, "/assets/")) {
			return
		}
		shown, _ := c.Cookie(door.DeviceCookie) // "" where it shows none
		ctx, done, known := r.Recognize(ctx, shown)
		if !known {
			if !isOperation && !strings.HasPrefix(path, "/api/") && (c.Request.Method == http.MethodGet || c.Request.Method == http.MethodHead) {
				c.Status(http.StatusForbidden) // the page says so, and takes the code
				c.Set(refusedKey, true)
				return
			}
			problem(c, http.StatusForbidden, deviceNeeded)
			return
		}
		c.Request = c.Request.WithContext(ctx)
		defer done()
		switch w := room.From(ctx); {
		case !isOperation && strings.HasPrefix(path, "/api/"):
			problem(c, http.StatusForbidden, "only the desk asks for this")
		case isOperation && needed == desk:
			problem(c, http.StatusForbidden, "only the desk, the page on the machine that runs Slate Bell, does this")
		case isOperation && needed == part && !w.May(room.TakesPart):
			problem(c, http.StatusForbidden, "this device watches; the desk can let it take part")
		default:
			c.Next()
		}
	}
}

// refusedKey is set where the page is shown to a stranger.
const refusedKey = "refused"

func loopback(remote string) bool {
	from, _, _ := net.SplitHostPort(remote)
	ip := net.ParseIP(from)
	return ip != nil && ip.IsLoopback()
}
