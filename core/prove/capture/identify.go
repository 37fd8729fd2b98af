package capture

import (
	"cmp"
	"math"
	"slices"
	"time"

	"slatebell/core/wire/link"
)

// Found is what carries what in a recording.
type Found struct {
	Lines   Lines
	Kind    link.Kind
	Address uint8            // of the expander, on a bus
	Mapping link.Mapping     // of an expander or a shift register
	Sure    map[Role]float64 // how sure each of the lines is, 0–1
	Invert  uint64           // channels that are upside down, as behind a transistor
	From    int              // strobes of E before the first whole byte, on four lines
	each    float64          // what of Score each byte gives
	Score   float64          // how much likelier the traffic is than what chance would explain, as a logarithm
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

// Of channels that are upside down (ours): up to what each byte says of the best lines they are looked for, in how many changes, and how much likelier
// the traffic must be by it, as a logarithm.
const (
	plain      = 0.6
	invertedAt = 50_000
	invertGain = 6
)

// namedLeast is how likely traffic must be by the names of the channels, at least, as a logarithm (ours): names count for much, also where a line is
// missing.
const namedLeast = -60

// Identify finds which channel is which line, by how well the traffic is explained by it: the likeliest first. given are lines that somebody
// named; where nobody did, names that the channels have are tried first. The others are sought among the channels that are left. A channel may be
// upside down, or all of them.
func Identify(list []Change, channels []string, given Lines) []Found {
	if len(given) == 0 {
		for _, lines := range named(channels) {
			if found := upright(list, len(channels), lines); len(found) > 0 && found[0].Score > namedLeast {
				return found
			}
		}
	}
	return upright(list, len(channels), given)
}

// upright is identify, with channels turned over where the traffic is much likelier then.
func upright(list []Change, channels int, given Lines) []Found {
	out := identify(list, channels, given, math.Inf(-1))
	var flip uint64
	if len(out) == 0 || out[0].each < plain {
		if flip = upsideDown(list, out, channels, given); flip != 0 {
			out = identify(inverted(list, flip), channels, given, math.Inf(-1))
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

// upsideDown are the channels by whose turning over the traffic gets likeliest, against what was found as it stands; 0 for none.
func upsideDown(list []Change, found []Found, channels int, given Lines) (flip uint64) {
	short := list[:min(len(list), invertedAt)]
	if len(short) < len(list) {
		found = identify(short, channels, given, math.Inf(-1))
	}
	least := 0.0
	if len(found) > 0 {
		least = found[0].Score
	}
	try := func(mask uint64) {
		if found := identify(inverted(short, mask), channels, given, least+invertGain); len(found) > 0 && found[0].Score > least+invertGain {
			flip, least = mask, found[0].Score
		}
	}
	try(1<<channels - 1)
	for _, c := range movingOf(short, channels) {
		try(1 << c)
	}
	return flip
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
		out = append(out, parallels(list, channels, moving, given, floor)...)
	}
	slices.SortStableFunc(out, func(a, b Found) int { return cmp.Compare(b.Score, a.Score) })
	if len(out) > 0 {
		out[0].against(out)
	}
	return out
}

// against takes what else was found into account: each line is as sure as what is likely agrees with it.
func (f *Found) against(list []Found) {
	for role, at := range f.Lines {
		agree, all := 0.0, 0.0
		for i := range list {
			likely := math.Exp(list[i].Score - f.Score)
			if all += likely; list[i].Lines.channel(role) == at {
				agree += likely
			}
		}
		f.Sure[role] *= agree / all
	}
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
					one.Score += r.values.framing(r.whole, r.badly)
					one.Lines = Lines{SDA: sda, SCL: scl}
					one.Sure[SDA], one.Sure[SCL] = 1, 1 // against whatever else was found it is weighed at last
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
					one.Score += r.values.framing(r.whole, r.badly)
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
	best := assigned(list, changesOf(list, 8), movingOf(list, 8), Lines{}, 4, math.Inf(-1), lack{})
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
	if c := a.second(list, movingOf(list, 8), Lines{}); c >= 0 {
		m.E2 = int8(c)
	}
	// Of those that hardly move, that which is high is the backlight's, and one that is always low R/W.
	used := []int8{m.RS, m.RW, m.E, m.E2, m.D4, m.D5, m.D6, m.D7}
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
