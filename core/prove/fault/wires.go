package fault

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"slatebell/core/part/hd44780"
	"slatebell/core/wire/link"
)

// soldered reports whether the header is soldered to a backpack.
func (s *Subject) soldered() bool { return s.Link.Kind == link.Backpack }

// wires lists what can be wrong between the strip and the header.
func (l *lister) wires(orders bool) {
	names := l.x.header.names
	base := &l.x.base
	exchange := func(a, b int) func(*state) {
		return func(st *state) { st.holes[a], st.holes[b] = st.holes[b], st.holes[a] }
	}
	for i, name := range names {
		if !base.holes[i].nothing() {
			l.add("wire.open", []string{name}, []string{name}, func(st *state) { st.holes[i] = feed{} })
		}
	}
	for i, a := range names {
		for j := i + 1; j < len(names); j++ {
			b := names[j]
			fa, fb := base.holes[i], base.holes[j]
			switch {
			case fa == fb:
			case fb.nothing() || fa.nothing():
				from, to := a, b
				if fa.nothing() {
					from, to = b, a
				}
				f := l.add("wire.moved", []string{from, to}, []string{a, b}, exchange(i, j))
				f.Weight *= near(i, j)
			case a == "VSS" && b == "VDD":
				l.add("supply.reversed", nil, []string{a, b}, exchange(i, j))
			case a == "A" && b == "K":
				l.add("light.turned", nil, []string{a, b}, exchange(i, j))
			default:
				f := l.add("wire.swapped", []string{a, b}, []string{a, b}, exchange(i, j))
				f.Weight *= near(i, j)
			}
		}
	}
	for i := 0; i+1 < len(names); i++ {
		if base.holes[i] != base.holes[i+1] {
			l.add("wire.short", []string{names[i], names[i+1]}, names[i:i+2], func(st *state) { st.shorts |= 1 << i })
		}
	}
	last := len(names)
	l.grouped("header", "header.off", []string{fmt.Sprint(last)}, nil, func(st *state) { st.offset = 1 })
	l.grouped("header", "header.off", []string{"1"}, nil, func(st *state) { st.offset = -1 })
	l.grouped("header", "header.turned", nil, nil, func(st *state) { st.turned = true })
	if orders {
		l.orders()
	}
	for i := range l.list[1:] {
		if f := &l.list[1+i]; l.s.soldered() {
			if f.Weight *= onBoard; f.Code == "wire.open" {
				f.Weight *= coldJoint
			}
		}
	}
}

// Between a backpack and the header that it is soldered to faults are met less often
// than between wires, and joints that are cold the most (ours): some join the two by
// wires, and some solder the board on turned round.
const onBoard, coldJoint = 0.3, 1.6

// near is how much more often wires are exchanged that lie side by side.
func near(i, j int) float64 { return 1 / math.Sqrt(float64(j-i)) }

// orders lists the orders of the data lines that are no exchange of two. Those of eight
// lines are 40,320, so that each keeps no more than its digits.
func (l *lister) orders() {
	var at []int // pins of the header, by the bit that they carry
	var lines []byte
	for i, name := range l.x.header.names {
		if lineAt(name)&hd44780.DataPins != 0 && !l.x.base.holes[i].nothing() {
			at = append(at, i)
			lines = append(lines, name[1])
		}
	}
	slices.SortFunc(at, func(a, b int) int { return cmp.Compare(l.x.header.names[a], l.x.header.names[b]) })
	slices.Sort(lines)
	var pins []string
	for _, d := range lines {
		pins = append(pins, "D"+string(d))
	}
	n := float64(len(lines))
	order := slices.Clone(lines)
	var permute func(k, moved int)
	permute = func(k, moved int) {
		if k < len(order) {
			for i := k; i < len(order); i++ {
				order[k], order[i] = order[i], order[k]
				more := 0
				if order[k] != lines[k] {
					more = 1
				}
				permute(k+1, moved+more)
				order[k], order[i] = order[i], order[k]
			}
			return
		}
		if moved <= 2 {
			return // as it ought to be, or two exchanged
		}
		f := l.ordered(string(order), at, pins)
		f.Weight /= max(n*n*n*n/256, 1)
		if slices.IsSortedFunc(order, func(a, b byte) int { return cmp.Compare(b, a) }) {
			f.Weight = 1.5 // turned end for end is met most
		}
	}
	permute(0, 0)
}

// ordered adds the fault in which the data pins, lowest first, get the lines with some
// digits.
func (l *lister) ordered(order string, at []int, pins []string) *Fault {
	lowest := slices.Min([]byte(order))
	f := l.add("wire.order", nil, pins, func(st *state) {
		was := st.holes
		for i, pin := range at {
			st.holes[pin] = was[at[order[i]-lowest]]
		}
	})
	f.order, f.alone = order, true
	f.ID += ":" + strings.Join(f.places(), ",")
	return f
}

// register lists what can be wrong at a shift register's inputs.
func (l *lister) register() {
	in := func(st *state) [3]*uint8 { return [3]*uint8{&st.inputs.ser, &st.inputs.clock, &st.inputs.latch} }
	names := []string{"data", "clock", "latch"}
	for i, a := range names {
		l.add("register.open", []string{a}, []string{a}, func(st *state) { *in(st)[i] = 0 })
		for j := i + 1; j < 3; j++ {
			l.add("register.swapped", []string{a, names[j]}, []string{a, names[j]}, func(st *state) { p := in(st); *p[i], *p[j] = *p[j], *p[i] })
		}
	}
}
