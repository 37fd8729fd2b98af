// Package program is the JSON form of a compiled program: its steps, their wire
// traffic and the totals. docs/formats.md describes it; the API and the command
// line write the same document.
//
// It stands between core and the surfaces: it reads a sequence.Program and
// computes nothing of its own.
package program

import (
	"encoding/json"
	"fmt"
	"io"
	"time"

	"slatebell/core/place"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// Format and Version identify the document.
const (
	Format  = "slatebell-program"
	Version = 1
)

// Document is a program.
type Document struct {
	Format      string `json:"format" enum:"slatebell-program"`
	Version     int    `json:"version" enum:"1"`
	Link        string `json:"link" enum:"backpack,parallel4,parallel8,shift"`
	Address     *int   `json:"address,omitempty" doc:"7-bit I²C address of the backpack"`
	AddressByte string `json:"addressByte,omitempty" doc:"the address with the write bit, in hexadecimal"`
	Totals      Totals `json:"totals"`
	Steps       []Step `json:"steps" nullable:"false"`
}

// Totals sums a program up. Times are in microseconds.
type Totals struct {
	Operations   int     `json:"operations" doc:"bytes and nibbles the controller is given"`
	WireWords    int     `json:"wireWords" doc:"expander bytes, shifted bytes or pulses of E"`
	Transactions int     `json:"transactions" doc:"I²C transactions; 0 on other links"`
	WireUs       float64 `json:"wireUs" doc:"µs the wire is in use"`
	FinishUs     float64 `json:"finishUs" doc:"µs from power-up until the last step is over"`
}

// Step is one step. Times are in microseconds from power-up.
type Step struct {
	Index   int           `json:"index" doc:"0-based"`
	Kind    string        `json:"kind" enum:"wait,park,wake,setting,address,text,glyph,poll,live,raw"`
	StartUs float64       `json:"startUs"`
	RS      *int          `json:"rs,omitempty" doc:"0 or 1; absent for a wait"`
	RW      *int          `json:"rw,omitempty"`
	Value   *int          `json:"value,omitempty" doc:"the byte; absent for a wait"`
	Half    bool          `json:"half,omitempty" doc:"only the high nibble is sent"`
	Enable  string        `json:"enable,omitempty" enum:"E,E2,both"`
	Wire    []string      `json:"wire" nullable:"false" doc:"words in hexadecimal"`
	Starts  []int         `json:"starts,omitempty" nullable:"false" doc:"indexes into wire before which an I²C transaction begins"`
	Stops   bool          `json:"stops,omitempty" doc:"the I²C transaction ends with the step"`
	WireUs  float64       `json:"wireUs"`
	WaitUs  float64       `json:"waitUs" doc:"what the controller needs before the next pulse of E"`
	PauseUs float64       `json:"pauseUs" doc:"what the host adds; the rest of the wait passes on the wire"`
	Meaning string        `json:"meaning"`
	Places  []place.Place `json:"places,omitempty" nullable:"false" doc:"cells that the meaning names, for those who count them from 0"`
	Row     *int          `json:"row,omitempty" doc:"0-based cell that a text step writes"`
	Col     *int          `json:"col,omitempty"`
}

// New describes a program.
func New(p *sequence.Program) Document {
	l := p.Coder.Link()
	d := Document{Format: Format, Version: Version, Link: string(l.Kind), Steps: make([]Step, len(p.Steps))}
	if l.Kind == link.Backpack {
		a := int(l.Address)
		d.Address, d.AddressByte = &a, fmt.Sprintf("%02X", l.Address<<1)
	}
	d.Totals = Totals{WireWords: len(p.Words), Transactions: p.Transactions, WireUs: Microseconds(p.WireTime), FinishUs: Microseconds(p.Finish)}
	for i := range p.Steps {
		d.Steps[i] = newStep(p, i)
		if p.Steps[i].Sends() {
			d.Totals.Operations++
		}
	}
	return d
}

func newStep(p *sequence.Program, i int) Step {
	s := &p.Steps[i]
	out := Step{
		Index: i, Kind: string(s.Kind), StartUs: Microseconds(s.Start), Half: s.Half, Wire: make([]string, s.Count),
		WireUs: Microseconds(s.Wire), WaitUs: Microseconds(s.Wait), PauseUs: Microseconds(s.Pause), Meaning: s.Meaning, Places: s.Places,
	}
	for j := range s.Count {
		w := p.Words[s.First+j]
		out.Wire[j] = p.Coder.Format(w)
		if w&link.Begin != 0 {
			out.Starts = append(out.Starts, j)
		}
		out.Stops = w&link.Finish != 0
	}
	if s.Sends() {
		rs, rw, v := bit(s.Op.RS), bit(s.Op.RW), int(s.Op.Byte)
		out.RS, out.RW, out.Value = &rs, &rw, &v
		out.Enable = s.Enable.String()
	}
	if s.Kind == sequence.Raw {
		v := int(s.Op.Byte)
		out.Value = &v
	}
	if s.Row >= 0 {
		row, col := s.Row, s.Col
		out.Row, out.Col = &row, &col
	}
	return out
}

func bit(b bool) int {
	if b {
		return 1
	}
	return 0
}

// Microseconds converts a time.
func Microseconds(d time.Duration) float64 { return float64(d) / float64(time.Microsecond) }

// Write writes the document, indented.
func Write(w io.Writer, p *sequence.Program) error {
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	enc.SetEscapeHTML(false)
	if err := enc.Encode(New(p)); err != nil {
		return fmt.Errorf("writing program: %w", err)
	}
	return nil
}
