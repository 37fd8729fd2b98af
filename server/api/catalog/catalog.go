// Package catalog answers for what there is to choose from: geometries, hosts, parts, instructions,
// mappings of a backpack.
package catalog

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/part/charrom"
	"slatebell/core/part/host"
	"slatebell/core/part/i2cbus"
	"slatebell/core/part/module"
	"slatebell/core/prove/fault"
	"slatebell/core/table/bus"
	"slatebell/core/wire/link"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
	"slatebell/server/builds"
	"slatebell/server/demo"
	"slatebell/server/store"
)

// Catalog is what a module and its link can be made of.
type Catalog struct {
	Geometries []GeometryChoice `json:"geometries" nullable:"false"`
	ROMs       []string         `json:"roms" nullable:"false"`
	Addresses  []AddressChoice  `json:"addresses" nullable:"false" doc:"that an expander can have"`
	Hosts      []HostChoice     `json:"hosts" nullable:"false"`
	Builds     []BuildChoice    `json:"builds" nullable:"false" doc:"to begin from"`
	Parts      []PartChoice     `json:"parts" nullable:"false" doc:"that a bus can carry"`
	Mistakes   []MistakeChoice  `json:"mistakes" nullable:"false" doc:"that can be made on a simulated bus"`
}

// GeometryChoice is one geometry.
type GeometryChoice struct {
	Name  string `json:"name"`
	Title string `json:"title"`
	Note  string `json:"note,omitempty"`
}

// AddressChoice is one I²C address.
type AddressChoice struct {
	Address int    `json:"address"`
	Hex     string `json:"hex"`
	Part    string `json:"part"`
	Closed  string `json:"closed" doc:"the pads to close, such as A0 A2, or none"`
}

// HostChoice is one host board.
type HostChoice struct {
	Part    string `json:"part"`
	Title   string `json:"title"`
	Look    string `json:"look" doc:"how to know it"`
	LogicMV int    `json:"logicMV" doc:"millivolts"`
	Pins    int    `json:"pins" doc:"that can drive a line and serve nothing else"`
	SDA     string `json:"sda"`
	SCL     string `json:"scl"`
}

// BuildChoice is one build to begin from.
type BuildChoice struct {
	ID    string   `json:"id"`
	Title string   `json:"title"`
	What  string   `json:"what" doc:"one sees of it"`
	Needs string   `json:"needs,omitempty" doc:"beside module and host"`
	Sizes []string `json:"sizes" nullable:"false" doc:"that it is composed for"`
}

// PartChoice is one part that a bus can carry.
type PartChoice struct {
	Name      string `json:"name"`
	What      string `json:"what"`
	Addresses []int  `json:"addresses" nullable:"false"`
	Range     string `json:"range" doc:"such as 0x20–0x27"`
}

// MistakeChoice is one mistake to make on a simulated bus.
type MistakeChoice struct {
	Mistake string `json:"mistake"`
	Title   string `json:"title"`
	OfOne   bool   `json:"ofOne,omitempty" doc:"it is made on one part"`
}

func newCatalog() Catalog {
	c := Catalog{ROMs: charrom.Names()}
	for _, g := range module.Geometries {
		c.Geometries = append(c.Geometries, GeometryChoice{g.Name, g.Title, g.Note})
	}
	for a := range i2cbus.Address(128) {
		if part, ok := i2cbus.Expander(a); ok {
			c.Addresses = append(c.Addresses, AddressChoice{int(a), a.String(), part.Name, i2cbus.PadsFor(a).String()})
		}
	}
	for _, h := range host.Boards() {
		plain := 0
		for _, p := range h.Pins {
			if p.Plain() {
				plain++
			}
		}
		c.Hosts = append(c.Hosts, HostChoice{h.Part, h.Title, h.Look, int(h.Logic / physic.MilliVolt), plain, h.SDA, h.SCL})
	}
	for _, b := range builds.List() {
		c.Builds = append(c.Builds, BuildChoice{b.ID, b.Title, b.What, b.Needs, b.Sizes})
	}
	for _, p := range i2cbus.Parts() {
		c.Parts = append(c.Parts, PartChoice{p.Name, p.What, facts.Addresses(p.Addresses), bus.Span(p.Addresses)})
	}
	for _, m := range fault.Mistakes {
		c.Mistakes = append(c.Mistakes, MistakeChoice{string(m.Mistake), m.Title, m.OfOne})
	}
	return c
}

func registerCatalog(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "get-catalog", Method: http.MethodGet, Path: "/api/catalog", Summary: "What modules and links can be made of"},
		func(context.Context, *struct{}) (*struct{ Body Catalog }, error) {
			return &struct{ Body Catalog }{newCatalog()}, nil
		})
}

// registerDemo answers with the demo's bench, from which the handbook draws its pictures.
func registerDemo(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "get-demo", Method: http.MethodGet, Path: "/api/demo", Summary: "The demo's bench, as it ships"},
		func(context.Context, *struct{}) (*answer.One[bench.Bench], error) {
			return &answer.One[bench.Bench]{Body: demo.Bench()}, nil
		})
}

// registerHosts answers with the boards that makers described themselves.
func registerHosts(api huma.API, s *store.Store) {
	huma.Register(api, huma.Operation{OperationID: "list-own-hosts", Method: http.MethodGet, Path: "/api/hosts", Summary: "Boards that are described on the stored benches, for others"},
		func(context.Context, *struct{}) (*answer.List[bench.Host], error) {
			hosts, err := s.Hosts()
			if err != nil {
				return nil, answer.StoreError(err)
			}
			return &answer.List[bench.Host]{Body: append([]bench.Host{}, hosts...)}, nil
		})
}

func registerMapping(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "read-mapping", Method: http.MethodPost, Path: "/api/mapping", Summary: "Read a mapping of outputs from its text", Errors: []int{422}},
		func(_ context.Context, in *struct {
			Body struct {
				Text string `json:"text" maxLength:"200" example:"RS=0,RW=1,E=2,BL=3,D4=4,D5=5,D6=6,D7=7"`
			}
		}) (*struct{ Body link.Mapping }, error) {
			m, err := link.ParseMapping(in.Body.Text)
			if err == nil {
				err = m.Validate(1, false)
			}
			if err != nil {
				return nil, answer.Refused(err)
			}
			return &struct{ Body link.Mapping }{m}, nil
		})
}

// Register registers what there is to choose from.
func Register(api huma.API, s *store.Store) {
	registerCatalog(api)
	registerDemo(api)
	registerHosts(api, s)
	registerMapping(api)
}
