package replay

import (
	"fmt"
	"time"

	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/prove/capture"
	"slatebell/core/wire/link"
)

// filler fills in a line that was not recorded, by what each byte can mean: RS, or one of the data lines.
type filler struct {
	rs      bool // RS is filled in
	line    int  // the data line that is, 7 to 0; −1 for none
	bytes   int
	doubt   int           // bytes that might as well mean something else
	sets    int           // function sets in a row, from the beginning
	driven  time.Duration // when the pins changed last
	waiting []moment      // what came since the last whole byte
	first   []strobe      // of it, at the falls of E
}

// moment is what stands on the pins from a time on.
type moment struct {
	at   time.Duration
	pins link.Pins
}

// strobe is what stood on the pins at a fall of E, and how many of those that wait came up to then.
type strobe struct {
	pins link.Pins
	upTo int
}

// newFiller is nil where all lines were recorded that a link has.
func newFiller(f *capture.Found) *filler {
	if f.Kind != link.Parallel4 && f.Kind != link.Parallel8 {
		return nil
	}
	out := &filler{rs: !f.Lines.Has("RS"), line: -1}
	least := 0
	if f.Kind == link.Parallel4 {
		least = 4
	}
	for d := 7; d >= least; d-- {
		if !f.Lines.Has(capture.Role(link.Line(d).String())) {
			out.line = d
		}
	}
	if !out.rs && out.line < 0 {
		return nil
	}
	return out
}

// guess waits with what comes on the pins until a byte is whole, and fills the line in as that byte is likelier meant: until the display is on, for an
// instruction where it can be one.
func (r *Replay) guess(at time.Duration, p link.Pins) {
	f := r.fill
	was := r.pins
	if n := len(f.waiting); n > 0 {
		was = f.waiting[n-1].pins
	}
	if was == p {
		return
	}
	f.waiting = append(f.waiting, moment{at, p})
	if was&hd44780.E == 0 || p&hd44780.E != 0 {
		return
	}
	c := &r.rig.Controllers()[0]
	f.first = append(f.first, strobe{was, len(f.waiting)})
	if c.FourBit && len(f.first) < 2 && r.skip == 0 {
		return
	}
	rs, b := f.likeliest(r, c)
	if was := r.pins&hd44780.RS != 0; f.rs && was != rs { // when it changed nobody knows: between the strobes
		r.drive((f.driven+f.waiting[0].at)/2, r.pins^hd44780.RS)
	}
	half := 0
	for i, w := range f.waiting {
		if half+1 < len(f.first) && i >= f.first[half].upTo {
			half++
		}
		if f.rs && rs {
			w.pins |= hd44780.RS
		}
		if bit := f.line - 4*half; f.line >= 0 && b>>bit&1 == 1 {
			w.pins |= 1 << f.line
		}
		r.drive(w.at, w.pins)
	}
	f.waiting, f.first = f.waiting[:0], f.first[:0]
}

// sureBy is by how much a byte must be likelier than any other that it may be, as a logarithm, not to be doubtful (ours).
const sureBy = 2

// likeliest is the byte that is likeliest meant by what was recorded of it.
func (f *filler) likeliest(r *Replay, c *hd44780.Controller) (rs bool, b byte) {
	known := byte(f.first[0].pins & hd44780.DataPins)
	if len(f.first) == 2 {
		known = known&0xF0 | byte(f.first[1].pins)>>4&0x0F
	}
	var bits []byte
	if f.line >= 0 {
		bits = append(bits, 1<<f.line)
		if len(f.first) == 2 {
			bits = append(bits, 1<<(f.line-4))
		}
	}
	selects := []bool{f.first[0].pins&hd44780.RS != 0}
	if f.rs {
		selects = []bool{false, true}
	}
	best, next := -1e9, -1e9
	for _, selected := range selects {
		for choice := range 1 << len(bits) {
			v := known
			for i, bit := range bits {
				if choice>>i&1 == 1 {
					v |= bit
				}
			}
			of := capture.Evidence(r.width, selected, v)
			switch {
			case !selected && r.width == 4 && !c.FourBit && v&0xF0 == hd44780.FuncBase && f.sets >= functionSets:
				of += sureBy + 1 // three sets for eight lines, then one for four
			case f.rs && !selected && !c.DisplayOn && of > 0:
				of += 20
			}
			if of > best {
				rs, b, best, next = selected, v, of, best
			} else if of > next {
				next = of
			}
		}
	}
	if f.bytes++; best-next < sureBy {
		f.doubt++
	}
	if !rs && b&0xE0 == hd44780.FuncBase {
		f.sets++
	}
	return rs, b
}

// finding says which line was filled in.
func (f *filler) finding() []finding.Finding {
	if f == nil {
		return nil
	}
	if f.line < 0 {
		return []finding.Finding{{
			Code: "capture.no-rs", Severity: finding.Note, What: "RS was not recorded: each byte is taken for the likelier of an instruction and data.",
			Fix: "Record RS too, to see what was meant, and whether it stood still in time.",
		}}
	}
	return []finding.Finding{{
		Code: "capture.no-line", Severity: finding.Note, What: fmt.Sprintf("D%d was not recorded: of %d bytes it is filled in as each likeliest reads; %d might as well read otherwise.", f.line, f.bytes, f.doubt),
		Fix: fmt.Sprintf("Record D%d too, or look whether its wire has come off.", f.line),
	}}
}
