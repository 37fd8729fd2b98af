package live

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/charrom"
	"slatebell/core/part/hd44780"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/testbed"
	"slatebell/core/say"
	"slatebell/core/wire/sequence"
	"slatebell/formats/scantext"
	"slatebell/live/drive"
	"slatebell/server/api/answer"
)

// asked is how long what is asked of a board may take.
const asked = 5 * time.Second

// inTime answers a request of a board, which has to answer in time.
func inTime[In, Out any](do func(context.Context, *In) (*Out, error)) func(context.Context, *struct{ Body In }) (*answer.Body[Out], error) {
	return func(ctx context.Context, in *struct{ Body In }) (*answer.Body[Out], error) {
		ctx, cancel := context.WithTimeout(ctx, asked)
		defer cancel()
		out, err := do(ctx, &in.Body)
		if err != nil {
			return nil, err
		}
		return &answer.Body[Out]{Body: *out}, nil
	}
}

// Scanned is what a scan of the real bus found.
type Scanned struct {
	Text  string `json:"text" doc:"as a scanner prints it"`
	Found []int  `json:"found" nullable:"false" doc:"addresses that answer"`
}

func (d *Desk) scan(ctx context.Context, _ *struct{}) (*Scanned, error) {
	n, err := d.at("")
	if err != nil {
		return nil, err
	}
	found, err := n.c.Scan(ctx)
	if err != nil {
		return nil, answer.Refused(err)
	}
	out := &Scanned{Found: []int{}}
	for _, a := range found {
		out.Found = append(out.Found, int(a))
		out.Text += scantext.Line(a)
	}
	if len(found) == 0 {
		out.Text = "No device found.\n"
	}
	return out, nil
}

// ModuleRequest asks something of a real module.
type ModuleRequest struct {
	Module int `json:"module" minimum:"0" doc:"index"`
}

// Recall is what a real module holds, by its own word.
type Recall struct {
	Module int            `json:"module" doc:"index"`
	DDRAM  [][]byte       `json:"ddram" nullable:"false" doc:"of each controller, 80 bytes"`
	CGRAM  [][]byte       `json:"cgram" nullable:"false" doc:"of each controller, 64 bytes"`
	Text   []string       `json:"text" nullable:"false" doc:"what its window shows, as characters"`
	Differ []RecalledCell `json:"differ" nullable:"false" doc:"cells that hold something else than was sent"`
	Hidden int            `json:"hidden" doc:"bytes outside the window that do"`
	Glyphs []RecalledSlot `json:"glyphs" nullable:"false" doc:"glyphs whose dots do"`
}

// RecalledCell is a cell that differs.
type RecalledCell struct {
	Row  int `json:"row"`
	Col  int `json:"col"`
	Want int `json:"want" doc:"code that was sent"`
	Got  int `json:"got" doc:"code that was read"`
}

// RecalledSlot is a glyph that differs.
type RecalledSlot struct {
	Controller int   `json:"controller"`
	Slot       int   `json:"slot"`
	Rows       []int `json:"rows" nullable:"false" doc:"of dots, from the top, counted from 0"`
}

func (d *Desk) recall(ctx context.Context, r *ModuleRequest) (*Recall, error) {
	n, err := d.at("")
	if err != nil {
		return nil, err
	}
	memory, differ, err := n.c.Memory(ctx, r.Module)
	if err != nil {
		return nil, answer.Refused(err)
	}
	out := &Recall{Module: r.Module, DDRAM: memory.DDRAM, CGRAM: memory.CGRAM, Text: []string{}, Differ: []RecalledCell{}, Hidden: differ.Hidden, Glyphs: []RecalledSlot{}}
	m := &n.c.Plan().Modules[r.Module]
	for _, cells := range memory.Window(&m.Display.Geometry) {
		text := ""
		for _, code := range cells {
			text += character(m.Display.ROM, code)
		}
		out.Text = append(out.Text, text)
	}
	for _, c := range differ.Cells {
		out.Differ = append(out.Differ, RecalledCell{c.Row, c.Col, int(c.Want), int(c.Got)})
	}
	for _, s := range differ.Slots {
		out.Glyphs = append(out.Glyphs, RecalledSlot(s))
	}
	return out, nil
}

// character is what a code shows, for people.
func character(rom *charrom.ROM, code byte) string {
	if ch, ok := rom.Rune(code); ok {
		return string(ch)
	}
	return "\uFFFD"
}

// DrivenRequest asks something of a real module that changes its glass for a while.
type DrivenRequest struct {
	By     string `json:"by" minLength:"1" maxLength:"40"`
	Module int    `json:"module" minimum:"0" doc:"index"`
}

// DataLines is what a pattern tells of a module's data lines.
type DataLines struct {
	Differ int      `json:"differ" doc:"bytes that came back otherwise than they were sent"`
	Wrong  []string `json:"wrong" nullable:"false" doc:"what is wrong with single lines"`
}

func (d *Desk) lines(ctx context.Context, r *DrivenRequest) (*DataLines, error) {
	n, err := d.at(r.By)
	if err != nil {
		return nil, err
	}
	wrong, differ, err := n.c.Lines(ctx, r.Module)
	if err != nil {
		return nil, answer.Refused(err)
	}
	out := &DataLines{Differ: differ, Wrong: []string{}}
	for i := range wrong {
		out.Wrong = append(out.Wrong, wrong[i].String())
	}
	return out, nil
}

// Oscillator is how fast a module works, by its busy flag.
type Oscillator struct {
	ClearUs float64 `json:"clearUs" doc:"for which it is busy with a clear, in microseconds"`
	KHz     int     `json:"kHz" doc:"by that"`
	MinKHz  int     `json:"minKHz" doc:"that the data sheet has, and a bench takes"`
	MaxKHz  int     `json:"maxKHz"`
}

func (d *Desk) oscillator(ctx context.Context, r *DrivenRequest) (*Oscillator, error) {
	n, err := d.at(r.By)
	if err != nil {
		return nil, err
	}
	speed, err := n.c.Oscillator(ctx, r.Module)
	if err != nil {
		return nil, answer.Refused(err)
	}
	return &Oscillator{float64(speed.Clear) / float64(time.Microsecond), kilohertz(speed.Oscillator), kilohertz(hd44780.MinOscillator), kilohertz(hd44780.MaxOscillator)}, nil
}

func kilohertz(f physic.Frequency) int { return int((f + physic.KiloHertz/2) / physic.KiloHertz) }

// ActRequest asks for what a host does by itself of a test.
type ActRequest struct {
	By    string        `json:"by" minLength:"1" maxLength:"40"`
	Act   string        `json:"act" enum:"send,slow,begin,light,blink,chart" doc:"send: show the setup, initialised anew; slow: with 5 ms more after each byte; begin: reset the board, and begin everything anew; light: switch the backlight off and on; blink: a block that blinks in the first cell; chart: the codes from 0xA0 on"`
	Setup testbed.Setup `json:"setup" doc:"what is shown; at says which module of the bench it is"`
}

// slowly is what a slow run waits more after each byte.
const slowly = 5 * time.Millisecond

// firstOfChart is where charts of LCD modules begin to differ (data sheet ADE-207-272(Z), table 4).
const firstOfChart = 0xA0

func (d *Desk) act(ctx context.Context, r *ActRequest) (*RealTable, error) {
	n, err := d.at(r.By)
	if err != nil {
		return nil, err
	}
	at := r.Setup.At.Module
	if n.plays(d, at) {
		return nil, answer.Refused(errors.New("its show is played on the real glass; end it first"))
	}
	picture, err := drive.ComposeSetup(&r.Setup)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	switch extra := time.Duration(0); fault.Act(r.Act) {
	case fault.ActBegin:
		err = n.c.Reset(ctx)
	case fault.ActLight:
		err = n.c.Light(ctx, at)
	case fault.ActSlow:
		extra = slowly
		fallthrough
	case fault.ActSend:
		n.c.Anew(at, extra)
		err = n.c.Wish(at, picture)
	case fault.ActBlink:
		picture.Cursor = sequence.Cursor{Block: true}
		err = n.c.Wish(at, picture)
	case fault.ActChart:
		picture.Cells = slices.Clone(picture.Cells)
		for i := range picture.Cells {
			picture.Cells[i] = byte(firstOfChart + i%(0x100-firstOfChart))
		}
		err = n.c.Wish(at, picture)
	default:
		err = fmt.Errorf("act %q is not a board's to do", r.Act)
	}
	if err != nil {
		return nil, answer.Refused(err)
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.state(), nil
}

// MeasureRequest asks for the voltage of a pin.
type MeasureRequest struct {
	Pin    string `json:"pin" maxLength:"12" doc:"label of a free analogue pin of the host"`
	Module int    `json:"module" minimum:"0" doc:"index of the module that the wire comes from"`
}

// Voltage is what a pin measures.
type Voltage struct {
	MV   int `json:"mV"`
	OfMV int `json:"ofMV" doc:"the whole of the scale: the host's supply, as planned"`
}

func (d *Desk) measure(ctx context.Context, r *MeasureRequest) (*Voltage, error) {
	n, err := d.at("")
	if err != nil {
		return nil, err
	}
	plan := n.c.Plan()
	number, ok := plan.Host.Number(r.Pin)
	switch {
	case len(plan.Spare()) == 0:
		return nil, answer.Refused(errors.New("this bench leaves no pin of the host free that measures voltages"))
	case !slices.Contains(plan.Spare(), r.Pin) || !ok:
		return nil, answer.Refused(fmt.Errorf("pin %q measures no voltage, or is taken; expected one of %s", r.Pin, strings.Join(plan.Spare(), ", ")))
	case r.Module >= len(plan.Modules):
		return nil, answer.Refused(fmt.Errorf("there is no module %d", r.Module))
	case !plan.Bears(&plan.Modules[r.Module]):
		return nil, answer.Refused(fmt.Errorf("the module is fed with %s, and the host’s pins bear %s: measure it with a meter", say.Volts(plan.Modules[r.Module].Display.Fed()), say.Volts(plan.Host.MaxPinVoltage)))
	}
	steps, err := n.c.Measure(ctx, byte(number))
	if err != nil {
		return nil, answer.Refused(err)
	}
	of := int(plan.Host.Logic / physic.MilliVolt)
	most := 1<<plan.Host.Resolution() - 1
	return &Voltage{int(steps) * of / most, of}, nil
}
