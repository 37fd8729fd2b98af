package i2cbus

import (
	"errors"
	"fmt"
	"slatebell/core/say"
	"slices"
	"strings"

	"periph.io/x/conn/v3/i2c"
	"periph.io/x/conn/v3/physic"
)

// Lines is what can be wrong between a host and all that is on its bus; the zero
// value is a bus that works.
type Lines struct {
	Swapped  bool // SDA on the host's SCL, and the other way round
	NoGround bool // the host's ground is not joined
	NoPullUp bool // nothing pulls SDA and SCL up
}

// Dead says why no address answers over such lines, or "" where they work.
func (l Lines) Dead() string {
	switch {
	case l.NoPullUp:
		return "nothing pulls SDA and SCL up: the host sees a bus that is always busy, and its scanner may hang"
	case l.NoGround:
		return "without a common ground no level of the host means anything to the parts"
	case l.Swapped:
		return "with SDA and SCL swapped no part sees a START"
	}
	return ""
}

// Simulated is a bus to scan: addresses that answer, behind lines. It is an
// i2c.Bus, so that a program made for a host's bus can be tried on it.
type Simulated struct {
	Lines   Lines
	Answers []Address
	Parts   map[Address]*Registers // of those that answer, what their registers hold
}

// ErrNoAnswer is what a transaction fails with whose address nothing acknowledges.
var ErrNoAnswer = errors.New("no acknowledgement")

// String names the bus.
func (s *Simulated) String() string { return "simulated bus" }

// SetSpeed accepts any speed.
func (s *Simulated) SetSpeed(physic.Frequency) error { return nil }

// Tx acknowledges writes to addresses that answer. What is read are the part's registers, or
// high levels where it has none, as a bus gives that nobody pulls down.
func (s *Simulated) Tx(addr uint16, w, r []byte) error {
	if addr > 0x7F {
		return fmt.Errorf("address 0x%X; expected 7 bits", addr)
	}
	if s.Lines.Dead() != "" || !slices.Contains(s.Answers, Address(addr)) {
		return ErrNoAnswer
	}
	part := s.Parts[Address(addr)]
	if part == nil {
		part = &Registers{}
	}
	part.Write(w)
	part.Read(r)
	return nil
}

// Scan asks every address that a part may have, as a host's scanner does, and
// returns those that answer, ascending.
func Scan(bus i2c.Bus) []Address {
	var found []Address
	for a := FirstFree; a <= LastFree; a++ {
		if bus.Tx(uint16(a), nil, nil) == nil {
			found = append(found, a)
		}
	}
	return found
}

// Expected is what ought to answer.
type Expected struct {
	Name string
	Part Part
	At   Address
}

// Verdict is what an address turns out to be.
type Verdict string

// The verdicts.
const (
	AsExpected Verdict = "expected"
	Unexpected Verdict = "unexpected"
	Missing    Verdict = "missing"
)

// Match is one address of a scan held against what ought to answer.
type Match struct {
	At      Address
	Verdict Verdict
	Which   []int   // indexes into what was expected: who ought to answer here
	Moved   Address // of a missing one: where it seems to be; of an unexpected one: where it ought to be; 0 otherwise
	Says    string  // names where expected; what it may be, or why it is missing, otherwise
}

// Compare holds the addresses that answered against those that ought to, and
// says of each what it is: what was expected, then what was not, then what is
// missing, each by address.
func Compare(expected []Expected, found []Address) []Match {
	at := map[Address][]int{}
	for i, e := range expected {
		at[e.At] = append(at[e.At], i)
	}
	answered := map[Address]bool{}
	var extra []Address
	for _, a := range found {
		if len(at[a]) == 0 && !answered[a] && !takenBy(expected, a) {
			extra = append(extra, a)
		}
		answered[a] = true
	}
	slices.Sort(extra)
	var here, lost []Match
	movedFrom := map[Address]Match{}
	for a, who := range at {
		m := Match{At: a, Which: who}
		if answered[a] {
			m.Verdict, m.Says = AsExpected, names(expected, who)
			if len(who) > 1 {
				m.Says += " (they answer as one: a scan cannot tell them apart)"
			}
			here = append(here, m)
		} else {
			m.Verdict = Missing
			lost = append(lost, m)
		}
	}
	byAddress := func(a, b Match) int { return int(a.At) - int(b.At) }
	slices.SortFunc(here, byAddress)
	slices.SortFunc(lost, byAddress)
	for i := range lost {
		m := &lost[i]
		e := &expected[m.Which[0]]
		m.Moved = movedTo(e, extra, movedFrom)
		if m.Moved != 0 {
			movedFrom[m.Moved] = *m
		}
		m.Says = names(expected, m.Which) + ": " + why(e, m.Moved, len(found) == 0)
	}
	out := here
	for _, a := range extra {
		m := Match{At: a, Verdict: Unexpected, Says: MayBe(a)}
		if from, ok := movedFrom[a]; ok {
			m.Moved, m.Which = from.At, from.Which
			m.Says += fmt.Sprintf("; probably %s, planned at %s", names(expected, from.Which), from.At)
		}
		out = append(out, m)
	}
	return append(out, lost...)
}

// takenBy reports whether a part answers at an address besides its own.
func takenBy(expected []Expected, a Address) bool {
	return slices.ContainsFunc(expected, func(e Expected) bool { return slices.Contains(e.Part.Takes, a) })
}

func names(expected []Expected, who []int) string {
	list := make([]string, len(who))
	for i, w := range who {
		list[i] = expected[w].Name
	}
	return say.List(list)
}

// movedTo returns the address among those that nobody expects at which a missing
// part seems to be: another of its own, and of an expander the other family's
// with the same pads, or any of that family's.
func movedTo(e *Expected, extra []Address, given map[Address]Match) Address {
	free := func(a Address) bool { _, ok := given[a]; return slices.Contains(extra, a) && !ok }
	for _, a := range e.Part.Addresses {
		if free(a) {
			return a
		}
	}
	if !e.Part.Padded() {
		return 0
	}
	other := otherFamily(e.At)
	if free(other) {
		return other
	}
	for p := range Pads(8) {
		if a := p.At(other); free(a) {
			return a
		}
	}
	return 0
}

// otherFamily returns the address that the same pads give on the other expander.
func otherFamily(a Address) Address { return a ^ 0x18 }

// why says why an expected part may not answer at its address.
func why(e *Expected, moved Address, silent bool) string {
	switch {
	case e.Part.Can(moved) && e.Part.Padded():
		return fmt.Sprintf("something answers at %s, which it has with pads closed: %s; look at its pads, or plan it there", moved, PadsFor(moved))
	case e.Part.Can(moved):
		return fmt.Sprintf("something answers at %s, which it can have too; look at its address pin, or plan it there", moved)
	case moved != 0:
		p, _ := Expander(moved)
		return fmt.Sprintf("something answers at %s, which is a %s's; read what is printed on its chip, or plan it there", moved, p.Name)
	case silent:
		return "nothing answers at all; look whether SDA and SCL are swapped or on other pins of the host, whether grounds are joined, and whether anything pulls the lines up"
	case e.Part.Padded():
		return fmt.Sprintf("not there, or without supply; with pads closed: %s it answers here", PadsFor(e.At))
	}
	return "not there, without supply, or its SDA and SCL not joined"
}

// MayBe says what a part at an address may be.
func MayBe(a Address) string {
	if r := a.Reserved(); r != "" {
		return "reserved for " + r + "; no part should answer here"
	}
	var list []string
	for _, p := range At(a) {
		list = append(list, p.Name)
	}
	if len(list) == 0 {
		return "no part in the table has it"
	}
	what := "may be " + strings.Join(list, ", ")
	if p, ok := Expander(a); ok {
		what += fmt.Sprintf(" (a backpack with %s and pads closed: %s)", p.Name, PadsFor(a))
	}
	return what
}
