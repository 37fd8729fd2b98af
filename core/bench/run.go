package bench

import (
	"fmt"
	"math"
	"slices"
	"strconv"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/finding"
	"slatebell/core/glyph"
	"slatebell/core/hd44780"
	"slatebell/core/link"
	"slatebell/core/module"
	"slatebell/core/rig"
	"slatebell/core/screen"
	"slatebell/core/sequence"
)

// Fault is a mistake of the trade, made in the rig or the traffic.
type Fault string

// The faults.
const (
	NoFault      Fault = ""
	NoInit       Fault = "no-init"       // the host forgot the initialisation
	WrongAddress Fault = "wrong-address" // the backpack has another address than the program
	LostNibble   Fault = "lost-nibble"   // one pulse of E goes missing in the text
	NoWaits      Fault = "no-waits"      // the host waits for no operation
	CrossedWires Fault = "crossed-wires" // D4 and D5 are swapped
)

// Options say what to run.
type Options struct {
	NoInit bool             // the module was initialised before: leave the initialisation out
	Live   []sequence.Aimed // follow the screen
	Fault  Fault
	LostAt int // with LostNibble: the step, counted from 1, that loses its first pulse of E; 0 for the first character
}

// Run is one pass through the whole loop.
type Run struct {
	Module   module.Module
	Contrast float64
	Wired    link.Link
	Glyphs   glyph.Bank
	Layout   screen.Layout
	Program  *sequence.Program
	Hardware link.Hardware // what is wrong with it
	Moments  []rig.Moment  // Moments[i] is the rig before step i; the last, after all
	Reads    []Read
	Findings []finding.Finding
}

// Read is a byte that a step read: Op carries it.
type Read struct {
	Step int
	Op   hd44780.Operation
}

// Run composes the module's screen, compiles it, plays it into a freshly
// powered rig and compares the glass with the screen. Its error is a Problem
// where the document cannot be run.
func (m *Module) Run(o Options) (*Run, error) {
	mod, err := m.Module()
	if err != nil {
		return nil, err
	}
	r := &Run{Module: mod, Contrast: mod.UsualContrast(), Wired: m.Wiring(), Glyphs: m.Glyphs, Layout: screen.Compose(&mod, m.Screen, m.Glyphs)}
	if m.Contrast != nil {
		r.Contrast = *m.Contrast
	}
	options := sequence.Options{
		Init: !o.NoInit && o.Fault != NoInit, Forget: o.Fault == NoInit, Hasty: o.Fault == NoWaits, Waits: sequence.Waits(m.Waits), Brightness: uint8(m.Brightness), Glyphs: m.Glyphs, Live: o.Live,
	}
	codes := r.Layout.Codes()
	if r.Program, err = sequence.Compile(mod, r.Wired, codes, options); err != nil {
		return nil, Problem{"link", err.Error()}
	}
	if err := r.play(o); err != nil {
		return nil, err
	}
	r.judgeLink(m)
	r.judgeSupply()
	slices.SortStableFunc(r.Findings, func(a, b finding.Finding) int { return a.Severity.Rank() - b.Severity.Rank() })
	return r, nil
}

// play plays the program into a rig and gathers the findings.
func (r *Run) play(o Options) error {
	hardware, err := rig.New(r.Module, r.Wired)
	if err != nil {
		return Problem{"link", err.Error()}
	}
	switch o.Fault {
	case WrongAddress:
		r.Hardware.Deaf = true
	case CrossedWires:
		r.Hardware.Crossed = 1<<4 | 1<<5
	case LostNibble:
		r.Hardware.Lost = r.pulse(o.LostAt) + 1
	}
	hardware.Spoil(r.Hardware)
	r.Moments = make([]rig.Moment, 1, len(r.Program.Steps)+1)
	r.Moments[0] = hardware.Moment()
	r.Reads = nil
	hardware.Play(r.Program, func(step int) {
		r.Moments = append(r.Moments, hardware.Moment())
		if s := &r.Program.Steps[step]; s.Sends() && s.Op.RW {
			op := s.Op
			op.Byte = hardware.ReadBack()
			r.Reads = append(r.Reads, Read{step, op})
		}
	})
	r.Findings = append(make([]finding.Finding, 0, 4), r.Layout.Findings...)
	if len(o.Live) == 0 {
		glass := r.Last().Glass(&r.Module, r.Contrast)
		r.Findings = append(r.Findings, r.Layout.Compare(&glass)...)
	}
	r.Findings = append(r.Findings, rig.Findings(hardware.Violations())...)
	r.Findings = append(r.Findings, hardware.Judge()...)
	return nil
}

// pulse returns the word that first raises E in a step counted from 1, or for
// the first character with 0; -1 where there is none.
func (r *Run) pulse(step int) int {
	for i := range r.Program.Steps {
		s := &r.Program.Steps[i]
		if step == 0 && s.Kind != sequence.Text || step != 0 && step != i+1 {
			continue
		}
		for w := s.First; w < s.First+s.Count; w++ {
			if r.Program.Coder.Raises(r.Program.Words[w]) {
				return w
			}
		}
	}
	return -1
}

// judgeLink adds what the link's settings alone are at risk of.
func (r *Run) judgeLink(m *Module) {
	l := &r.Wired
	if l.Kind == link.Backpack && l.Speed > 100*physic.KiloHertz {
		r.Findings = append(r.Findings, finding.Finding{
			Code: "link.fast-clock", Severity: finding.Warning,
			What: fmt.Sprintf("The I²C clock is %d kHz; the expander is made for 100 kHz at most.", l.Speed/physic.KiloHertz),
			Why:  "Many follow a faster clock, none is bound to.", Fix: "Set the bus to 100 kHz.",
			Source: "PCF8574 data sheet, f_SCL",
		})
	}
	reads := l.ReadWrite && (l.Kind == link.Parallel4 || l.Kind == link.Parallel8)
	fed, bears := r.Module.Fed(), physic.ElectricPotential(m.Link.HostMV)*physic.MilliVolt
	if reads && bears > 0 && bears < fed {
		r.Findings = append(r.Findings, finding.Finding{
			Code: "link.read-voltage", Severity: finding.Error,
			What: fmt.Sprintf("On a read the module drives D7–D0 to %s, and the host's pins bear %s.", volts(fed), volts(bears)),
			Why:  "The host's pins can be destroyed.", Fix: "Tie R/W to ground and use fixed waits, or put a level converter between.",
			Source: "HD44780U data sheet, ADE-207-272(Z), V_OH",
		})
	}
}

// judgeSupply adds what the module's supply and contrast do to what is seen.
func (r *Run) judgeSupply() {
	if r.Module.Technology == module.VFD {
		if needs, fed := r.Module.Needs(), r.Module.Fed(); fed < needs.Min || fed > needs.Max {
			r.Findings = append(r.Findings, finding.Finding{
				Code: "module.supply", Severity: finding.Error,
				What: fmt.Sprintf("A VFD module is fed %s; it takes %s to %s.", volts(fed), volts(needs.Min), volts(needs.Max)),
				Why:  "Its converter cannot make the voltages that the tube needs.", Fix: "Feed it 5 V; level converters join a 3.3 V host.",
				Source: needs.Source,
			})
		}
		return
	}
	f := finding.Finding{Severity: finding.Warning, Source: "Alt and Pleshko, IEEE Transactions on Electron Devices ED-21, 1974"}
	switch look := r.Last().Glass(&r.Module, r.Contrast).Look; {
	case look.Lit < faintest:
		f.Code, f.What = "glass.faint", fmt.Sprintf("With VO at %s nothing can be read.", volts(r.Module.VO(r.Contrast)))
		f.Why = "The voltage across the liquid crystal, VDD − VO, is too small to turn a dot."
		f.Fix = "Turn the contrast up: VO nearer to ground, or below it where the module is fed 3.3 V."
	case look.Dark > darkest:
		f.Code, f.What = "glass.blocks", fmt.Sprintf("With VO at %s every cell is a block.", volts(r.Module.VO(r.Contrast)))
		f.Why = "The voltage across the liquid crystal turns the dots that are off as well."
		f.Fix = "Turn the contrast down: VO further from ground."
	default:
		return
	}
	r.Findings = append(r.Findings, f)
}

// volts writes a voltage to the hundredth, without the zeros at its end.
func volts(v physic.ElectricPotential) string {
	return strconv.FormatFloat(math.Round(float64(v)/float64(physic.Volt)*100)/100, 'f', -1, 64) + " V"
}

// What can be told apart on the glass: dots weaker than faintest are not seen,
// and where dots that are off are stronger than darkest, the cells are blocks.
const faintest, darkest = 0.3, 0.6

// Last is the moment after all steps.
func (r *Run) Last() *rig.Moment { return &r.Moments[len(r.Moments)-1] }

// Part names the expander that has the backpack's address.
func (r *Run) Part() string {
	part, _ := link.ValidAddress(r.Wired.Address)
	return part
}
