package replay

import (
	"fmt"
	"io"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/prove/capture"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
)

// Operation is one that was recorded.
type Operation struct {
	hd44780.Operation
	At     time.Duration // when its last strobe falls
	Enable link.Enable
	Lost   bool      // it came while the controller was busy
	Bytes  int       // on the bus with addresses, or into the register, up to it; strobes on bare lines
	opened link.Pins // RS and R/W at its first strobe
}

// Sent is what came by the wires.
type Sent struct {
	Operations   []Operation    // that the controllers took, the first mostOperations of them
	Traffic      []capture.Byte // on the bus or into the register, for whatever device; as many
	Disturbances int            // pulses that were left out
	Bytes        int            // for the module, on the bus or into the register
	Refused      int            // of these, not acknowledged
	Within       bool           // the recording begins after the initialisation
	Untimed      bool           // its times are made up
	Ends         time.Duration
}

// Replay is a recording as it is played into a module. Make it with NewReplay.
type Replay struct {
	Sent
	Watch func(at time.Duration, p link.Pins) // is told whenever the header's pins change; may be nil

	module module.Module
	link   link.Link
	found  *capture.Found
	wires  capture.Wires
	rigs
	taken
	past
	fill *filler           // where a line was not recorded; else nil
	pace *pace             // of a bus; nil for others
	step time.Duration     // how far apart two times of the recording are at least; 0: not known
	more []finding.Finding // beside those of the rig
}

// rigs are the module, and the same with other oscillators.
type rigs struct {
	rig    *rig.Rig
	others []*rig.Rig    // the slowest first, then a typical one, where these are not its own
	origin time.Duration // since power-up, when the recording begins
}

// taken is what stands on the header, and what of it the controllers have taken.
type taken struct {
	width   int // data lines that reach the header
	skip    int // strobes of a byte whose first half was not recorded
	pins    link.Pins
	high    [2]byte      // first halves of bytes, by controller
	opened  [2]link.Pins // RS and R/W at their strobes
	strobes int
	halves  [2][]half // of bytes on four lines
}

// past is what the module was like before.
type past struct {
	kept   []rig.Moment // of each momentEach operations, before them
	lights []light      // when the backlight was switched
}

// light is the backlight from a time on.
type light struct {
	at time.Duration
	on bool
}

// mostOperations is how many operations are kept.
const mostOperations = 1_000_000

// NewReplay makes ready to play a recording into a module; first are its first changes, by which it was found what is what.
func NewReplay(f *capture.Found, m module.Module, first []capture.Change) (*Replay, error) {
	l := link.New(f.Kind)
	l.Enables = m.Geometry.Controllers
	if l.Expander() {
		l.Mapping = f.Mapping
		l.ReadWrite = f.Mapping.RW != link.Open
	}
	if f.Address != 0 {
		l.Address = f.Address
	}
	coder, err := link.NewCoder(l)
	if err != nil {
		return nil, fmt.Errorf("replaying: %w", err)
	}
	r := &Replay{module: m, link: l, found: f, wires: capture.NewWires(f, coder, first), fill: newFiller(f), rigs: rigs{origin: hd44780.WaitAt3V}, taken: taken{skip: f.From, width: coder.Width()}}
	if r.rig, err = rig.New(m, l); err != nil {
		return nil, fmt.Errorf("replaying: %w", err)
	}
	for _, osc := range []physic.Frequency{hd44780.MinOscillator, hd44780.TypicalOscillator} {
		if osc == r.oscillator() {
			continue
		}
		m.Oscillator = osc
		other, err := rig.New(m, l)
		if err != nil {
			return nil, fmt.Errorf("replaying: %w", err)
		}
		r.others = append(r.others, other)
	}
	if f.Kind == link.Backpack {
		r.pace = &pace{sda: f.Lines[capture.SDA], scl: f.Lines[capture.SCL]}
	}
	r.lights = []light{{-1, r.rig.Pins()&link.Backlight != 0}}
	if r.Within = !initialises(capture.NewWires(f, coder, first), first, f.From); r.Within {
		r.initialise()
	}
	return r, nil
}

// initialises reports whether a recording begins with an initialisation: with a function set.
func initialises(w capture.Wires, first []capture.Change, from int) bool {
	var was link.Pins
	for _, c := range first {
		p, _, ok := w.Header(c)
		if !ok {
			continue
		}
		if was&hd44780.E != 0 && p&hd44780.E == 0 {
			if from == 0 {
				return was&(hd44780.RS|hd44780.RW) == 0 && byte(was)&0xE0 == hd44780.FuncBase
			}
			from-- // an expander's E is high from power-up on
		}
		was = p
	}
	return false
}

// initialise brings the module to where one is that was initialised before the recording: two lines, the display on, counting up.
func (r *Replay) initialise() {
	const each = 5 * time.Millisecond
	send := func(b byte) {
		p := link.Pins(b) | link.Backlight
		r.put(0, p)
		r.put(2*time.Microsecond, p|hd44780.E|link.E2)
		r.put(4*time.Microsecond, p)
		r.origin += each
	}
	for range 3 {
		send(hd44780.FuncBase | hd44780.EightBit)
	}
	function := hd44780.FuncBase | hd44780.EightBit | hd44780.TwoLine
	if r.width == 4 {
		function &^= hd44780.EightBit
		send(hd44780.FuncBase)
	}
	for _, b := range []byte{function, hd44780.DisplayOff | hd44780.DisplayOn, hd44780.EntryBase | hd44780.Increment} {
		send(b)
		if r.width == 4 {
			send(b << 4)
		}
	}
}

// Play plays a source up to a time, or to its end where until is below 0.
func (r *Replay) Play(source capture.Source, until time.Duration) error {
	for {
		c, err := source.Next()
		if err == io.EOF {
			if at, p, ok := r.wires.Rest(); ok {
				r.drive(at, p)
			}
			return nil
		}
		if err != nil {
			return err
		}
		if until >= 0 && c.At > until {
			return nil
		}
		r.Take(c)
	}
}

// Take plays one change; times must not go back.
func (r *Replay) Take(c capture.Change) {
	r.Ends = c.At
	if r.pace != nil {
		r.pace.take(capture.Change{At: c.At, Levels: c.Levels ^ r.found.Invert})
	}
	before := r.wires.Came
	p, came, ok := r.wires.Header(c)
	if r.wires.Came > before && len(r.Traffic) < mostOperations {
		r.Traffic = append(r.Traffic, r.wires.Last)
	}
	if came {
		r.Bytes++
		if !r.wires.Last.Ack {
			r.Refused++
		}
	}
	if !ok || p == r.pins && r.fill == nil {
		return
	}
	if r.fill != nil {
		r.guess(c.At, p)
		return
	}
	at := c.At
	if came { // a byte that no latch was seen after came earlier
		at = r.wires.Last.At
	}
	r.drive(at, p)
}

// drive puts levels on the module's header.
func (r *Replay) drive(at time.Duration, p link.Pins) {
	if p == r.pins {
		return
	}
	const enables = hd44780.E | link.E2
	was := r.pins
	if r.pins = p; r.fill != nil {
		r.fill.driven = at
	}
	if on := p&link.Backlight != 0; on != r.lights[len(r.lights)-1].on {
		r.lights = append(r.lights, light{at, on})
	}
	if r.Watch != nil {
		r.Watch(at, p)
	}
	if r.skip > 0 {
		if was&hd44780.E != 0 && p&hd44780.E == 0 {
			r.skip--
		}
		r.put(at, p&^enables)
		return
	}
	for i, enable := range []link.Pins{hd44780.E, link.E2} {
		if was&enable != 0 && p&enable == 0 && i < r.module.Geometry.Controllers {
			r.strobe(i, at, was)
		}
	}
	r.put(at, p)
}

// put drives the rigs.
func (r *Replay) put(at time.Duration, p link.Pins) {
	r.rig.Drive(r.origin+at, p)
	for _, other := range r.others {
		other.Drive(r.origin+at, p)
	}
}

// strobe takes what stood on the pins when an enable fell: a byte, or half of one, as the controller is set.
func (r *Replay) strobe(i int, at time.Duration, was link.Pins) {
	r.strobes++
	c := &r.rig.Controllers()[i]
	b, rs := byte(was&hd44780.DataPins), was&hd44780.RS != 0
	if r.width == 4 {
		b &= 0xF0 // what stands on D3 to D0 nobody drives
		if len(r.halves[i]) > 0 || c.FourBit {
			r.halves[i] = append(r.halves[i], half{capture.Half{Bits: b >> 4, RS: rs, Reads: was&hd44780.RW != 0}, at, !c.FourBit || !c.Low})
		}
	}
	if c.FourBit {
		if !c.Low {
			r.high[i], r.opened[i] = b&0xF0, was&(hd44780.RS|hd44780.RW)
			return
		}
		b = r.high[i] | b>>4
	}
	if len(r.Operations) == mostOperations {
		return
	}
	if len(r.Operations)%momentEach == 0 {
		r.kept = append(r.kept, r.rig.Moment())
	}
	op := hd44780.Operation{RS: rs, RW: was&hd44780.RW != 0, Byte: b}
	r.Operations = append(r.Operations, Operation{op, at, []link.Enable{link.First, link.Second}[i], c.Busy(r.origin+at) && op.Kind() != hd44780.ReadStatus, r.sent(), r.opened[i]})
}

// sent is how many bytes came so far, or strobes of bare lines.
func (r *Replay) sent() int {
	if r.wires.Bare() {
		return r.strobes
	}
	return r.wires.Came
}

// Glass is what the module shows at the end of what was played, with its usual contrast.
func (r *Replay) Glass() rig.Glass {
	moment := r.lit(r.rig.Moment(), r.Ends)
	return moment.Glass(&r.module, r.module.UsualContrast())
}
