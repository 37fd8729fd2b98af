package glyphs

import (
	"errors"
	"fmt"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/text/glyph"
	"slatebell/server/api/answer"
)

// GlyphEditRequest asks for a change of the library or of a module's slots.
type GlyphEditRequest struct {
	Bench    bench.Bench     `json:"bench"`
	Module   int             `json:"module" minimum:"0" doc:"index"`
	Do       string          `json:"do" enum:"add,frame,rename,fill" doc:"add: drawings, each with a key of its own; frame: drawings as the cells of a picture; rename: a picture; fill: the first free slot with the first drawing"`
	Drawings []glyph.Drawing `json:"drawings,omitempty" nullable:"false" maxItems:"256" doc:"keys are given by the answer"`
	Name     string          `json:"name,omitempty" maxLength:"40" doc:"that the picture is to have; a number is put behind it where it is taken"`
	Picture  string          `json:"picture,omitempty" maxLength:"40" doc:"name of the picture that is renamed"`
}

// GlyphEdit is a change of glyphs.
type GlyphEdit struct {
	finding.Remedy
	Keys    []int  `json:"keys,omitempty" nullable:"false" doc:"of the drawings, in their order"`
	Picture string `json:"picture,omitempty" doc:"its name"`
	Slot    int    `json:"slot" doc:"that is filled"`
}

// edit makes the change.
func (r *GlyphEditRequest) edit() (*GlyphEdit, error) {
	b := &r.Bench
	if r.Do != "rename" && len(r.Drawings) == 0 {
		return nil, answer.Refused(errors.New("no drawings; expected one at least"))
	}
	switch r.Do {
	case "fill":
		return r.fill()
	case "rename":
		name := b.Glyphs.FreePicture(r.Name)
		out := &GlyphEdit{Picture: name}
		out.Remedy = edit.Remedy(b, "Rename the picture", edit.SetLibrary{Glyphs: b.Glyphs.Framed(r.Picture, name)})
		return out, nil
	}
	out := &GlyphEdit{}
	if r.Do == "frame" {
		out.Picture = b.Glyphs.FreePicture(r.Name)
		for i := range r.Drawings {
			d := &r.Drawings[i]
			if d.Part == nil {
				return nil, answer.Refused(fmt.Errorf("drawing %d has no place in the picture; expected its row and column", i+1))
			}
			d.Name, d.Part.Picture = fmt.Sprintf("%s %d", out.Picture, i+1), out.Picture
		}
	}
	with, keys, err := b.Glyphs.With(r.Drawings)
	if err != nil {
		return nil, answer.Refused(err)
	}
	out.Keys = keys
	out.Remedy = edit.Remedy(b, "Add to the library", edit.SetLibrary{Glyphs: with})
	return out, nil
}

// fill puts the first drawing into the first free slot of the module.
func (r *GlyphEditRequest) fill() (*GlyphEdit, error) {
	m, err := answer.Module(&r.Bench, r.Module)
	if err != nil {
		return nil, err
	}
	made, err := m.Display.Module()
	if err != nil {
		return nil, answer.Refused(err)
	}
	slot, ok := m.Glyphs.Free(made.SlotStep())
	if !ok {
		return nil, answer.Refused(errors.New("all slots are taken: empty one, or keep the glyph in the library"))
	}
	d := &r.Drawings[0]
	out := &GlyphEdit{Slot: slot}
	out.Remedy = edit.Remedy(&r.Bench, "Fill a slot", edit.AddGlyph{Module: r.Module, Glyph: glyph.New(slot, d.Name, d.Pattern())})
	return out, nil
}
