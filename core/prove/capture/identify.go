package capture

import (
	"cmp"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"slatebell/core/wire/link"
)

// Found is what carries what in a recording.
type Found struct {
	Lines   Lines
	Kind    link.Kind
	Address uint8        // of the expander, on a bus
	Mapping link.Mapping // of an expander or a shift register
	Sure    map[Role]float64
	Invert  uint64  // channels that are upside down, as behind a transistor
	From    int     // strobes of E before the first whole byte, on four lines
	each    float64 // what of Score each byte gives
	Score   float64 // how much likelier the traffic is than what chance would explain, as a logarithm
}

// Of what channels are found by (ours): how many changes are looked at, how many strobes of E, and how many of these there must be.
const (
	lookedAt     = 400_000
	strobesMost  = 1200
	strobesLeast = 8
)

// wholeShare is which part of the bytes of a bus must be whole.
const wholeShare = 0.6

// chance is how much likelier than noise a byte is by the best of all wrong assignments, as a logarithm, at most (ours).
const chance = 1

func (a *assignment) beyondChance() float64 { return a.score - chance*a.bytes }

// whole is what speaks for an assignment, its strobes too.
func (a *assignment) whole() float64 { return a.beyondChance() + a.framed }

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

// Of channels that are upside down (ours): up to what each byte says of the best lines they are looked for, in how many changes, and how much likelier
// the traffic must be by it, as a logarithm.
const (
	plain      = 0.6
	invertedAt = 50_000
	invertGain = 6
)

// Identify finds which channel is which line, by how well the traffic is explained by it: the likeliest first. given are lines that somebody
// named; where nobody did, names that the channels have are tried first. The others are sought among the channels that are left. A channel may be
// upside down, or all of them.
func Identify(list []Change, channels []string, given Lines) []Found {
	if len(given) == 0 {
		for _, lines := range named(channels) {
			if found := upright(list, len(channels), lines); len(found) > 0 && found[0].Score > 0 {
				return found
			}
		}
	}
	return upright(list, len(channels), given)
}

// upright is identify, with channels turned over where the traffic is much likelier then.
func upright(list []Change, channels int, given Lines) []Found {
	out := identify(list, channels, given, math.Inf(-1))
	short := list[:min(len(list), invertedAt)]
	least := 0.0
	if found := out; len(short) < len(list) {
		if found = identify(short, channels, given, math.Inf(-1)); len(found) > 0 {
			least = found[0].Score
		}
	} else if len(out) > 0 {
		least = out[0].Score
	}
	var flip uint64
	try := func(mask uint64) {
		if found := identify(inverted(short, mask), channels, given, least+invertGain); len(found) > 0 && found[0].Score > least+invertGain {
			flip, least = mask, found[0].Score
		}
	}
	if len(out) == 0 || out[0].each < plain {
		try(1<<channels - 1)
		for _, c := range movingOf(short, channels) {
			try(1 << c)
		}
	}
	if flip != 0 {
		if out = identify(inverted(list, flip), channels, given, math.Inf(-1)); len(out) == 0 {
			return nil
		}
	}
	for i := range out {
		out[i].Invert = flip
		if f := &out[i]; f.Kind == link.Parallel4 || f.Kind == link.Parallel8 { // E rests low
			if e := f.Lines["E"]; rests(list, e) != flip>>e&1 {
				f.Invert ^= 1 << e
			}
		}
	}
	return out
}

// inverted is a recording with some channels turned over.
func inverted(list []Change, mask uint64) []Change {
	out := slices.Clone(list)
	for i := range out {
		out[i].Levels ^= mask
	}
	return out
}

// rests is the level that a channel has for most of the time, from its first change to its last: an expander's outputs are high until it is written to.
func rests(list []Change, channel int) uint64 {
	moves := func(i int) bool { return (list[i].Levels^list[i-1].Levels)>>channel&1 == 1 }
	from, to := 1, len(list)-1
	for from < to && !moves(from) {
		from++
	}
	for to > from && !moves(to) {
		to--
	}
	var spent [2]time.Duration
	for i := from + 1; i <= to; i++ {
		spent[list[i-1].Levels>>channel&1] += list[i].At - list[i-1].At
	}
	if spent[1] > spent[0] {
		return 1
	}
	return 0
}

// identify finds lines in the first changes of a recording as they stand; of parallel ones those whose Score is floor, at least.
func identify(list []Change, channels int, given Lines, floor float64) (out []Found) {
	list = list[:min(len(list), lookedAt)]
	moving := movingOf(list, channels)
	if given.Kind() == "" || given.Kind() == link.Backpack {
		out = append(out, buses(list, moving, given)...)
	}
	if given.Kind() == "" || given.Kind() == link.ShiftReg {
		out = append(out, registers(list, moving, given)...)
	}
	if given.Kind() != link.Backpack && given.Kind() != link.ShiftReg {
		out = append(out, parallels(list, channels, given, floor)...)
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
	best := assigned(list, 8, Lines{}, 4, math.Inf(-1), false)
	if len(best) == 0 {
		return f, false
	}
	a := best[0]
	f = Found{Score: a.beyondChance(), each: a.beyondChance() / a.bytes, From: a.from, Sure: surely(best)}
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
func parallels(list []Change, channels int, given Lines, floor float64) (out []Found) {
	for _, width := range []int{4, 8} {
		best := assigned(list, channels, given, width, floor, false)
		if given.channel("RS") < 0 && (len(best) == 0 || best[0].whole()/best[0].bytes < doubtfulRS) {
			if other := assigned(list, channels, given, width, floor, true); len(best) == 0 || len(other) > 0 && other[0].whole() > best[0].whole() {
				best = other
			}
		}
		if len(best) == 0 {
			continue
		}
		a := best[0]
		f := Found{Kind: link.Parallel4, Score: a.whole(), each: a.beyondChance() / a.bytes, From: a.from, Sure: surely(best), Lines: Lines{"E": a.e}}
		if a.rs >= 0 {
			f.Lines["RS"] = a.rs
		}
		if width == 8 {
			f.Kind = link.Parallel8
		}
		if a.rw >= 0 {
			f.Lines["RW"] = a.rw
		}
		for i := range width {
			f.Lines[dataRole(i)] = a.data[i]
		}
		for _, c := range movingOf(list, channels) {
			if !f.Lines.names(c) {
				f.Score -= leftOver
			}
		}
		out = append(out, f)
	}
	return out
}

// doubtfulRS is up to what each byte says of the best lines they are sought without RS too (ours).
const doubtfulRS = 0.25

// leftOver is what counts against parallel lines for each other channel on which something changes, as a logarithm (ours): four of eight data lines
// make some sense by themselves.
const leftOver = 8

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

// unclean is what counts against an E in all of whose pulses another line goes up and down, as a logarithm: what stands on the lines may be set while
// E is high, but once (ours).
const unclean = 60

// frame is what the pulses of E say of an assignment.
func (a *assignment) frame(list []Change) float64 {
	var lines uint64
	for _, c := range append([]int{a.rs}, a.data[:a.width]...) {
		if c >= 0 {
			lines |= 1 << c
		}
	}
	var once, twice uint64
	pulses, bad := 0, 0
	for i := 1; i < len(list) && pulses < strobesMost; i++ {
		moved := list[i].Levels ^ list[i-1].Levels
		switch was := list[i-1].Levels>>a.e&1 == 1; {
		case moved>>a.e&1 == 0 && was:
			twice |= once & moved
			once |= moved
		case moved>>a.e&1 == 1 && was: // it falls
			if pulses++; twice&lines != 0 {
				bad++
			}
		case moved>>a.e&1 == 1:
			once, twice = 0, 0
		}
	}
	return -unclean * float64(bad) / float64(max(1, pulses))
}

// assigned are the likeliest ways in which channels are the lines of a module with so many data lines, of those that reach a floor nearly.
func assigned(list []Change, channels int, given Lines, width int, floor float64, noRS bool) (best []assignment) {
	least := floor
	candidates := given.among("E", movingOf(list, channels))
	strobed := map[int][]strobe{}
	for _, e := range candidates {
		strobed[e] = strobesOf(list, e)
	}
	slices.SortStableFunc(candidates, func(a, b int) int { return cmp.Compare(len(strobed[b]), len(strobed[a])) }) // the likelier first: it bounds the others
	for _, e := range candidates {
		strobes := strobed[e]
		if len(strobes) < strobesLeast {
			continue
		}
		others := slices.DeleteFunc(movingOf(list, channels), func(c int) bool { return c == e })
		needed := width + 1
		if noRS {
			needed--
		}
		if len(others) < needed { // also such as stand still: D7 does in a text on one line
			others = nil
			for c := range channels {
				if c != e {
					others = append(others, c)
				}
			}
		}
		if len(others) < needed {
			continue
		}
		for from := range 8 / width {
			of := exchanges(strobes, width, from)
			got := seek(of, others, given, e, width, from, least+chance*counted(of), noRS)
			if len(got) == 0 {
				continue
			}
			least = math.Max(least, got[0].beyondChance())
			frame := got[0].frame(list)
			for i := range got {
				got[i].framed = frame
			}
			best = append(best, got...)
		}
	}
	slices.SortStableFunc(best, func(a, b assignment) int { return cmp.Compare(b.whole(), a.whole()) })
	return best[:min(len(best), keptMost)]
}

// surely is how sure each line of the best assignment is: the part of what is likely that agrees with it.
func surely(list []assignment) map[Role]float64 {
	best := &list[0]
	out := map[Role]float64{}
	all := 0.0
	for i := range list {
		a := &list[i]
		likely := math.Exp(a.whole() - best.whole())
		all += likely
		count := func(r Role, same bool) {
			if same {
				out[r] += likely
			}
		}
		count("E", a.e == best.e)
		if best.rs >= 0 {
			count("RS", a.rs == best.rs)
		}
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
