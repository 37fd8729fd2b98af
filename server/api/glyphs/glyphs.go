// Package glyphs answers for what is drawn: formats of glyphs, bars, digits and pictures, and the charts
// of character ROMs.
package glyphs

import (
	"context"
	"encoding/base64"
	"errors"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/text/glyph"
	"slatebell/core/text/picture"
	"slatebell/formats/glyphs"
	"slatebell/formats/raster"
	"slatebell/server/api/answer"
)

// Dots is the pattern of one cell.
type Dots struct {
	Rows []int `json:"rows" nullable:"false" minItems:"8" maxItems:"11" doc:"dots, top row first, 0–31; bit 4 is the leftmost dot"`
}

func dotsOf(list []glyph.Pattern) []Dots {
	out := make([]Dots, len(list))
	for i, p := range list {
		out[i] = Dots{p.Ints()}
	}
	return out
}

func patternsOf(list []Dots) []glyph.Pattern {
	out := make([]glyph.Pattern, len(list))
	for i, d := range list {
		out[i] = glyph.FromInts(d.Rows)
	}
	return out
}

// CellBlock is a block of cells that is drawn as one.
type CellBlock struct {
	Cols int  `json:"cols" minimum:"1" maximum:"40"`
	Rows int  `json:"rows" minimum:"1" maximum:"4"`
	Tall bool `json:"tall,omitempty" doc:"cells of 5×10 dots and the cursor's line"`
}

func (b *CellBlock) block(gaps bool) picture.Block {
	out := picture.Block{Cols: b.Cols, Rows: b.Rows, Gaps: gaps}
	if b.Tall {
		out.CellRows = glyph.MaxRows
	}
	return out
}

// ReadGlyphsRequest is glyphs in any form.
type ReadGlyphsRequest struct {
	Text string `json:"text,omitempty" maxLength:"300000" doc:"numbers, a program's array, lines of dots, JSON, BDF, PBM"`
	Data string `json:"data,omitempty" maxLength:"6000000" doc:"the same as bytes in base64, for files"`
}

// ReadGlyphs is what glyphs were read as, or where they cannot be read.
type ReadGlyphs struct {
	Glyphs []glyph.Drawing `json:"glyphs" nullable:"false"`
	As     string          `json:"as,omitempty" doc:"what it was read as, in words"`
	Error  *TextPlace      `json:"error,omitempty" doc:"where it cannot be read, and why"`
}

// TextPlace is a place in a text.
type TextPlace struct {
	Line int    `json:"line,omitempty" doc:"counted from 1; absent where the text has no place for it"`
	Col  int    `json:"col,omitempty" doc:"counted from 1, in characters"`
	What string `json:"what"`
}

// WriteGlyphsRequest asks for glyphs in a form.
type WriteGlyphsRequest struct {
	Glyphs []glyph.Drawing `json:"glyphs" nullable:"false" maxItems:"2000"`
	To     string          `json:"to" enum:"json,bdf,pbm,c,python,hex,bits"`
}

// WrittenGlyphs is glyphs as text.
type WrittenGlyphs struct {
	Text string `json:"text"`
}

// DrawRequest asks for a block's dots as they are after an operation.
type DrawRequest struct {
	Block CellBlock `json:"block"`
	Cells []Dots    `json:"cells" nullable:"false" maxItems:"160" doc:"row by row"`
	Do    string    `json:"do" enum:"mirror,flip,turn,invert,shift,symmetric" doc:"symmetric mirrors the left half onto the right one"`
	DX    int       `json:"dx,omitempty" minimum:"-200" maximum:"200" doc:"shift: dots to the right"`
	DY    int       `json:"dy,omitempty" minimum:"-200" maximum:"200" doc:"shift: dots down"`
}

// DrawnCells is the dots of a block.
type DrawnCells struct {
	Cells []Dots `json:"cells" nullable:"false" doc:"row by row"`
}

// draw carries out an operation on a block.
func (r *DrawRequest) draw() (*DrawnCells, error) {
	block := r.Block.block(false)
	if err := block.Check(); err != nil {
		return nil, answer.Refused(err)
	}
	if len(r.Cells) != r.Block.Cols*r.Block.Rows {
		return nil, huma.Error422UnprocessableEntity("cells: expected as many as the block has, row by row")
	}
	p := block.Join(patternsOf(r.Cells))
	out := map[string]func() picture.Plane{
		"mirror": p.Mirrored, "flip": p.Flipped, "turn": p.Turned, "invert": p.Inverted, "symmetric": p.Symmetric,
		"shift": func() picture.Plane { return p.Shifted(r.DX, r.DY) },
	}[r.Do]()
	cells, err := block.Cut(&out)
	if err != nil {
		return nil, err
	}
	return &DrawnCells{dotsOf(cells)}, nil
}

// CutRequest asks for a picture cut into the cells of a block.
type CutRequest struct {
	Display   bench.Display `json:"display" doc:"whose ROM shows cells without a slot"`
	Block     CellBlock     `json:"block"`
	Gaps      bool          `json:"gaps,omitempty" doc:"the dots hidden between cells are part of the picture"`
	Data      string        `json:"data" maxLength:"6000000" doc:"the picture, PNG or PBM, in base64"`
	Threshold int           `json:"threshold,omitempty" minimum:"0" maximum:"255" doc:"grey below which a dot is lit; absent: 128"`
	Dither    string        `json:"dither,omitempty" enum:"diffuse,ordered" doc:"absent: by the threshold alone"`
	Invert    bool          `json:"invert,omitempty" doc:"bright dots are lit"`
	Slots     int           `json:"slots" minimum:"0" maximum:"8" doc:"that its glyphs may take"`
}

// CutCell is one cell of a picture.
type CutCell struct {
	Glyph   int   `json:"glyph" doc:"index into glyphs; -1 where the ROM shows it"`
	Code    int   `json:"code" doc:"of the ROM, where glyph is -1"`
	Wanted  []int `json:"wanted" nullable:"false" doc:"rows as the picture has them"`
	Shown   []int `json:"shown" nullable:"false" doc:"rows as they come to be shown"`
	Changed int   `json:"changed" doc:"dots that differ"`
}

// CutPicture is how a picture is shown by few glyphs.
type CutPicture struct {
	Cells    []CutCell `json:"cells" nullable:"false" doc:"row by row"`
	Glyphs   []Dots    `json:"glyphs" nullable:"false"`
	Distinct int       `json:"distinct" doc:"glyphs that it would take if none were merged"`
	Changed  int       `json:"changed" doc:"dots that differ in all"`
	Least    bool      `json:"least" doc:"proved: as few glyphs cannot change fewer dots"`
}

// cut cuts the picture.
func (r *CutRequest) cut() (*CutPicture, error) {
	m, err := r.Display.Module()
	if err != nil {
		return nil, answer.Invalid(err)
	}
	data, err := base64.StdEncoding.DecodeString(r.Data)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("data: " + err.Error())
	}
	block := r.Block.block(r.Gaps)
	p, err := raster.Read(data, block, raster.Options{Threshold: r.Threshold, Dither: raster.Dither(r.Dither), Invert: r.Invert})
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The picture cannot be read: " + err.Error())
	}
	cells, err := block.Cut(&p)
	if err != nil {
		return nil, err
	}
	shared := picture.Share(cells, picture.Target{ROM: m.ROM, Tall: r.Block.Tall, Slots: min(r.Slots, glyph.Slots/m.SlotStep())})
	out := &CutPicture{Glyphs: dotsOf(shared.Glyphs), Distinct: shared.Distinct, Changed: shared.Changed, Least: shared.Least, Cells: make([]CutCell, len(cells))}
	for i, c := range shared.Cells {
		out.Cells[i] = cutCell(c, cells[i])
	}
	return out, nil
}

func cutCell(c picture.Tile, wanted glyph.Pattern) CutCell {
	out := CutCell{Glyph: c.Glyph, Wanted: wanted.Ints(), Shown: c.Shown.Ints(), Changed: c.Changed}
	if c.Glyph < 0 {
		out.Code = int(c.Code)
	}
	return out
}

// readGlyphs reads glyphs in any form.
func readGlyphs(r *ReadGlyphsRequest) (*ReadGlyphs, error) {
	data := []byte(r.Text)
	if r.Data != "" {
		decoded, err := base64.StdEncoding.DecodeString(r.Data)
		if err != nil {
			return nil, huma.Error422UnprocessableEntity("data: " + err.Error())
		}
		data = decoded
	}
	read, err := glyphs.Read(data)
	out := &ReadGlyphs{Glyphs: []glyph.Drawing{}}
	var place *glyphs.Error
	switch {
	case errors.As(err, &place):
		out.Error = &TextPlace{place.Line, place.Col, place.What}
	case err != nil:
		out.Error = &TextPlace{What: err.Error()}
	default:
		out.Glyphs, out.As = read.Glyphs, read.As
	}
	return out, nil
}

func registerGlyphs(api huma.API) {
	post := func(id, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, Errors: []int{422}}
	}
	huma.Register(api, huma.Operation{OperationID: "list-shipped-glyphs", Method: http.MethodGet, Path: "/api/glyphs/shipped", Summary: "The library of glyphs that comes with the program"},
		func(context.Context, *struct{}) (*answer.List[glyph.Drawing], error) {
			return &answer.List[glyph.Drawing]{Body: glyph.Shipped()}, nil
		})
	huma.Register(api, post("read-glyphs", "/api/glyphs/read", "Read glyphs in any form, found by its content"), answer.Answered(readGlyphs))
	huma.Register(api, post("write-glyphs", "/api/glyphs/write", "Write glyphs in a form"), answer.Answered(func(r *WriteGlyphsRequest) (*WrittenGlyphs, error) {
		if at, err := glyph.Library(r.Glyphs).Validate(); err != nil {
			return nil, huma.Error422UnprocessableEntity(r.Glyphs[at].Name + ": " + err.Error())
		}
		var text strings.Builder
		if err := glyphs.Write(&text, r.To, r.Glyphs); err != nil {
			return nil, answer.Refused(err)
		}
		return &WrittenGlyphs{text.String()}, nil
	}))
	huma.Register(api, post("edit-glyphs", "/api/glyphs/edits", "The change that adds glyphs to the library, renames a picture or fills a slot"), answer.Answered((*GlyphEditRequest).edit))
	huma.Register(api, post("draw-cells", "/api/glyphs/draw", "Mirror, turn, shift or invert the dots of a block of cells"), answer.Answered((*DrawRequest).draw))
	huma.Register(api, post("cut-picture", "/api/glyphs/cut", "Cut a picture into glyphs, merged where they are more than there are slots"), answer.Answered((*CutRequest).cut))
	registerMakers(api, post)
}

// Register registers glyphs, what makes them, and the charts of ROMs.
func Register(api huma.API) {
	registerGlyphs(api)
	registerROM(api)
}
