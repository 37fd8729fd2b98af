package edit

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/finding"

	"golang.org/x/text/unicode/norm"
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

// showOf returns a copy of a module's show whose lists can be changed.
func showOf(b *bench.Bench, at int) bench.Show {
	s := b.Modules[at].Show
	s.Scenes, s.Inputs, s.Feeds = slices.Clone(s.Scenes), slices.Clone(s.Inputs), slices.Clone(s.Feeds)
	for i := range s.Scenes {
		s.Scenes[i].Ends, s.Scenes[i].Edit.Keys = slices.Clone(s.Scenes[i].Ends), slices.Clone(s.Scenes[i].Edit.Keys)
	}
	return s
}

// AddScene puts a scene behind the last one of a module's show.
type AddScene struct {
	Module int
	Scene  bench.Scene
}

// Apply carries the edit out.
func (e AddScene) Apply(b *bench.Bench) { SetShow{e.Module, e.show(b)}.Apply(b) }

// Patch returns the edit as a patch.
func (e AddScene) Patch(b *bench.Bench) finding.Patch { return SetShow{e.Module, e.show(b)}.Patch(b) }

func (e AddScene) show(b *bench.Bench) bench.Show {
	s := showOf(b, e.Module)
	s.Scenes = append(s.Scenes, e.Scene)
	return s
}

// RemoveScene takes a scene out of a module's show, and with it the ends that lead to it.
type RemoveScene struct {
	Module int
	ID     string
}

// Apply carries the edit out.
func (e RemoveScene) Apply(b *bench.Bench) { SetShow{e.Module, e.show(b)}.Apply(b) }

// Patch returns the edit as a patch.
func (e RemoveScene) Patch(b *bench.Bench) finding.Patch {
	return SetShow{e.Module, e.show(b)}.Patch(b)
}

func (e RemoveScene) show(b *bench.Bench) bench.Show {
	s := showOf(b, e.Module)
	s.Scenes = slices.DeleteFunc(s.Scenes, func(c bench.Scene) bool { return c.ID == e.ID })
	for i := range s.Scenes {
		s.Scenes[i].Ends = slices.DeleteFunc(s.Scenes[i].Ends, func(end bench.End) bool { return end.Next == e.ID })
	}
	if s.Start == e.ID {
		s.Start = ""
	}
	return s
}

// RemoveInput takes an input off a module's show, and with it whatever listens to it: ends, keys of an
// edit, feeds, what steps a counter and what empties a message.
type RemoveInput struct {
	Module int
	ID     string
}

// Apply carries the edit out.
func (e RemoveInput) Apply(b *bench.Bench) { SetShow{e.Module, e.show(b)}.Apply(b) }

// Patch returns the edit as a patch.
func (e RemoveInput) Patch(b *bench.Bench) finding.Patch {
	return SetShow{e.Module, e.show(b)}.Patch(b)
}

func (e RemoveInput) show(b *bench.Bench) bench.Show {
	s := showOf(b, e.Module)
	s.Inputs = slices.DeleteFunc(s.Inputs, func(in bench.Input) bool { return in.ID == e.ID })
	for i := range s.Inputs {
		in := &s.Inputs[i]
		for _, listens := range []*string{&in.Counter.Up, &in.Counter.Down, &in.Serial.Reset} {
			if *listens == e.ID {
				*listens = ""
			}
		}
	}
	s.Feeds = slices.DeleteFunc(s.Feeds, func(f bench.Feed) bool { return f.Input == e.ID })
	for i := range s.Scenes {
		c := &s.Scenes[i]
		c.Ends = slices.DeleteFunc(c.Ends, func(end bench.End) bool { return end.Input == e.ID })
		c.Edit.Keys = slices.DeleteFunc(c.Edit.Keys, func(k bench.Key) bool { return k.Input == e.ID })
	}
	return s
}

// NewID returns a name as an id that none of those taken is: lower-case letters, digits and hyphens, 40
// characters at most.
func NewID(name string, taken func(id string) bool) string {
	var plain []byte
	for _, c := range []byte(norm.NFD.String(strings.ToLower(name))) {
		switch {
		case c >= 'a' && c <= 'z' || c >= '0' && c <= '9':
			plain = append(plain, c)
		case c < 0x80 && len(plain) > 0 && plain[len(plain)-1] != '-': // a mark above a letter is no gap
			plain = append(plain, '-')
		}
	}
	stem := cmp.Or(strings.Trim(string(plain[:min(len(plain), 32)]), "-"), "one")
	id := stem
	for n := 2; taken(id); n++ {
		id = stem + "-" + strconv.Itoa(n)
	}
	return id
}
