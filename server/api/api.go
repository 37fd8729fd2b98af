// Package api is the HTTP surface: a JSON API over the store and core/bench,
// with its OpenAPI document at /api/openapi.json, and the front end's files.
//
// It computes nothing of the job: requests become calls of core, results become
// documents.
package api

import (
	"encoding/json"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"reflect"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"slatebell/core/bench"
	"slatebell/formats/program"
	"slatebell/server/api/about"
	"slatebell/server/api/answer"
	"slatebell/server/api/benches"
	"slatebell/server/api/catalog"
	"slatebell/server/api/code"
	"slatebell/server/api/door"
	"slatebell/server/api/faults"
	"slatebell/server/api/given"
	"slatebell/server/api/glyphs"
	"slatebell/server/api/line"
	"slatebell/server/api/live"
	"slatebell/server/api/log"
	"slatebell/server/api/photos"
	"slatebell/server/api/progress"
	"slatebell/server/api/recordings"
	"slatebell/server/api/runs"
	"slatebell/server/api/screens"
	"slatebell/server/api/shows"
	"slatebell/server/api/table"
	"slatebell/server/api/together"
	"slatebell/server/api/wiring"
	"slatebell/server/doctor"
	"slatebell/server/feed"
	"slatebell/server/room"
	"slatebell/server/store"
)

// maxBody bounds every request's body, in bytes: a bench of 64 full modules fits with the
// pictures of its log, and so does an upload or what is pasted.
const maxBody = 16 << 20

// Server answers requests. Make it with New.
type Server struct {
	runs    *runs.Runs
	plays   *shows.Plays
	finders *faults.Finders
	table   *live.Desk
	shelf   *recordings.Shelf
	feed    *feed.Feed
	lines   *line.Lines
	handler http.Handler
}

// ServeHTTP answers a request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// Serves sets what answers the questions of open lines, where that is more than the server itself.
func (s *Server) Serves(handler http.Handler) { s.lines.Serves(handler) }

// Rest gives back the memory that only speeds requests up.
func (s *Server) Rest() {
	s.runs.Rest()
	s.plays.Rest()
	s.finders.Rest()
}

// EndWatches ends what is watched, which would keep the program from ending, and open lines.
func (s *Server) EndWatches() {
	s.lines.Close()
	s.table.EndWatches()
	s.feed.Close()
}

// Close lets the pins of a connected board rest, closes its port, and removes the recordings that are held.
func (s *Server) Close() {
	s.table.Close()
	s.shelf.Close()
}

// Options say what a handler serves.
type Options struct {
	Store *store.Store   // may be nil where only the OpenAPI document is wanted
	Files fs.FS          // the built front end; nil where there is none
	Hosts []string       // host names that requests may name, beside loopback's
	Ports []string       // serial ports beside those that the computer lists
	Room  *room.Room     // that other devices come in by; nil: one that is not opened
	About doctor.Options // what the program stands on
	Log   *slog.Logger   // hears of what failed; nil: nobody does
}

// New returns the whole application.
func New(o Options) *Server {
	s, _ := build(o)
	return s
}

// OpenAPI returns the API's OpenAPI 3.1 document as JSON.
func OpenAPI() ([]byte, error) {
	_, api := build(Options{})
	return api.OpenAPI().MarshalJSON()
}

// documents are the open formats that have a JSON Schema, by their name.
var documents = map[string]struct {
	title string
	kind  reflect.Type
}{
	"bench":   {"Slate Bell bench", reflect.TypeFor[bench.Archive]()},
	"program": {"Slate Bell program", reflect.TypeFor[program.Document]()},
}

// Schema returns the JSON Schema, 2020-12, of a document: "bench" or "program".
func Schema(name string) ([]byte, error) {
	doc, ok := documents[name]
	if !ok {
		return nil, fmt.Errorf("%q has no schema; expected bench or program", name)
	}
	registry := huma.NewMapRegistry("#/$defs/", huma.DefaultSchemaNamer)
	schema := registry.Schema(doc.kind, true, "Document")
	return json.Marshal(map[string]any{
		"$schema": "https://json-schema.org/draft/2020-12/schema", "title": doc.title, "$ref": schema.Ref, "$defs": registry.Map(),
	})
}

func build(o Options) (*Server, huma.API) {
	gin.SetMode(gin.ReleaseMode)
	engine := gin.New()
	if o.Room == nil {
		o.Room = room.New(room.Options{Store: o.Store})
	}
	routes := access{}
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	engine.Use(journaled(o.Log), gin.CustomRecoveryWithWriter(nil, recovered(o.Log)), guard(o.Hosts), headers, routes.admit(o.Room), ownPage, bounded)

	config := huma.DefaultConfig("Slate Bell", "1")
	config.Info.Description = "Benches of character display modules, and the runs that show what their bytes do."
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath, config.SchemasPath = "", "" // the docs page would load from outside
	config.CreateHooks = nil                     // no $schema links
	config.Transformers = append(config.Transformers, answer.BoundEcho)
	config.OnAddOperation = append(config.OnAddOperation, func(_ *huma.OpenAPI, op *huma.Operation) { op.MaxBodyBytes = bodyBound(op.Method, op.Path) })
	config.OnAddOperation = append(config.OnAddOperation, answer.Refusing, routes.add)
	api := humagin.New(engine, config)

	watches := &progress.Watches{}
	s := &Server{runs: runs.New(), plays: shows.New(watches), finders: faults.New(watches), table: &live.Desk{Ports: o.Ports}, shelf: &recordings.Shelf{}, feed: &feed.Feed{}, lines: line.New(engine, maxBody), handler: engine}
	if o.Store != nil {
		o.Store.Listen(s.feed.Stored)
	}
	benches.Register(api, o.Store)
	runs.Register(api, s.runs)
	catalog.Register(api, o.Store)
	table.Register(api)
	wiring.Register(api, s.runs.Result)
	glyphs.Register(api)
	screens.Register(api)
	shows.Register(api, s.plays)
	code.Register(api, o.Store)
	faults.Register(api, s.finders)
	photos.Register(api)
	recordings.Register(api, s.shelf, watches)
	progress.Register(api, watches)
	s.table.Hidden = s.finders.Hidden
	live.Register(api, s.table)
	log.Register(api, o.Store)
	together.Register(api, o.Store, s.feed)
	s.finders.Contest = given.Register(api, o.Store, s.feed)
	door.Register(api, o.Room)
	about.Register(api, o.Store, o.About)
	routes[http.MethodGet+" "+line.Path] = watch // each question is admitted for itself
	engine.GET(line.Path, func(c *gin.Context) { s.lines.Open(c.Writer, c.Request) })
	engine.NoRoute(frontEnd(o.Files))
	return s, api
}
