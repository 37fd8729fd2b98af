package bench

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"slatebell/core/part/host"
	"slatebell/core/part/module"
	"slatebell/core/place"
	"slatebell/core/text/screen"
	"slatebell/core/wire/sequence"
)

// Problem is one thing wrong with a document.
type Problem struct {
	Path   string        // RFC 6901 pointer, such as /modules/0/link
	What   string        // what was wrong and what would be right
	Places []place.Place // the cells that it names
}

func (p Problem) Error() string { return p.Path + ": " + p.What }

// Under returns the problem as it is named in a document that holds the checked
// part at a pointer.
func (p Problem) Under(pointer string) Problem {
	p.Path = pointer + p.Path
	return p
}

// ProblemOf returns the problem that an error is of the part at a pointer.
func ProblemOf(pointer string, err error) Problem {
	says := place.Of(err)
	return Problem{Path: pointer, What: says.S, Places: says.Places}
}

// Problems is the error that Validate returns.
type Problems []Problem

func (p Problems) Error() string {
	parts := make([]string, len(p))
	for i, one := range p {
		parts[i] = one.Error()
	}
	return strings.Join(parts, "; ")
}

// Validate returns Problems, or nil where every module of the document can be
// run and every name that it refers to is there. What each value alone may be,
// the document's JSON Schema says.
func (b *Bench) Validate() error {
	var p Problems
	if b.Format != Format || b.Version != Version {
		p = append(p, Problem{Path: "/format", What: fmt.Sprintf("%q version %d; expected %q version %d", b.Format, b.Version, Format, Version)})
	}
	if n := len(b.Modules); n == 0 || n > MaxModules {
		p = append(p, Problem{Path: "/modules", What: fmt.Sprintf("%d modules; a bench has 1–%d", n, MaxModules)})
	}
	p = append(p, repeated("/modules", "module", b.Modules, func(m *Module) string { return m.ID })...)
	p = append(p, repeated("/devices", "device", b.Devices, func(d *Device) string { return d.ID })...)
	p = append(p, repeated("/parts", "part", b.Parts, func(o *OwnPart) string { return o.ID })...)
	for i := range b.Parts {
		for k, pin := range b.Parts[i].Pins {
			if slices.ContainsFunc(b.Parts[i].Pins[:k], func(o OwnPin) bool { return o.Name == pin.Name }) {
				p = append(p, Problem{Path: fmt.Sprintf("/parts/%d/pins/%d/name", i, k), What: fmt.Sprintf("%q is another pin of this part; expected a name of its own", pin.Name)})
			}
		}
	}
	p = append(p, repeated("/wiring/boards", "board", b.Wiring.Boards, func(w *Breadboard) string { return w.ID })...)
	p = append(p, b.Wiring.edges()...)
	if at, err := b.Glyphs.Validate(); err != nil {
		p = append(p, ProblemOf(fmt.Sprintf("/glyphs/%d", at), err))
	}
	if _, err := host.ParseSerial(b.Host.Facts.Serial); err != nil {
		p = append(p, Problem{Path: "/host/facts/serial", What: err.Error()})
	}
	for i := range b.Devices {
		if _, _, err := b.Devices[i].BusPart(); err != nil {
			p = append(p, Problem{Path: fmt.Sprintf("/devices/%d/addresses", i), What: err.Error()})
		}
	}
	for i := range b.Modules {
		m := &b.Modules[i]
		at := fmt.Sprintf("/modules/%d", i)
		for _, one := range append(m.runnable(&b.Bus), m.references()...) {
			p = append(p, one.Under(at))
		}
	}
	if len(p) == 0 {
		return nil
	}
	return p
}

// Validate checks the bench as Bench.Validate does, and the entries of the log.
func (a *Archive) Validate() error {
	p, _ := a.Bench.Validate().(Problems)
	for i := range a.Log {
		if err := a.Log[i].Validate(); err != nil {
			p = append(p, Problem{Path: fmt.Sprintf("/log/%d", i), What: err.Error()})
		}
	}
	if len(p) == 0 {
		return nil
	}
	return p
}

// repeated names ids of a list that stand in it twice.
func repeated[T any](at, what string, list []T, id func(*T) string) (p Problems) {
	seen := map[string]bool{}
	for i := range list {
		if name := id(&list[i]); seen[name] {
			p = append(p, Problem{Path: fmt.Sprintf("%s/%d/id", at, i), What: fmt.Sprintf("%q is another %s's id", name, what)})
		} else {
			seen[name] = true
		}
	}
	return p
}

// edges lists the boards that do not lie beyond the edge of another: each beyond one that lies
// beyond none, and one at most beyond each.
func (w *Wiring) edges() (p Problems) {
	taken := map[string]bool{}
	for i := range w.Boards {
		b := &w.Boards[i]
		if b.Beyond == "" {
			continue
		}
		at := slices.IndexFunc(w.Boards, func(o Breadboard) bool { return o.ID == b.Beyond && o.ID != b.ID && o.Beyond == "" })
		switch {
		case at < 0:
			p = append(p, Problem{Path: fmt.Sprintf("/wiring/boards/%d/beyond", i), What: fmt.Sprintf("%q; expected the id of another board, which lies beyond none itself", b.Beyond)})
		case taken[b.Beyond]:
			p = append(p, Problem{Path: fmt.Sprintf("/wiring/boards/%d/beyond", i), What: fmt.Sprintf("a board lies beyond %s already", b.Beyond)})
		}
		taken[b.Beyond] = true
	}
	return p
}

// runnable lists what keeps a module from being run.
func (m *Module) runnable(bus *Bus) (p Problems) {
	if _, err := m.Display.Module(); err != nil {
		p = append(p, err.(Problem).Under("/display"))
	} else if err := m.Glyphs.Validate(); err != nil {
		p = append(p, Problem{Path: "/glyphs", What: err.Error()})
	}
	g, err := module.ParseGeometry(m.Display.Geometry)
	if err == nil {
		if err := m.Link.Check(&g, bus); err != nil {
			p = append(p, err.(Problem).Under("/link"))
		}
	}
	if len(m.Screens) == 0 {
		p = append(p, Problem{Path: "/screens", What: "none; a module has at least one screen"})
	}
	for i := range m.Screens {
		for _, one := range CheckRows(m.Screens[i].Rows) {
			p = append(p, one.Under(fmt.Sprintf("/screens/%d/rows", i)))
		}
	}
	return p
}

// Check reports the first setting of a link that cannot be. Its error is a
// Problem.
func (l *Link) Check(g *module.Geometry, bus *Bus) error {
	built := l.Build(g, bus)
	if err := built.Validate(); err != nil {
		path := ""
		if built.Expander() {
			path = "/outputs"
		}
		return Problem{Path: path, What: err.Error()}
	}
	if err := sequence.CheckWaits(sequence.Waits(l.Waits), built); err != nil {
		return Problem{Path: "/waits", What: err.Error()}
	}
	return nil
}

// CheckRows lists rows that are no single line, or too long to be kept.
func CheckRows(rows []string) (p Problems) {
	for i, row := range rows {
		if n := utf8.RuneCountInString(row); n > screen.MaxRow {
			p = append(p, Problem{Path: fmt.Sprintf("/%d", i), What: fmt.Sprintf("%d characters; a row has at most %d", n, screen.MaxRow)})
		} else if strings.ContainsAny(row, "\n\r") {
			p = append(p, Problem{Path: fmt.Sprintf("/%d", i), What: "there is a line end in it; a row is one line"})
		}
	}
	return p
}

// references lists names in a module that lead nowhere.
func (m *Module) references() (p Problems) {
	p = append(p, repeated("/screens", "screen", m.Screens, func(s *Screen) string { return s.ID })...)
	p = append(p, repeated("/show/scenes", "scene", m.Show.Scenes, func(s *Scene) string { return s.ID })...)
	p = append(p, repeated("/show/inputs", "input", m.Show.Inputs, func(i *Input) string { return i.ID })...)
	screens, scenes, inputs := map[string]bool{}, map[string]bool{"": true}, map[string]bool{"": true}
	for _, s := range m.Screens {
		screens[s.ID] = true
	}
	for _, s := range m.Show.Scenes {
		scenes[s.ID] = true
	}
	for _, in := range m.Show.Inputs {
		inputs[in.ID] = true
	}
	lost := func(known map[string]bool, path, what, id string) {
		if !known[id] {
			p = append(p, Problem{Path: path, What: fmt.Sprintf("there is no %s %q in this module", what, id)})
		}
	}
	lost(scenes, "/show/start", "scene", m.Show.Start)
	for i, s := range m.Show.Scenes {
		at := fmt.Sprintf("/show/scenes/%d", i)
		lost(screens, at+"/screen", "screen", s.Screen)
		for j, e := range s.Ends {
			lost(scenes, fmt.Sprintf("%s/ends/%d/next", at, j), "scene", e.Next)
			lost(inputs, fmt.Sprintf("%s/ends/%d/input", at, j), "input", e.Input)
		}
		for j, k := range s.Edit.Keys {
			lost(inputs, fmt.Sprintf("%s/edit/keys/%d/input", at, j), "input", k.Input)
		}
	}
	for i, in := range m.Show.Inputs {
		lost(inputs, fmt.Sprintf("/show/inputs/%d/counter/up", i), "input", in.Counter.Up)
		lost(inputs, fmt.Sprintf("/show/inputs/%d/counter/down", i), "input", in.Counter.Down)
		lost(inputs, fmt.Sprintf("/show/inputs/%d/serial/reset", i), "input", in.Serial.Reset)
	}
	for i, f := range m.Show.Feeds {
		lost(inputs, fmt.Sprintf("/show/feeds/%d/input", i), "input", f.Input)
	}
	return p
}
