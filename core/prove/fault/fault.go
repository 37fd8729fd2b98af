// Package fault is what can be wrong with a module, its wires, its supply and the
// program that is sent to it: a catalogue of changes made in the rig, never of
// scripted symptoms, and the index of what each of them shows on the glass.
//
// It stands above rig and screen, and below run, which makes faults on purpose, and
// diagnose, which finds causes from what is seen.
package fault

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"slatebell/core/part/charrom"
	"slatebell/core/part/i2cbus"
	"slatebell/core/wire/link"
)

// Topic is what a fault is about.
type Topic string

// The topics.
const (
	Wires   Topic = "wires"   // between host and header
	Power   Topic = "supply"  // supply, contrast, backlight
	Bus     Topic = "bus"     // SDA, SCL, addresses, expander
	Program Topic = "program" // what the host sends
	Inputs  Topic = "inputs"  // buttons, knobs and sensors, between their parts and the host
)

// Topics lists the topics.
var Topics = []Topic{Wires, Power, Bus, Program, Inputs}

// Fault is one thing that is wrong.
type Fault struct {
	ID     string // its code and place, such as wire.swapped:D4,D5
	Code   string // its kind, such as wire.swapped
	Topic  Topic
	Pins   []string // of the header or the backpack's four wires, that it is about
	Weight float64  // how often it is met, against other faults
	// Passing faults are gone once the module has been without supply.
	Passing bool

	args   []string
	order  string // of data lines: their digits, in place of args
	group  string // two faults of one group exclude each other
	alone  bool   // it is not combined with others
	change func(*state)
}

// Built reports whether hardware can be built with the fault, and its glass shows it: none of the program or of the clock that it gives the
// bus, none of an input.
func (f *Fault) Built() bool {
	return f.Topic != Program && f.Topic != Inputs && f.Code != "bus.fast"
}

// kind says of a code what it is called and what settles it. In its texts %s stand
// for the fault's places; where is their form, "" for a list.
type kind struct {
	topic            Topic
	weight           float64
	what, where, fix string
}

// What says what is wrong.
func (f *Fault) What() string { return fill(kinds[f.Code].what, f.places()) }

// Where names the place.
func (f *Fault) Where() string {
	if form := kinds[f.Code].where; form != "" {
		return fill(form, f.places())
	}
	return strings.Join(f.places(), ", ")
}

// places are what its texts are filled with.
func (f *Fault) places() []string {
	if f.order == "" {
		return f.args
	}
	var out []string
	for _, d := range f.order {
		out = append(out, "D"+string(d))
	}
	return out
}

// Fix says what settles it.
func (f *Fault) Fix() string { return fill(kinds[f.Code].fix, f.places()) }

// fill puts places into a text; a text takes as many as it has %s for, the last of
// which takes all that are left.
func fill(text string, args []string) string {
	n := strings.Count(text, "%s")
	if n == 0 {
		return text
	}
	values := make([]any, n)
	for i := range values {
		switch {
		case i >= len(args):
			values[i] = ""
		case i == n-1:
			values[i] = strings.Join(args[i:], ", ")
		default:
			values[i] = args[i]
		}
	}
	return fmt.Sprintf(text, values...)
}

// fault makes a fault of a code at some places.
func fault(code string, args []string, change func(*state)) Fault {
	k := kinds[code]
	id := code
	if len(args) > 0 {
		id += ":" + strings.Join(args, ",")
	}
	return Fault{ID: id, Code: code, Topic: k.topic, Weight: k.weight, args: args, change: change}
}

// Real is what a fault says of the hardware where it is otherwise than planned.
type Real struct {
	Address  i2cbus.Address // of the expander; 0: as planned
	Mapping  *link.Mapping  // of its outputs; nil: as planned
	Inverted bool           // the backlight's polarity
	ROM      string         // "": as planned
}

// Real returns what of the hardware is otherwise than planned, which a bench may adopt.
func (f *Fault) Real() (r Real) {
	if f.change == nil {
		return r
	}
	switch f.Code {
	case "bus.address", "bus.mapping", "bus.polarity", "rom.other":
		var st state
		f.change(&st)
		r.Address, r.Inverted = st.bus.address, st.bus.inverted
		if st.bus.mapping > 0 {
			r.Mapping = &Mappings[st.bus.mapping-1].Mapping
		}
		if st.rom > 0 {
			r.ROM = charrom.Names()[st.rom-1]
		}
	}
	return r
}

// Codes lists the codes of the catalogue with their topics, in order of topic and code.
func Codes() []string {
	out := make([]string, 0, len(kinds))
	for code := range kinds {
		out = append(out, code)
	}
	slices.SortFunc(out, func(a, b string) int {
		return cmp.Or(slices.Index(Topics, kinds[a].topic)-slices.Index(Topics, kinds[b].topic), cmp.Compare(a, b))
	})
	return out
}

// kinds are the codes of the catalogue. Their weights are ours, after what makers say
// goes wrong most (common practice); a maker's own log moves them.
var kinds = map[string]kind{
	Sound:              {Program, 20, "Nothing is wrong.", "nowhere", "Leave it as it is."},
	"wire.open":        {Wires, 1.5, "The wire of %s is open: nothing arrives at its pin.", "%s", "Press the wire of %s in anew, on the same strip as the pin, and look at the solder joint."},
	"wire.swapped":     {Wires, 1, "The wires of %s and %s are exchanged.", "%s and %s", "Exchange the wires of %s and %s."},
	"wire.moved":       {Wires, 0.7, "The wire of %s is at %s.", "%s, found at %s", "Move the wire of %s back from %s."},
	"wire.short":       {Wires, 0.7, "%s and %s are joined to each other.", "%s and %s", "Look for a bridge of solder or a leg that touches between %s and %s."},
	"wire.order":       {Wires, 0.4, "The data lines are in another order: the pins from the lowest get %s.", "lowest pin first: %s", "Put the data lines in order, lowest pin first (they are in the order %s)."},
	"header.off":       {Wires, 2, "The header is plugged in one hole off, towards pin %s.", "towards pin %s", "Plug the header in with pin 1 in pin 1’s hole; it is off towards pin %s."},
	"header.turned":    {Wires, 0.8, "The header is plugged in turned round: pin 1 is where the last pin ought to be.", "the whole header", "Unplug first; then turn the module round."},
	"supply.rail":      {Power, 4, "The rail of %s is not joined to the host.", "rail of %s", "Join the rail of %s to the host’s pin, and the two sides of a breadboard to each other."},
	"supply.3v3":       {Power, 2, "The module is fed 3.3 V in place of 5 V.", "VDD", "Feed VDD 5 V; look at the levels before you join a 3.3 V host."},
	"supply.reversed":  {Power, 0.7, "Supply and ground are exchanged.", "VSS and VDD", "Unplug at once: a reversed supply kills modules. Exchange the two wires."},
	"supply.common":    {Power, 1, "Host and module have no common ground.", "ground", "Join the ground of the module’s supply to the host’s."},
	"contrast.low":     {Power, 8, "The potentiometer is turned to the end where VO is at the supply.", "potentiometer, VO", "Turn the potentiometer towards the other end until dots stand out."},
	"contrast.high":    {Power, 4, "The potentiometer is turned to the end where VO is at ground.", "potentiometer, VO", "Turn the potentiometer back until the blocks around the characters fade."},
	"contrast.weak":    {Power, 3, "The potentiometer is turned a little too far from ground.", "potentiometer, VO", "Turn the potentiometer until the characters stand out."},
	"contrast.pot":     {Power, 1.5, "The potentiometer is far too large: %s.", "potentiometer, %s", "Use one of 10 kΩ in place of %s."},
	"contrast.ground":  {Power, 1.5, "Both ends of the potentiometer are on ground.", "potentiometer", "Take one end of the potentiometer to the supply."},
	"contrast.supply":  {Power, 1.2, "Both ends of the potentiometer are on the supply.", "potentiometer", "Take one end of the potentiometer to ground."},
	"light.jumper":     {Power, 3, "The backlight’s jumper is off.", "backlight", "Put the backlight’s jumper back, or feed its pins."},
	"light.turned":     {Power, 1, "A and K of the backlight are exchanged.", "A and K", "Exchange the wires of A and K; a backlight is a diode."},
	"light.bare":       {Power, 1, "The backlight has no resistor in series.", "A", "Unplug. Put the resistor in series with A unless the module carries one."},
	"light.program":    {Program, 1.5, "The program switches the backlight off.", "backlight bit", "Keep the backlight’s bit in every byte."},
	"vfd.link":         {Power, 5, "The solder link of the VFD selects its serial interface.", "solder link", "Unplug; move the solder link to parallel."},
	"bus.address":      {Bus, 8, "The expander has another address than the program uses: %s.", "%s", "Scan the bus, and give the program the address that answers (here %s)."},
	"bus.swapped":      {Bus, 5, "SDA and SCL are exchanged.", "SDA and SCL", "Exchange the wires of SDA and SCL."},
	"bus.pullups":      {Bus, 1.5, "Nothing pulls SDA and SCL up.", "SDA and SCL", "Put pull-ups of 4.7 kΩ on SDA and SCL, once for the bus."},
	"bus.strong":       {Bus, 0.7, "The pull-ups of SDA and SCL are too strong: no part can pull the lines low.", "SDA and SCL", "Leave the pull-ups on two or three boards, and take them off the others."},
	"bus.fast":         {Bus, 1.2, "The bus is clocked %s times as fast as planned.", "%s times", "Set the bus to 100 kHz (it runs %s times as fast)."},
	"bus.mapping":      {Bus, 2.5, "The expander’s outputs drive other lines than the program takes them for: %s.", "%s", "Give the program the mapping of this board: %s."},
	"bus.polarity":     {Bus, 1, "The backlight is on while its output is low on this board, or the other way round.", "backlight output", "Turn the polarity of the backlight over in the program."},
	"register.swapped": {Wires, 2, "%s and %s of the shift register are exchanged.", "%s and %s", "Exchange the wires of %s and %s at the shift register."},
	"register.open":    {Wires, 2.5, "%s of the shift register is open.", "%s", "Press the wire of %s in anew."},
	"start.none":       {Program, 4, "The program does not initialise the module.", "initialisation", "Call the initialisation before anything else."},
	"start.bytes":      {Program, 1.5, "The program begins as on eight lines: whole bytes where single nibbles belong.", "initialisation", "Send 0x3 three times and 0x2 once as single nibbles; then function set."},
	"start.again":      {Program, 1.5, "The host began again %s, and its program begins with a single 0x2.", "initialisation", "Begin with 0x3 three times: they bring any phase back in step. Until then switch the supply off and on."},
	"start.lines":      {Program, 2, "The function set says one line where the module has two, or the other way round.", "function set, N", "Set N for a module of two lines in memory."},
	"start.width":      {Program, 1.5, "The function set says %s lines of data.", "function set, DL: %s", "Set DL as the wires are (it says %s)."},
	"start.font":       {Program, 0.4, "The function set asks for the other font.", "function set, F", "Clear F on modules of two lines."},
	"wait.none":        {Program, 1.5, "The program waits for no operation.", "waits", "Wait 37 µs after each byte, 1.52 ms after clear and home; more where the oscillator is slow."},
	"wait.clear":       {Program, 2, "The program does not wait long enough after clear.", "wait after clear", "Wait 2 ms after clear and home."},
	"clock.slow":       {Program, 0.7, "The module’s oscillator runs at 190 kHz only.", "oscillator", "Wait as for the slowest oscillator of the data sheet, 190 kHz."},
	"nibble.lost":      {Program, 0.3, "A pulse of E went missing in step %s.", "step %s", "Switch off and on; keep the wire of E short, and begin with three times 0x3 (lost in step %s)."},
	"entry.back":       {Program, 0.8, "The entry mode counts down: text runs from right to left.", "entry mode, I/D", "Set I/D in the entry mode."},
	"entry.shift":      {Program, 0.8, "The entry mode shifts the display with every character.", "entry mode, S", "Clear S in the entry mode."},
	"display.off":      {Program, 1.2, "The program never switches the display on.", "display control, D", "Send display control with D set, 0x0C."},
	"place.geometry":   {Program, 2, "The program takes the module for %s.", "%s", "Give the program the module’s own columns and rows, not %s."},
	"place.column":     {Program, 1.5, "The program counts columns from 1 where the module’s begin with 0.", "columns", "Count columns from 0."},
	"place.row":        {Program, 1.5, "The program counts rows from 1 where the module’s begin with 0.", "rows", "Count rows from 0."},
	"place.wrap":       {Program, 0.8, "The program goes to the next row one column too early.", "columns", "Divide by the number of columns, not by one less."},
	"place.onward":     {Program, 1, "The program writes all rows on without an address: rows do not follow each other in memory.", "addresses", "Set the address at the beginning of each row."},
	"text.long":        {Program, 2, "A row is longer than the glass: what is left goes on in memory.", "the row “%s”", "Shorten “%s”, or let it scroll."},
	"text.left":        {Program, 4, "Characters of the text before are left: %s.", "%s", "Pad with spaces to the length of the old text, or clear (left: %s)."},
	"glyph.slot":       {Program, 2, "Glyphs are shown by another code than the slot they were loaded into.", "slots", "Show slot 0 by code 0, slot 1 by code 1, and so on."},
	"glyph.missing":    {Program, 1.5, "The program never loads its glyphs.", "CGRAM", "Load the glyphs before they are shown."},
	"input.open":       {Inputs, 1.2, "The wire at %s of “%s” is open.", "%s of “%s”", "Press the wire at %s of “%s” in anew, at both of its ends."},
	"input.stuck":      {Inputs, 0.8, "The contact of “%s” is always closed.", "“%s”", "Turn “%s” by a quarter: two of a button’s legs are joined at all times. If it stood right, replace it."},
	"input.bounce":     {Inputs, 0.5, "The contact of “%s” bounces for longer than the program waits.", "“%s”", "Let the program wait longer for “%s”, or put 100 nF across the contact."},
	"input.pull":       {Inputs, 0.8, "A resistor of “%s” is not joined.", "resistor of “%s”", "Press the resistor of “%s” in anew, at both of its legs."},
	"input.rail":       {Inputs, 0.8, "%s of “%s” is on the wrong rail.", "%s of “%s”", "Take %s of “%s” to the other rail."},
	"input.swapped":    {Inputs, 0.8, "%s and %s of “%s” are exchanged.", "%s and %s of “%s”", "Exchange the wires of %s and %s of “%s”."},
	"rom.other":        {Program, 1.2, "The module has the other character ROM, %s.", "ROM %s", "Choose ROM %s for this module, and look for the characters there."},
}
