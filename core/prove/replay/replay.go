package replay

import (
	"fmt"
	"io"
	"strings"
	"time"

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
}

// Replay is a recording as it is played into a module.
type Replay struct {
	Operations []Operation
	Bytes      int  // for the module, on the bus or into the register
	Refused    int  // of these, not acknowledged
	Within     bool // the recording begins after the initialisation
	Ends       time.Duration
	Watch      func(at time.Duration, p link.Pins) // is told whenever the header's pins change; may be nil

	module module.Module
	found  *capture.Found
	rig    *rig.Rig
	origin time.Duration // since power-up, when the recording begins
	wires  capture.Wires
	width  int // data lines that reach the header
	skip   int // strobes of a byte whose first half was not recorded
	pins   link.Pins
	high   [2]byte
	more   []finding.Finding // beside those of the rig

	guesses bool // RS was not recorded
	driven  time.Duration
	waiting []moment
	half    []byte
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
	r := &Replay{module: m, skip: f.From, found: f, wires: capture.NewWires(f, coder, first), width: coder.Width(), origin: hd44780.WaitAt3V}
	r.guesses = f.Lines.Kind() == f.Kind && !l.Expander() && !f.Lines.Has("RS")
	if r.rig, err = rig.New(m, l); err != nil {
		return nil, fmt.Errorf("replaying: %w", err)
	}
	if r.Within = !initialises(capture.NewWires(f, coder, first), first, f.From); r.Within {
		r.initialise()
	}
	return r, nil
}

// initialises reports whether a recording begins with an initialisation by instruction: three strobes of 0011 on D7 to D4 (HD44780U data sheet,
// ADE-207-272(Z), figures 23 and 24).
func initialises(w capture.Wires, first []capture.Change, from int) bool {
	var was link.Pins
	strobes := 0
	for _, c := range first {
		p, _, ok := w.Header(c)
		if !ok {
			continue
		}
		if was&hd44780.E != 0 && p&hd44780.E == 0 {
			if from > 0 { // an expander's E is high from power-up on
				from--
				was = p
				continue
			}
			if was&(hd44780.RS|hd44780.RW) != 0 || was&0xF0 != 0x30 {
				return false
			}
			if strobes++; strobes == 3 {
				return true
			}
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
		r.rig.Drive(r.origin, p)
		r.rig.Drive(r.origin+2*time.Microsecond, p|hd44780.E|link.E2)
		r.rig.Drive(r.origin+4*time.Microsecond, p)
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
	p, b, ok := r.wires.Header(c)
	if b != nil {
		r.Bytes++
		if !b.Ack {
			r.Refused++
		}
	}
	if !ok || p == r.pins && !r.guesses {
		return
	}
	if r.guesses {
		r.guess(c.At, p)
		return
	}
	r.drive(c.At, p)
}

// guess waits with what comes on the pins until a byte is whole, and takes RS as that byte is likelier meant: until the display is on, for an
// instruction where it can be one.
func (r *Replay) guess(at time.Duration, p link.Pins) {
	was := r.pins
	if n := len(r.waiting); n > 0 {
		was = r.waiting[n-1].pins
	}
	if was == p {
		return
	}
	r.waiting = append(r.waiting, moment{at, p})
	if was&hd44780.E == 0 || p&hd44780.E != 0 {
		return
	}
	c := &r.rig.Controllers()[0]
	r.half = append(r.half, byte(was&hd44780.DataPins))
	if c.FourBit && len(r.half) < 2 && r.skip == 0 {
		return
	}
	b := r.half[0]
	if len(r.half) == 2 {
		b = b&0xF0 | r.half[1]>>4
	}
	rs, instruction := capture.Likelier(b, r.width)
	if !c.DisplayOn && instruction {
		rs = false
	}
	if was := r.pins&hd44780.RS != 0; was != rs { // when it changed nobody knows: between the strobes
		r.drive((r.driven+r.waiting[0].at)/2, r.pins^hd44780.RS)
	}
	for _, w := range r.waiting {
		if rs {
			w.pins |= hd44780.RS
		}
		r.drive(w.at, w.pins)
	}
	r.waiting, r.half = r.waiting[:0], r.half[:0]
}

// moment is what stands on the pins from a time on.
type moment struct {
	at   time.Duration
	pins link.Pins
}

// drive puts levels on the module's header.
func (r *Replay) drive(at time.Duration, p link.Pins) {
	if p == r.pins {
		return
	}
	const enables = hd44780.E | link.E2
	was := r.pins
	r.pins, r.driven = p, at
	if r.Watch != nil {
		r.Watch(at, p)
	}
	if r.skip > 0 {
		if was&hd44780.E != 0 && p&hd44780.E == 0 {
			r.skip--
		}
		r.rig.Drive(r.origin+at, p&^enables)
		return
	}
	for i, enable := range []link.Pins{hd44780.E, link.E2} {
		if was&enable != 0 && p&enable == 0 && i < r.module.Geometry.Controllers {
			r.strobe(i, at, was)
		}
	}
	r.rig.Drive(r.origin+at, p)
}

// strobe takes what stood on the pins when an enable fell: a byte, or half of one, as the controller is set.
func (r *Replay) strobe(i int, at time.Duration, was link.Pins) {
	c := &r.rig.Controllers()[i]
	b := byte(was & hd44780.DataPins)
	if r.width == 4 {
		b &= 0xF0 // what stands on D3 to D0 nobody drives
	}
	if c.FourBit {
		if !c.Low {
			r.high[i] = b & 0xF0
			return
		}
		b = r.high[i] | b>>4
	}
	if len(r.Operations) == mostOperations {
		return
	}
	r.Operations = append(r.Operations, Operation{
		hd44780.Operation{RS: was&hd44780.RS != 0, RW: was&hd44780.RW != 0, Byte: b}, at, []link.Enable{link.First, link.Second}[i],
	})
}

// Glass is what the module shows at the end of what was played, with its usual contrast.
func (r *Replay) Glass() rig.Glass {
	moment := r.rig.Moment()
	return moment.Glass(&r.module, r.module.UsualContrast())
}

// Findings says which limits the recording breaks, with the time of the first of each kind, and what else it shows.
func (r *Replay) Findings() (out []finding.Finding) {
	kept, more := r.rig.Violations()
	kinds := map[hd44780.ViolationKind]int{}
	var list [][]rig.Violation
	for _, v := range kept {
		if v.At < r.origin {
			continue
		}
		at, seen := kinds[v.Kind]
		if !seen {
			at = len(list)
			kinds[v.Kind] = at
			list = append(list, nil)
		}
		list[at] = append(list[at], v)
	}
	for _, of := range list {
		f := rig.Findings(of, 0)[0]
		f.What = fmt.Sprintf("%s; the first at %s.", strings.TrimSuffix(f.What, "."), rig.Duration(of[0].At-r.origin))
		out = append(out, f)
	}
	if more > 0 {
		out = append(out, finding.Finding{Code: "timing.more", Severity: finding.Note, What: fmt.Sprintf("%d more violations were not kept.", more)})
	}
	if r.Refused > 0 {
		out = append(out, finding.Finding{
			Code: "capture.refused", Severity: finding.Error, What: fmt.Sprintf("%d of %d bytes for the module are not acknowledged.", r.Refused, r.Bytes),
			Why: "The expander was not there, not fed, or at another address.", Fix: "Scan the bus, and look at the expander's jumpers, supply and wires.", Source: "UM10204 rev. 7, §3.1.6",
		})
	}
	if r.guesses {
		out = append(out, finding.Finding{
			Code: "capture.no-rs", Severity: finding.Note, What: "RS was not recorded: each byte is taken for the likelier of an instruction and data.",
			Fix: "Record RS too, to see what was meant, and whether it stood still in time.",
		})
	}
	if r.Within {
		out = append(out, finding.Finding{
			Code: "capture.within", Severity: finding.Note, What: "The recording begins after the initialisation: two lines, the display on and an empty memory are taken for what went before.",
			Fix: "Record from before the host is switched on or reset, to see all of it.",
		})
	}
	return append(out, r.more...)
}
