// Package code answers for programs: their text, their size, what they are built to, and the card for
// the wall.
package code

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/codegen"
	"slatebell/codegen/c99"
	"slatebell/codegen/micropython"
	"slatebell/codegen/source"
	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/ship/card"
	"slatebell/core/ship/firmware"
	"slatebell/export"
	"slatebell/server/api/answer"
	"slatebell/server/compile"
	"slatebell/server/store"
)

// CodeRequest asks for a bench, or one of its modules, as a program.
type CodeRequest struct {
	Bench    bench.Bench `json:"bench"`
	Module   int         `json:"module" minimum:"-1" doc:"index; -1 for all modules"`
	Language string      `json:"language,omitempty" enum:"c,sketch,micropython" doc:"absent: what suits the host"`
}

// WrittenCode is a program, what it takes, and what came of playing it into the rig.
type WrittenCode struct {
	Language string            `json:"language" enum:"c,sketch,micropython"`
	Files    []CodeFile        `json:"files" nullable:"false"`
	Steps    []CodeStep        `json:"steps" nullable:"false" doc:"what brings it onto the bench's host"`
	Size     *CodeSize         `json:"size,omitempty" doc:"of the example on the bench's host; absent where it cannot be told"`
	Heap     int               `json:"heap,omitempty" doc:"MicroPython: of its heap, in bytes, about"`
	HeapOf   int               `json:"heapOf,omitempty" doc:"MicroPython: what the host leaves to programs; absent where it is not known"`
	Calls    int               `json:"calls" doc:"calls that were made: every change of screens, every value at its ends; after each the glass was held against the screen"`
	Words    int               `json:"words" doc:"on the wire for them"`
	Proved   bool              `json:"proved" doc:"the player, which makes the program's calls, was proved: after each the glass was as composed, and no limit was broken. Whether the files compile is what /api/code/build tells"`
	Builds   bool              `json:"builds" doc:"this machine has an avr-gcc, which builds it: POST /api/code/build"`
	Findings []finding.Finding `json:"findings" nullable:"false"`
}

// CodeStep is one thing to do.
type CodeStep struct {
	Do      string `json:"do"`
	Command string `json:"command,omitempty"`
	See     string `json:"see,omitempty" doc:"what one must see then"`
}

// CodeFile is one file of a program.
type CodeFile struct {
	Name     string        `json:"name"`
	Role     string        `json:"role" doc:"its name before the bench's stands in it; own sections are kept under it"`
	Text     string        `json:"text"`
	Regions  []CodeRegion  `json:"regions" nullable:"false" doc:"lines that come from a screen or a field"`
	Sections []CodeSection `json:"sections" nullable:"false" doc:"lines that are its user's own"`
}

// CodeRegion is lines that come from a part of the bench.
type CodeRegion struct {
	First  int `json:"first" doc:"line, from 1"`
	Last   int `json:"last"`
	Module int `json:"module"`
	Screen int `json:"screen" doc:"index; -1 for none"`
	Field  int `json:"field" doc:"index; -1 for none"`
}

// CodeSection is the lines between the marks of an own section; Last is before First where
// there are none.
type CodeSection struct {
	Name  string `json:"name"`
	First int    `json:"first"`
	Last  int    `json:"last"`
}

// CodeSize is what a program takes, in bytes.
type CodeSize struct {
	Flash  int `json:"flash" doc:"about"`
	Tables int `json:"tables" doc:"of it, what comes from screens, fields and glyphs"`
	RAM    int `json:"ram"`

	Of      string `json:"of" doc:"the host's part"`
	FlashOf int    `json:"flashOf" doc:"what the host has beside its loader"`
	RAMOf   int    `json:"ramOf"`
}

// write writes the program and plays it.
func (r *CodeRequest) write() (*WrittenCode, error) {
	if r.Language == "" {
		board := r.Bench.Host.Board()
		r.Language = string(codegen.Suits(&board))
	}
	im, files, err := r.program()
	if err != nil {
		return nil, err
	}
	out := &WrittenCode{Language: r.Language, Steps: []CodeStep{}, Proved: true, Files: make([]CodeFile, len(files)), Findings: append([]finding.Finding{}, codegen.Notes(im, codegen.Language(r.Language))...)}
	for i, f := range files {
		out.Files[i] = codeFile(&f)
	}
	if has, known := c99.MemoryOf(&im.Host); known && r.Language == string(codegen.C) {
		if s, err := c99.SizeOf(im); err == nil {
			out.Size = &CodeSize{s.Flash, s.Tables, s.RAM, im.Host.Part, has.Flash, has.RAM}
		}
	}
	if r.Language == string(codegen.MicroPython) {
		out.Heap, out.HeapOf = micropython.Heap(im, files)
	}
	if r.Language == string(codegen.C) {
		if _, missing := compile.Find(); missing == nil { // else nothing need be laid out for it
			_, refused := c99.Build(im)
			out.Builds = refused == nil
		}
	}
	steps, err := codegen.Steps(im, codegen.Language(r.Language))
	if err != nil {
		return nil, answer.Invalid(err)
	}
	for _, s := range steps {
		out.Steps = append(out.Steps, CodeStep(s))
	}
	for i := range im.Modules {
		proof, err := im.Modules[i].Prove()
		if err != nil {
			return nil, answer.Invalid(err)
		}
		out.Calls += proof.Calls
		out.Words += proof.Words
		out.Proved = out.Proved && len(proof.Findings) == 0
		out.Findings = append(out.Findings, proof.Findings...)
	}
	return out, nil
}

// ToolRequest asks for a small program for the bench's host.
type ToolRequest struct {
	Bench  bench.Bench `json:"bench"`
	Module int         `json:"module" minimum:"-1" doc:"index; -1 for all modules; the scanner needs none"`
	Tool   string      `json:"tool" enum:"scanner,test,bridge,chart-screens" doc:"what prints every address that answers; a first test of the modules; what lets the page drive them; or what shows all codes of their ROMs"`
}

// Tool is its files, in each form that the host takes.
type Tool struct {
	Files []ToolFile `json:"files" nullable:"false"`
}

// ToolFile is one file.
type ToolFile struct {
	Name string `json:"name"`
	Text string `json:"text"`
}

func (r *ToolRequest) write() (*Tool, error) {
	if err := r.Bench.Validate(); err != nil {
		return nil, answer.Invalid(err)
	}
	if r.Module >= len(r.Bench.Modules) {
		return nil, huma.Error422UnprocessableEntity("no such module on this bench")
	}
	files, _, err := export.Files(&r.Bench, r.Module, r.Tool)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	out := &Tool{}
	for _, f := range files {
		out.Files = append(out.Files, ToolFile{f.Name, f.Text})
	}
	return out, nil
}

// BuildRequest asks for a bench, or one of its modules, to be built as C by this machine's avr-gcc.
type BuildRequest struct {
	Bench  bench.Bench `json:"bench"`
	Module int         `json:"module" minimum:"-1" doc:"index; -1 for all modules"`
}

// BuiltCode is what the compiler made of a program.
type BuiltCode struct {
	Built bool      `json:"built"`
	Said  string    `json:"said" doc:"warnings and errors, as the compiler says them"`
	Size  *CodeSize `json:"size,omitempty" doc:"of firmware.elf; its tables are not told apart. Absent where it is not built"`
}

// build compiles the program with this machine's avr-gcc, when it is its turn.
func (r *BuildRequest) build(ctx context.Context, turn chan struct{}) (*BuiltCode, error) {
	im, files, err := (&CodeRequest{r.Bench, r.Module, string(codegen.C)}).program()
	if err != nil {
		return nil, err
	}
	args, err := c99.Build(im)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	compiler, err := compile.Find()
	if err != nil {
		return nil, huma.Error501NotImplemented(err.Error())
	}
	select {
	case turn <- struct{}{}:
		defer func() { <-turn }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	sources := make([]compile.File, len(files))
	for i, f := range files {
		sources[i] = compile.File{Name: f.Name, Text: f.Text}
	}
	made, err := compiler.Build(ctx, sources, args, c99.ELF)
	if err != nil {
		return nil, huma.Error503ServiceUnavailable(err.Error())
	}
	out := &BuiltCode{Built: made.Built, Said: made.Said}
	if has, known := c99.MemoryOf(&im.Host); known && made.Built {
		out.Size = &CodeSize{Flash: made.Flash, RAM: made.RAM, Of: im.Host.Part, FlashOf: has.Flash, RAMOf: has.RAM}
	}
	return out, nil
}

// OwnRequest is files that were written before, and to which their user has added lines.
type OwnRequest struct {
	Files []ToolFile `json:"files" nullable:"false" minItems:"1" maxItems:"40"`
}

// OwnTaken is what stands in their own sections.
type OwnTaken struct {
	Own     []bench.OwnSection `json:"own" nullable:"false"`
	Refused []OwnRefused       `json:"refused" nullable:"false"`
}

// OwnRefused is a file of which nothing is taken, and why.
type OwnRefused struct {
	Name string `json:"name"`
	Why  string `json:"why"`
}

func (r *OwnRequest) read() (*OwnTaken, error) {
	out := &OwnTaken{Own: []bench.OwnSection{}, Refused: []OwnRefused{}}
	for _, f := range r.Files {
		own, err := codegen.Own(f.Name, f.Text)
		if err != nil {
			out.Refused = append(out.Refused, OwnRefused{f.Name, err.Error()})
		}
		out.Own = append(out.Own, own...)
	}
	return out, nil
}

// program writes the files.
func (r *CodeRequest) program() (*firmware.Image, []source.File, error) {
	if err := r.Bench.Validate(); err != nil {
		return nil, nil, answer.Invalid(err)
	}
	if r.Module >= len(r.Bench.Modules) {
		return nil, nil, huma.Error422UnprocessableEntity("no such module on this bench")
	}
	im, files, err := export.Program(&r.Bench, r.Module, codegen.Language(r.Language))
	if err != nil {
		return nil, nil, answer.Invalid(err)
	}
	return im, files, nil
}

func codeFile(f *source.File) CodeFile {
	out := CodeFile{Name: f.Name, Role: f.Template, Text: f.Text, Regions: []CodeRegion{}, Sections: []CodeSection{}}
	for _, r := range f.Regions {
		out.Regions = append(out.Regions, CodeRegion{r.First, r.Last, r.Module, r.Screen, r.Field})
	}
	for _, s := range source.OwnSections(f.Text) {
		out.Sections = append(out.Sections, CodeSection{s.Name, s.First, s.Last})
	}
	return out
}

func registerCode(api huma.API) {
	post := func(id, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, Errors: []int{422}}
	}
	huma.Register(api, post("write-code", "/api/code", "Write a bench, or one of its modules, as a program, and play it into the rig"), answer.Answered((*CodeRequest).write))
	turn := make(chan struct{}, 1) // one build at a time
	huma.Register(api, huma.Operation{OperationID: "build-code", Method: http.MethodPost, Path: BuildPath, Summary: "Build a bench, or one of its modules, with this machine's avr-gcc; for this machine's own page only", Errors: []int{403, 422, 501, 503}}, func(ctx context.Context, in *struct{ Body BuildRequest }) (*answer.Body[BuiltCode], error) {
		out, err := in.Body.build(ctx, turn)
		if err != nil {
			return nil, err
		}
		return &answer.Body[BuiltCode]{Body: *out}, nil
	})
	huma.Register(api, post("take-own-sections", "/api/code/own", "Read what its user wrote into the own sections of files that were written before"), answer.Answered((*OwnRequest).read))
	huma.Register(api, post("write-tool", "/api/code/tools", "Write a scanner of the bus, or a first test of modules, for a bench's host"), answer.Answered((*ToolRequest).write))
}

// cardPolicy lets the card's own style in, and nothing else: it has no script.
const cardPolicy = "default-src 'none'; style-src 'unsafe-inline'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

// registerCard answers with the card of a module of a stored bench.
func registerCard(api huma.API, s *store.Store) {
	huma.Register(api, huma.Operation{
		OperationID: "print-card", Method: http.MethodGet, Path: "/api/benches/{id}/modules/{module}/card", Summary: "A page about a module to print", Errors: []int{404, 422},
	}, func(_ context.Context, in *struct {
		ID     uint   `path:"id"`
		Module string `path:"module" maxLength:"40"`
	}) (*huma.StreamResponse, error) {
		r, err := s.Get(in.ID)
		if err != nil {
			return nil, answer.StoreError(err)
		}
		at := slices.IndexFunc(r.Bench.Modules, func(m bench.Module) bool { return m.ID == in.Module })
		if at < 0 {
			return nil, huma.Error404NotFound(fmt.Sprintf("module %q is not on this bench", in.Module))
		}
		var page bytes.Buffer
		if err := card.Write(&page, &r.Bench, at); err != nil {
			return nil, answer.Invalid(err)
		}
		return &huma.StreamResponse{Body: func(ctx huma.Context) {
			ctx.SetHeader("Content-Type", "text/html; charset=utf-8")
			ctx.SetHeader("Content-Security-Policy", cardPolicy)
			ctx.BodyWriter().Write(page.Bytes()) // the connection is gone where this fails
		}}, nil
	})
}

// Register registers programs, and the card for the wall.
func Register(api huma.API, s *store.Store) {
	registerCode(api)
	registerCard(api, s)
}

// BuildPath is what runs a program of this machine.
const BuildPath = "/api/code/build"
