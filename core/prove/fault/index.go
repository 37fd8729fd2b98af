package fault

import (
	"fmt"

	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/glass"
)

// Index is the catalogue of one subject, simulated: what each case shows. Make it with
// New. It keeps what it played, so that it must not be used by two at once.
type Index struct {
	Faults []Fault // single ones; Faults[0] is none: all is as it ought to be
	Cases  []Case  // each fault by itself, in the order of Faults, then two at once
	Tests  []Test  // what can be done to tell them apart
	Watch  Watch   // is told of what takes long; may be nil

	subject  *Subject
	header   header
	base     state
	bank     glyph.Bank // what the slots hold while the screen is shown
	testRows []string
	texts    []screen.Text // that the program shows once its inputs were used
	textOf   map[string]int16
	inputs   []handled
	strands  []strand // see Told
	byID     map[string]int
	player
	vocabulary
}

// Watch is told how far something has come that takes long: what is being done, and how
// many of how many are.
type Watch func(doing string, done, of int)

// Tell tells a watch, if there is one.
func (w Watch) Tell(doing string, done, of int) {
	if w != nil {
		w(doing, done, of)
	}
}

// Case is one fault, or two at once.
type Case struct {
	A, B   int32   // indexes into Faults; B is -1 for one alone
	Weight float64 // how often it is met, against others
	View   int32   // index of what it shows, for Index.View
}

// New simulates the catalogue of a subject, and tells watch of it, which may be nil. Its
// error says why the subject cannot be run as it ought to be.
func New(s *Subject, watch Watch) (*Index, error) {
	x, err := listed(s, true)
	if err != nil {
		return nil, err
	}
	x.Watch = watch
	x.pair()
	if err := x.index(); err != nil {
		return nil, err
	}
	x.meant = map[meaning]*meant{} // what is asked for later is meant otherwise
	x.Tests = x.tests()
	return x, nil
}

// List returns the single faults of a subject without what they show. Of the orders of
// eight data lines, which are 40,320, it leaves out all but the exchanges.
func List(s *Subject) ([]Fault, error) {
	x, err := Listed(s)
	if err != nil {
		return nil, err
	}
	return x.Faults, nil
}

// Listed is an index of the faults that List has, which has played none of them: Made makes them.
func Listed(s *Subject) (*Index, error) { return listed(s, s.Link.Width() == 4) }

// listed returns an index that has its faults, and has played nothing but the program
// as it ought to be.
func listed(s *Subject, orders bool) (*Index, error) {
	x := empty(s)
	x.base = s.sound(&x.header)
	layout := screen.Compose(&s.Module, s.Text, screen.Sources{})
	x.bank = layout.Bank
	if _, err := x.send(program{}); err != nil {
		return nil, fmt.Errorf("faults: %w", err)
	}
	x.list(&layout, orders)
	for i := range x.Faults {
		x.byID[x.Faults[i].ID] = i
	}
	return x, nil
}

// empty returns an index that has played nothing.
func empty(s *Subject) *Index {
	return &Index{subject: s, header: newHeader(&s.Module), byID: map[string]int{}, textOf: map[string]int16{}, player: newPlayer(), vocabulary: vocabulary{byWord: map[wordKey]Outcome{}}}
}

// state makes the faults of a case.
func (x *Index) state(c *Case) state {
	var st state
	x.put(&st, c)
	return st
}

// put makes the faults of a case in place of what a state was before.
func (x *Index) put(st *state, c *Case) {
	*st = x.base
	if f := &x.Faults[c.A]; f.change != nil {
		f.change(st)
	}
	if c.B >= 0 {
		x.Faults[c.B].change(st)
	}
}

// index plays every case.
func (x *Index) index() error {
	var st state
	for i := range x.Cases {
		x.Watch.Tell("Simulating faults", i, len(x.Cases))
		c := &x.Cases[i]
		x.put(&st, c)
		v, err := x.look(&st)
		if err != nil {
			return fmt.Errorf("%s: %w", x.Faults[c.A].ID, err)
		}
		c.View = v
	}
	return nil
}

// View returns a view that a case shows, by its index; 0 is how it ought to be.
func (x *Index) View(at int32) *glass.View { return &x.seen[at] }

// Loose reports whether what a case shows holds Filler for any text.
func (x *Index) Loose(c *Case) bool {
	return x.Faults[c.A].ID == leftOver || c.B >= 0 && x.Faults[c.B].ID == leftOver
}

// leftOver is the fault in which some other text is left.
const leftOver = "text.left:other"

// Find returns the case of a single fault by its id.
func (x *Index) Find(id string) (*Case, bool) {
	i, ok := x.byID[id]
	if !ok {
		return nil, false
	}
	return &x.Cases[i], true
}
