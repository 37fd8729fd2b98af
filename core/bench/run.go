package bench

import (
	"fmt"
	"slices"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/finding"
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
)

// Options say what to run.
type Options struct {
	NoInit bool                // the module was initialised before: leave the initialisation out
	Live   []hd44780.Operation // follow the screen
	Fault  Fault
}

// Run is one pass through the whole loop.
type Run struct {
	Module   module.Module
	Contrast float64
	Wired    link.Link
	Layout   screen.Layout
	Program  *sequence.Program
	Plain    *sequence.Program // the same in one transaction a byte; nil on other links than a backpack
	Moments  []rig.Moment      // Moments[i] is the rig before step i; the last, after all
	Findings []finding.Finding
}

// Run composes the module's screen, compiles it, plays it into a freshly
// powered rig and compares the glass with the screen. Its error is a Problem
// where the document cannot be run.
func (m *Module) Run(o Options) (*Run, error) {
	mod, err := m.Module()
	if err != nil {
		return nil, err
	}
	r := &Run{Module: mod, Contrast: m.Contrasted(), Wired: m.Wiring(), Layout: screen.Compose(&mod, m.Screen, m.Glyphs)}
	options := sequence.Options{
		Init: !o.NoInit && o.Fault != NoInit, Forget: o.Fault == NoInit, Waits: sequence.Waits(m.Waits), Brightness: uint8(m.Brightness), Glyphs: m.Glyphs, Live: o.Live,
	}
	codes := r.Layout.Codes()
	if r.Program, err = sequence.Compile(mod, r.Wired, codes, options); err != nil {
		return nil, Problem{"link", err.Error()}
	}
	if r.Wired.Kind == link.Backpack {
		plain := r.Wired
		plain.Grouping, plain.Setup, plain.Speed = link.PerByte, link.SetupBefore, 100*physic.KiloHertz
		if r.Plain, err = sequence.Compile(mod, plain, codes, options); err != nil {
			return nil, Problem{"link", err.Error()}
		}
	}
	if err := r.play(o); err != nil {
		return nil, err
	}
	r.judgeLink(m)
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
		hardware.Deafen()
	case LostNibble:
		hardware.Lose(r.textPulse())
	}
	r.Moments = make([]rig.Moment, 1, len(r.Program.Steps)+1)
	r.Moments[0] = hardware.Moment()
	hardware.Play(r.Program, func(int) { r.Moments = append(r.Moments, hardware.Moment()) })
	r.Findings = append(make([]finding.Finding, 0, 4), r.Layout.Findings...)
	if len(o.Live) == 0 {
		glass := r.Last().Glass(&r.Module, r.Contrast)
		r.Findings = append(r.Findings, r.Layout.Compare(&glass)...)
	}
	r.Findings = append(r.Findings, rig.Findings(hardware.Violations())...)
	r.Findings = append(r.Findings, hardware.Judge()...)
	return nil
}

// textPulse returns the word that first raises E for a character; -1 where the
// screen has none.
func (r *Run) textPulse() int {
	for i := range r.Program.Steps {
		s := &r.Program.Steps[i]
		if s.Kind != sequence.Text {
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
	supply := 5000
	if m.SupplyMV > 0 {
		supply = m.SupplyMV
	}
	if reads && m.Link.HostMV > 0 && m.Link.HostMV < supply {
		r.Findings = append(r.Findings, finding.Finding{
			Code: "link.read-voltage", Severity: finding.Error,
			What: fmt.Sprintf("On a read the module drives D7–D0 to %.1f V, and the host's pins bear %.1f V.", float64(supply)/1000, float64(m.Link.HostMV)/1000),
			Why:  "The host's pins can be destroyed.", Fix: "Tie R/W to ground and use fixed waits, or put a level converter between.",
			Source: "HD44780U data sheet, ADE-207-272(Z), V_OH",
		})
	}
}

// Last is the moment after all steps.
func (r *Run) Last() *rig.Moment { return &r.Moments[len(r.Moments)-1] }

// Part names the expander that has the backpack's address.
func (r *Run) Part() string {
	part, _ := link.ValidAddress(r.Wired.Address)
	return part
}
