package capture

import (
	"cmp"
	"math"
	"slices"
	"strconv"
	"strings"

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
	Score   float64 // how much likelier the traffic is than what chance would explain, as a logarithm
}

// Of what channels are found by (ours): how many changes are looked at, how many strobes of E, and how many of these there must be.
const (
	lookedAt     = 400_000
	strobesMost  = 1200
	strobesLeast = 8
)

// wholeShare is which part of the bytes of a bus must be whole.
const wholeShare = 0.8

// chance is how much likelier than noise a byte is by the best of all wrong assignments, as a logarithm, at most (ours).
const chance = 1

func (a *assignment) beyondChance() float64 { return a.score - chance*a.bytes }

// named are lines by the names of channels, a set for each link that they would be; names that any tool gives its channels, as D0, count beside
// others only.
func named(channels []string) (out []Lines) {
	all := Lines{}
	for i, name := range channels {
		_, name, _ = strings.Cut("."+strings.ToUpper(name), ".")
		name = name[strings.LastIndex(name, ".")+1:]
		role := Role(name)
		switch name {
		case "R/W":
			role = "RW"
		case "EN", "ENABLE":
			role = "E"
		case "DB0", "DB1", "DB2", "DB3", "DB4", "DB5", "DB6", "DB7":
			role = Role("D" + name[2:])
		}
		if _, twice := all[role]; !twice && slices.Contains(roles(), role) {
			all[role] = i
		}
	}
	take := func(list ...Role) {
		if !all.has(list...) {
			return
		}
		one := Lines{}
		for _, r := range append(list, "RW", "E2", "D0", "D1", "D2", "D3") {
			if at := all.channel(r); at >= 0 && (list[0] == "E" || slices.Contains(list, r)) {
				one[r] = at
			}
		}
		out = append(out, one)
	}
	take("E", "RS", "D4", "D5", "D6", "D7")
	take(SDA, SCL)
	take(Data, Clock, Latch)
	return out
}

// Identify finds which channel is which line, by how well the traffic is explained by it: the likeliest first. given are lines that somebody
// named; where nobody did, names that the channels have are tried first. The others are sought among the channels that are left.
func Identify(list []Change, channels []string, given Lines) (out []Found) {
	if len(given) == 0 {
		for _, lines := range named(channels) {
			if found := identify(list, len(channels), lines); len(found) > 0 && found[0].Score > 0 {
				return found
			}
		}
	}
	return identify(list, len(channels), given)
}

func identify(list []Change, channels int, given Lines) (out []Found) {
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

// framed is how much likelier a bus or a register is by each byte that is whole than without, as a logarithm, and what one that is not counts against
// it, in such (ours).
const framed, brokenCounts = 1, 3

// buses are the pairs of channels that are a bus, with the expanders on them that drive a module.
func buses(list []Change, moving []int, given Lines) (out []Found) {
	for _, sda := range given.among(SDA, moving) {
		for _, scl := range given.among(SCL, moving) {
			if sda == scl {
				continue
			}
			r := busAt(list, sda, scl)
			to := map[uint8][]byte{}                  // by address
			address, acked, refused := uint8(0), 0, 0 // bytes of data
			var order []uint8
			for _, c := range list {
				b, ok := r.take(c)
				switch {
				case !ok:
				case b.First:
					address = b.Value >> 1
				default:
					if b.Ack {
						acked++
					} else {
						refused++
					}
					if _, seen := to[address]; !seen {
						order = append(order, address)
					}
					to[address] = append(to[address], b.Value)
				}
			}
			if refused*5 > acked && acked > 0 || r.whole == 0 || float64(r.whole) < wholeShare*float64(r.whole+r.badly) {
				continue
			}
			if early := to[0]; len(order) == 2 && order[0] == 0 { // what came before the first address is for the same, where there is no other
				to[order[1]] = append(early, to[order[1]]...)
				order = order[1:]
			}
			for _, a := range order {
				if one, ok := outputs(to[a]); ok {
					one.Kind, one.Address = link.Backpack, a
					one.Score += framed * float64(r.whole-brokenCounts*r.badly)
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
					one.Score += framed * float64(r.whole-brokenCounts*r.badly)
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
	f = Found{Score: a.beyondChance(), From: a.from, Sure: surely(best)}
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
		f := Found{Kind: link.Parallel4, Score: a.beyondChance(), From: a.from, Sure: surely(best), Lines: Lines{"RS": a.rs, "E": a.e}}
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
