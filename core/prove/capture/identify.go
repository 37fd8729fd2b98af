package capture

import (
	"cmp"
	"math"
	"slices"
	"strconv"

	"slatebell/core/wire/link"
)

// Found is what carries what in a recording.
type Found struct {
	Lines   Lines
	Kind    link.Kind
	Address uint8        // of the expander, on a bus
	Mapping link.Mapping // of an expander or a shift register
	Sure    map[Role]float64
	From    int     // strobes of E before the first whole byte, on four lines
	Score   float64 // how much likelier the traffic is than noise, as a logarithm
}

// Of what channels are found by (ours): how many changes are looked at, how many strobes of E, and how many of these there must be.
const (
	lookedAt     = 400_000
	strobesMost  = 1200
	strobesLeast = 8
)

// wholeShare is which part of the bytes of a bus must be whole.
const wholeShare = 0.8

// Identify finds which channel is which line, by how well the traffic is explained by it: the likeliest first. given are lines that somebody
// named; the others are sought among the channels that are left.
func Identify(list []Change, channels int, given Lines) (out []Found) {
	list = list[:min(len(list), lookedAt)]
	moving := movingOf(list, channels)
	if given.Kind() == "" || given.Kind() == link.Backpack {
		out = append(out, buses(list, moving, given)...)
	}
	if given.Kind() == "" || given.Kind() == link.ShiftReg {
		out = append(out, registers(list, moving, given)...)
	}
	if given.Kind() != link.Backpack && given.Kind() != link.ShiftReg {
		out = append(out, parallels(list, moving, given)...)
	}
	slices.SortStableFunc(out, func(a, b Found) int { return cmp.Compare(b.Score, a.Score) })
	return out
}

// movingOf are the channels on which something changes.
func movingOf(list []Change, channels int) (out []int) {
	var moved uint64
	for _, c := range list {
		moved |= c.Levels ^ list[0].Levels
	}
	for i := range channels {
		if moved>>i&1 == 1 {
			out = append(out, i)
		}
	}
	return out
}

// among are the channels that a role may have: that which somebody named, or those that move and that nobody named.
func (l Lines) among(r Role, moving []int) []int {
	if at := l.channel(r); at >= 0 {
		return []int{at}
	}
	return slices.DeleteFunc(slices.Clone(moving), func(c int) bool { return l.names(c) })
}

// names reports whether somebody named a channel.
func (l Lines) names(channel int) bool {
	for _, at := range l {
		if at == channel {
			return true
		}
	}
	return false
}

// buses are the pairs of channels that are a bus, with the expanders on them that drive a module.
func buses(list []Change, moving []int, given Lines) (out []Found) {
	for _, sda := range given.among(SDA, moving) {
		for _, scl := range given.among(SCL, moving) {
			if sda == scl {
				continue
			}
			r := busAt(list, sda, scl)
			to := map[uint8][]byte{} // by address
			address := uint8(0)
			var order []uint8
			for _, c := range list {
				b, ok := r.take(c)
				switch {
				case !ok:
				case b.First:
					address = b.Value >> 1
				default:
					if _, seen := to[address]; !seen {
						order = append(order, address)
					}
					to[address] = append(to[address], b.Value)
				}
			}
			if r.whole == 0 || float64(r.whole) < wholeShare*float64(r.whole+r.badly) {
				continue
			}
			if early := to[0]; len(order) == 2 && order[0] == 0 { // what came before the first address is for the same, where there is no other
				to[order[1]] = append(early, to[order[1]]...)
				order = order[1:]
			}
			for _, a := range order {
				if one, ok := outputs(to[a]); ok {
					one.Kind, one.Address = link.Backpack, a
					one.Lines = Lines{SDA: sda, SCL: scl}
					one.Sure[SDA], one.Sure[SCL] = 1, 1
					out = append(out, one)
				}
			}
		}
	}
	return out
}

// registers are the triples of channels that are a shift register that drives a module.
func registers(list []Change, moving []int, given Lines) (out []Found) {
	for _, clock := range given.among(Clock, moving) {
		for _, latch := range given.among(Latch, moving) {
			if clock == latch {
				continue
			}
			r := shiftReader{data: clock, clock: clock, latch: latch}
			for _, c := range list {
				r.take(c)
			}
			if r.whole < strobesLeast || float64(r.whole) < wholeShare*float64(r.whole+r.badly) {
				continue
			}
			for _, data := range given.among(Data, moving) {
				if data == clock || data == latch {
					continue
				}
				r := shiftReader{data: data, clock: clock, latch: latch}
				var bytes []byte
				for _, c := range list {
					if b, ok := r.take(c); ok {
						bytes = append(bytes, b.Value)
					}
				}
				if one, ok := outputs(bytes); ok {
					one.Kind, one.Lines = link.ShiftReg, Lines{Data: data, Clock: clock, Latch: latch}
					one.Sure[Data], one.Sure[Clock], one.Sure[Latch] = 1, 1, 1
					out = append(out, one)
				}
			}
		}
	}
	return out
}

// outputs finds which output of an expander or shift register is which line, from the bytes that stood on them.
func outputs(bytes []byte) (f Found, ok bool) {
	list := make([]Change, len(bytes))
	for i, b := range bytes {
		list[i].Levels = uint64(b)
	}
	if len(list) == 0 {
		return f, false
	}
	best := assigned(list, movingOf(list, 8), Lines{}, 4)
	if len(best) == 0 {
		return f, false
	}
	a := best[0]
	f = Found{Score: a.score, From: a.from, Sure: surely(best)}
	m := link.Mapping{
		RS: int8(a.rs), RW: int8(a.rw), E: int8(a.e), E2: link.Open, Backlight: link.Open, D7: int8(a.data[0]), D6: int8(a.data[1]), D5: int8(a.data[2]), D4: int8(a.data[3]),
	}
	if a.rw < 0 {
		m.RW = link.Open
	}
	// Of those that hardly move, that which is high is the backlight's, and one that is always low R/W.
	used := []int8{m.RS, m.RW, m.E, m.D4, m.D5, m.D6, m.D7}
	last := bytes[len(bytes)-1]
	usual := link.UsualMapping
	for _, o := range []int8{usual.Backlight, usual.RW, 0, 1, 2, 3, 4, 5, 6, 7} {
		if slices.Contains(used, o) {
			continue
		}
		high := last>>o&1 == 1
		if high && m.Backlight == link.Open {
			m.Backlight = o
		} else if !high && m.RW == link.Open {
			m.RW = o
		}
		used = append(used, o)
	}
	f.Mapping = m
	return f, true
}

// parallels are the ways to see four or eight data lines in channels.
func parallels(list []Change, moving []int, given Lines) (out []Found) {
	for _, width := range []int{4, 8} {
		best := assigned(list, moving, given, width)
		if len(best) == 0 {
			continue
		}
		a := best[0]
		f := Found{Kind: link.Parallel4, Score: a.score, From: a.from, Sure: surely(best), Lines: Lines{"RS": a.rs, "E": a.e}}
		if width == 8 {
			f.Kind = link.Parallel8
		}
		if a.rw >= 0 {
			f.Lines["RW"] = a.rw
		}
		for i := range width {
			f.Lines[dataRole(i)] = a.data[i]
		}
		out = append(out, f)
	}
	return out
}

// dataRole is that of a data line, counted from D7 down.
func dataRole(i int) Role { return Role("D" + strconv.Itoa(7-i)) }

// strobesOf are the levels when a channel falls, as they stood before.
func strobesOf(list []Change, e int) (out []strobe) {
	for i := 1; i < len(list) && len(out) < strobesMost; i++ {
		if list[i-1].Levels&^list[i].Levels>>e&1 == 1 {
			out = append(out, list[i-1].Levels)
		}
	}
	return out
}

// assigned are the likeliest ways in which channels are the lines of a module with so many data lines.
func assigned(list []Change, moving []int, given Lines, width int) (best []assignment) {
	least := 0.0
	for _, e := range given.among("E", moving) {
		strobes := strobesOf(list, e)
		if len(strobes) < strobesLeast {
			continue
		}
		others := slices.DeleteFunc(slices.Clone(moving), func(c int) bool { return c == e })
		if len(others) < width+1 {
			continue
		}
		for from := range 8 / width {
			got := seek(exchanges(strobes, width, from), others, given, e, width, from, least)
			if best = append(best, got...); len(got) > 0 {
				least = math.Max(least, got[0].score)
			}
		}
	}
	slices.SortStableFunc(best, func(a, b assignment) int { return cmp.Compare(b.score, a.score) })
	return best[:min(len(best), keptMost)]
}

// surely is how sure each line of the best assignment is: the part of what is likely that agrees with it.
func surely(list []assignment) map[Role]float64 {
	best := &list[0]
	out := map[Role]float64{}
	all := 0.0
	for i := range list {
		a := &list[i]
		likely := math.Exp(a.score - best.score)
		all += likely
		count := func(r Role, same bool) {
			if same {
				out[r] += likely
			}
		}
		count("E", a.e == best.e)
		count("RS", a.rs == best.rs)
		if best.rw >= 0 {
			count("RW", a.rw == best.rw)
		}
		for k := range best.width {
			count(dataRole(k), a.data[k] == best.data[k])
		}
	}
	for r := range out {
		out[r] /= all
	}
	return out
}
