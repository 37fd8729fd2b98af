package edit

import (
	"fmt"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/finding"
)

// SetShow replaces a module's show.
type SetShow struct {
	Module int
	Show   bench.Show
}

// Apply carries the edit out.
func (e SetShow) Apply(b *bench.Bench) { module(b, e.Module).Show = e.Show }

// Patch returns the edit as a patch.
func (e SetShow) Patch(b *bench.Bench) finding.Patch {
	path, owner := ofModule(b, e.Module, "/show")
	return change(path, b.Modules[e.Module].Show, e.Show, owner)
}

// AddInputs lets a module's show listen to more inputs, behind the last one.
type AddInputs struct {
	Module int
	Inputs []bench.Input
}

// Apply carries the edit out.
func (e AddInputs) Apply(b *bench.Bench) {
	m := module(b, e.Module)
	m.Show.Inputs = slices.Concat(m.Show.Inputs, e.Inputs)
}

// Patch returns the edit as a patch.
func (e AddInputs) Patch(b *bench.Bench) finding.Patch {
	was := &b.Modules[e.Module].Show
	if len(e.Inputs) == 0 {
		return nil
	}
	if !says(*was) {
		return SetShow{e.Module, bench.Show{Inputs: e.Inputs}}.Patch(b)
	}
	path, owner := ofModule(b, e.Module, "/show/inputs")
	return append(finding.Patch{owner}, change(path, was.Inputs, slices.Concat(was.Inputs, e.Inputs), owner)...)
}

// InputPath is the RFC 6901 pointer to an input of a module's show.
func InputPath(module, input int) string {
	return fmt.Sprintf("/modules/%d/show/inputs/%d", module, input)
}

// Contact is one of the lines of an input that are joined to the host.
type Contact string

// The contacts; a rotary encoder has two.
const (
	First  Contact = "pin"
	Second Contact = "pinB"
)

// SetInputPin reads an input's line on another pin of the host.
type SetInputPin struct {
	Module, Input int // indices
	Contact       Contact
	Pin           string // label; "": on none
}

// pin is where the label stands.
func (e SetInputPin) pin(in *bench.Input) *string {
	if e.Contact == Second {
		return &in.PinB
	}
	return &in.Pin
}

// Apply carries the edit out.
func (e SetInputPin) Apply(b *bench.Bench) {
	m := module(b, e.Module)
	m.Show.Inputs = slices.Clone(m.Show.Inputs)
	*e.pin(&m.Show.Inputs[e.Input]) = e.Pin
}

// Patch returns the edit as a patch.
func (e SetInputPin) Patch(b *bench.Bench) finding.Patch {
	in := &b.Modules[e.Module].Show.Inputs[e.Input]
	path := InputPath(e.Module, e.Input)
	return change(path+"/"+string(e.Contact), *e.pin(in), e.Pin, finding.Test(path+"/id", in.ID))
}

// SetInput changes an input in whatever it says.
type SetInput struct {
	Module, Index int
	Input         bench.Input
}

// Apply carries the edit out.
func (e SetInput) Apply(b *bench.Bench) {
	m := module(b, e.Module)
	m.Show.Inputs = slices.Clone(m.Show.Inputs)
	m.Show.Inputs[e.Index] = e.Input
}

// Patch returns the edit as a patch.
func (e SetInput) Patch(b *bench.Bench) finding.Patch {
	path := InputPath(e.Module, e.Index)
	return finding.Patch{finding.Test(path, b.Modules[e.Module].Show.Inputs[e.Index]), finding.Replace(path, e.Input)}
}
