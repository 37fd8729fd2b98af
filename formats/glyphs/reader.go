// Package glyphs reads glyphs from whatever they come in, found by its content,
// and writes them in any form: it is where the formats of glyphs meet, and holds
// the one of its own, JSON.
package glyphs

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"slatebell/core/text/glyph"
	"slatebell/core/text/picture"
	"slatebell/formats/bdf"
	"slatebell/formats/dottext"
	"slatebell/formats/raster"
)

// Format and Version identify the document.
const (
	Format  = "slatebell-glyphs"
	Version = 1
)

// Document is a library of glyphs as JSON.
type Document struct {
	Format  string          `json:"format" enum:"slatebell-glyphs"`
	Version int             `json:"version" enum:"1"`
	Glyphs  []glyph.Drawing `json:"glyphs" nullable:"false" maxItems:"2000"`
}

// Error is a place in what cannot be read.
type Error = dottext.Error

// Reading is what was read.
type Reading = dottext.Reading

// Read reads glyphs: JSON, BDF, PBM, PNG, or text as dottext reads it. A picture
// must be so many whole cells, side by side and below each other. An error is an
// *Error where the text has a place for it.
func Read(data []byte) (Reading, error) {
	trimmed := bytes.TrimLeft(data, " \t\r\n\ufeff")
	switch {
	case raster.Is(data):
		return readPicture(data)
	case bdf.Is(trimmed):
		list, err := bdf.Read(trimmed)
		return Reading{Glyphs: list, As: "a BDF font"}, err
	case isJSON(trimmed):
		list, err := readJSON(data)
		return Reading{Glyphs: list, As: "a library of glyphs"}, err
	}
	return dottext.Read(string(data))
}

// isJSON reports whether text begins as an object, or a list of objects.
func isJSON(text []byte) bool {
	rest, ok := bytes.CutPrefix(text, []byte("["))
	if ok {
		rest = bytes.TrimLeft(rest, " \t\r\n")
	}
	rest, ok = bytes.CutPrefix(rest, []byte("{"))
	if !ok {
		return false
	}
	rest = bytes.TrimLeft(rest, " \t\r\n")
	return bytes.HasPrefix(rest, []byte(`"`)) || bytes.HasPrefix(rest, []byte("}"))
}

// readJSON reads a document, or a bare list of its glyphs.
func readJSON(data []byte) ([]glyph.Drawing, error) {
	d := Document{Format: Format, Version: Version}
	into := any(&d)
	if bytes.TrimLeft(data, " \t\r\n\ufeff")[0] == '[' {
		into = &d.Glyphs
	}
	in := json.NewDecoder(bytes.NewReader(bytes.TrimPrefix(data, []byte("\ufeff"))))
	in.DisallowUnknownFields()
	if err := in.Decode(into); err != nil {
		at := in.InputOffset()
		var syntax *json.SyntaxError
		var kind *json.UnmarshalTypeError
		switch {
		case errors.As(err, &syntax):
			at = syntax.Offset
		case errors.As(err, &kind):
			at = kind.Offset
		}
		return nil, placeOf(data, int(at), strings.TrimPrefix(err.Error(), "json: "))
	}
	switch {
	case d.Format != Format:
		return nil, fmt.Errorf("/format: %q; expected %q", d.Format, Format)
	case d.Version > Version:
		return nil, fmt.Errorf("/version: %d; this program reads version %d and comes before the one that wrote this", d.Version, Version)
	case len(d.Glyphs) == 0:
		return nil, errors.New("/glyphs: there are none")
	case len(d.Glyphs) > bdf.MaxGlyphs:
		return nil, fmt.Errorf("/glyphs: %d of them; at most %d are read", len(d.Glyphs), bdf.MaxGlyphs)
	}
	for i, g := range d.Glyphs {
		if err := glyph.CheckRows(g.Rows); err != nil {
			return nil, fmt.Errorf("/glyphs/%d/rows: %w", i, err)
		}
		if len([]rune(g.Name)) > 40 {
			return nil, fmt.Errorf("/glyphs/%d/name: %d characters; at most 40", i, len([]rune(g.Name)))
		}
	}
	return d.Glyphs, nil
}

// placeOf returns the error at a byte of a text.
func placeOf(data []byte, at int, what string) *Error {
	before := data[:min(max(at-1, 0), len(data))]
	line := bytes.Count(before, []byte("\n"))
	return &Error{Line: line + 1, Col: len([]rune(string(before[bytes.LastIndexByte(before, '\n')+1:]))) + 1, What: what}
}

// readPicture cuts a picture of whole cells.
func readPicture(data []byte) (Reading, error) {
	g, err := raster.Decode(data)
	if err != nil {
		return Reading{}, err
	}
	w, h := g.Rect.Dx(), g.Rect.Dy()
	block := picture.Block{Cols: w / glyph.Columns, Rows: h / glyph.Rows}
	if h%glyph.Rows != 0 && h%glyph.MaxRows == 0 {
		block.Rows, block.CellRows = h/glyph.MaxRows, glyph.MaxRows
	}
	if bw, bh := block.Size(); bw != w || bh != h || block.Check() != nil {
		return Reading{}, fmt.Errorf("a picture of %d × %d dots; expected a whole number of cells, 5 × 8 (or 5 × 11) dots each, at most %d of them (glyph cut takes pictures of any size)", w, h, picture.MaxCells)
	}
	p, err := raster.Read(data, block, raster.Options{})
	if err != nil {
		return Reading{}, err
	}
	cells, err := block.Cut(&p)
	if err != nil {
		return Reading{}, err
	}
	out := Reading{As: fmt.Sprintf("a picture of %d × %d cells", block.Cols, block.Rows)}
	for _, c := range cells {
		out.Glyphs = append(out.Glyphs, glyph.Drawing{Rows: c.Ints()})
	}
	return out, nil
}
