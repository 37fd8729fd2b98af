package bench

import (
	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/host"
)

// Show is a module's scenes and inputs.
type Show struct {
	Start  string  `json:"start,omitempty" maxLength:"40" doc:"id of the first scene; absent: the first of the list"`
	Scenes []Scene `json:"scenes,omitempty" nullable:"false" maxItems:"500"`
	Inputs []Input `json:"inputs,omitempty" nullable:"false" maxItems:"64"`
	Feeds  []Feed  `json:"feeds,omitempty" nullable:"false" maxItems:"200" doc:"which fields show what inputs give"`
}

// Scene is a screen with what ends it.
type Scene struct {
	ID     string `json:"id" minLength:"1" maxLength:"40" pattern:"^[a-z0-9-]+$"`
	Name   string `json:"name,omitempty" maxLength:"80"`
	Screen string `json:"screen" maxLength:"40" doc:"id of the screen"`
	Off    bool   `json:"off,omitempty" doc:"the display is off, its text kept"`
	Ends   []End  `json:"ends,omitempty" nullable:"false" maxItems:"16" doc:"absent: it stays"`
	Edit   Edit   `json:"edit,omitzero" doc:"a field that is edited on the device while the scene lasts"`
	Effect Effect `json:"effect,omitzero" doc:"what moves while the scene lasts"`
}

// End is one way a scene ends.
type End struct {
	AfterMs int     `json:"afterMs,omitempty" minimum:"0" maximum:"86400000" doc:"time, in milliseconds"`
	Input   string  `json:"input,omitempty" maxLength:"40" doc:"id of the input that ends it"`
	On      string  `json:"on,omitempty" enum:"press,release,long,step,line,tick,above,below,accept,cancel" doc:"what of the input ends it; absent: press of a button, step of a counter, line of a serial message, tick of a timer, above of a signal; accept, cancel: of what is edited, without an input"`
	Level   float64 `json:"level,omitempty" doc:"above, below: of the signal"`
	Next    string  `json:"next" maxLength:"40" doc:"id of the scene that follows"`
}

// Edit lets a field be changed on the device: a number by its digits, within its range; a
// text or a choice along its list; free text cell by cell.
type Edit struct {
	Field  string   `json:"field,omitempty" maxLength:"40" doc:"name of the field on the scene's screen; absent: nothing is edited"`
	Takes  string   `json:"takes,omitempty" enum:"digits,hex,letters,ascii,rom,list" doc:"free text: which characters a cell may have; ascii: all printable ones of ASCII that the ROM has; rom: all that the ROM can show, in the order of their codes; absent: digits, letters, space and - . : / +"`
	List   string   `json:"list,omitempty" maxLength:"95" doc:"list: the characters themselves, in their order"`
	Keys   []Key    `json:"keys,omitempty" nullable:"false" maxItems:"16"`
	Mark   EditMark `json:"mark,omitzero" doc:"what blinks in the cell that is changed"`
	Repeat Repeat   `json:"repeat,omitzero" doc:"of a key that is held"`
}

// Key is what one thing of an input does while a field is edited.
type Key struct {
	Does  string  `json:"does" enum:"left,right,up,down,next,accept,cancel" doc:"next: to the right, and behind the last cell accept"`
	Input string  `json:"input" maxLength:"40" doc:"id of a button, or of a signal"`
	On    string  `json:"on,omitempty" enum:"above,below" doc:"signal: absent: above"`
	Level float64 `json:"level,omitempty" doc:"above, below: of the signal"`
}

// EditMark is how the cell that is changed blinks.
type EditMark struct {
	Code  int `json:"code,omitempty" minimum:"0" maximum:"255" doc:"what it shows in between; absent: 32, a space"`
	OnMs  int `json:"onMs,omitempty" minimum:"0" maximum:"10000" doc:"how long it shows its character, in milliseconds; absent: 500"`
	OffMs int `json:"offMs,omitempty" minimum:"0" maximum:"10000" doc:"how long the mark, in milliseconds; absent: 300"`
}

// Repeat is how a held key goes on.
type Repeat struct {
	AfterMs   int `json:"afterMs,omitempty" minimum:"0" maximum:"10000" doc:"when it is done again for the first time, in milliseconds; absent: 500"`
	EveryMs   int `json:"everyMs,omitempty" minimum:"0" maximum:"10000" doc:"and then, in milliseconds; absent: 150"`
	FastAfter int `json:"fastAfter,omitempty" minimum:"0" maximum:"200" doc:"after so many it goes faster; absent: 8"`
	FastMs    int `json:"fastMs,omitempty" minimum:"0" maximum:"10000" doc:"each so many milliseconds then; absent: 50"`
}

// Effect moves something, step by step, over and over.
type Effect struct {
	Kind    string `json:"kind,omitempty" enum:"walk,scroll,shift,slots" doc:"a character walks along cells; a row's text runs through cells; the whole display is shifted; a slot shows one glyph after the other; absent: nothing moves"`
	EveryMs int    `json:"everyMs,omitempty" minimum:"0" maximum:"60000" doc:"time of a step, in milliseconds; absent: 300"`
	Row     int    `json:"row,omitempty" minimum:"0" maximum:"63" doc:"walk, scroll"`
	Col     int    `json:"col,omitempty" minimum:"0" maximum:"399" doc:"walk, scroll: first cell"`
	Width   int    `json:"width,omitempty" minimum:"0" maximum:"80" doc:"walk, scroll: cells; absent: up to the end of the row"`
	Text    string `json:"text,omitempty" maxLength:"200" doc:"walk: what walks; scroll: what runs; absent: the row's text"`
	Gap     int    `json:"gap,omitempty" minimum:"0" maximum:"80" doc:"scroll: spaces between its end and its beginning"`
	Back    bool   `json:"back,omitempty" doc:"walk: back again from the end; scroll, shift: to the right"`
	Glyphs  []int  `json:"glyphs,omitempty" nullable:"false" maxItems:"32" doc:"slots: keys of drawings in the library; the first stands on the screen"`
}

// Input is what a show listens to.
type Input struct {
	ID      string  `json:"id" minLength:"1" maxLength:"40" pattern:"^[a-z0-9-]+$"`
	Name    string  `json:"name,omitempty" maxLength:"80"`
	Kind    string  `json:"kind" enum:"button,timer,counter,serial,signal"`
	Pin     string  `json:"pin,omitempty" maxLength:"12" doc:"label of the host's pin; serial: the one that it listens on"`
	PinB    string  `json:"pinB,omitempty" maxLength:"12" doc:"counter: label of the pin of a rotary encoder's second contact; absent: one contact, each closing steps it on"`
	Part    string  `json:"part,omitempty" maxLength:"40" doc:"name of the part that it is one line of, where a part gives several inputs: a stick its ways and its press, a rotary encoder its turn and its press; absent: a part of its own"`
	Pull    string  `json:"pull,omitempty" enum:"host,up,down" doc:"button, counter: what holds its pins while they are open: the host's own pull-up, a resistor to the supply or one to ground; absent: host"`
	Button  Button  `json:"button,omitzero"`
	EveryMs int     `json:"everyMs,omitempty" minimum:"0" maximum:"86400000" doc:"timer: time between two ticks, in milliseconds; absent: 1000"`
	Counter Counter `json:"counter,omitzero"`
	Serial  Serial  `json:"serial,omitzero"`
	Signal  Sensor  `json:"signal,omitzero"`
}

// Button says how a button is read.
type Button struct {
	DebounceMs int  `json:"debounceMs,omitempty" minimum:"0" maximum:"1000" doc:"how long its level must hold, in milliseconds; absent: 20"`
	Ladder     bool `json:"ladder,omitempty" doc:"it stands in a row of buttons on one pin that reads a voltage, which a ladder of resistors makes of whichever is pressed"`
	LongMs     int  `json:"longMs,omitempty" minimum:"0" maximum:"60000" doc:"from when on a press is long, in milliseconds; absent: 800"`
}

// Counter steps along a list, or along numbers.
type Counter struct {
	Words []string `json:"words,omitempty" nullable:"false" maxItems:"200" doc:"what it steps along; absent: numbers from 0 on"`
	Count int      `json:"count,omitempty" minimum:"0" maximum:"65535" doc:"how many numbers there are where it has no words"`
	Stops bool     `json:"stops,omitempty" doc:"it stops at its ends; absent: after the last comes the first"`
	Up    string   `json:"up,omitempty" maxLength:"40" doc:"id of the button or timer that steps it on"`
	Down  string   `json:"down,omitempty" maxLength:"40" doc:"id of the button or timer that steps it back"`
}

// Serial is a message that comes character by character, 8 bits without parity.
type Serial struct {
	Baud      int    `json:"baud,omitempty" minimum:"0" maximum:"4000000" doc:"bits a second, ten a character; absent: 9600"`
	Buffer    int    `json:"buffer,omitempty" minimum:"0" maximum:"4096" doc:"characters that the host keeps while it is busy; what comes then is lost; absent: 64"`
	Longest   int    `json:"longest,omitempty" minimum:"0" maximum:"200" doc:"characters that a message keeps; absent: 80"`
	Ends      string `json:"ends,omitempty" enum:"line,pause" doc:"what ends a message: a line feed or carriage return; or a pause too, as many senders end no line; absent: line, not decided"`
	PauseMs   int    `json:"pauseMs,omitempty" minimum:"0" maximum:"60000" doc:"of silence that ends a message, in milliseconds; absent: 50, or three characters' time where that is longer"`
	AsItComes bool   `json:"asItComes,omitempty" doc:"shown character by character; absent: when it has ended"`
	TimeoutMs int    `json:"timeoutMs,omitempty" minimum:"0" maximum:"3600000" doc:"half a message is given up after so many milliseconds of silence; absent: never"`
	Reset     string `json:"reset,omitempty" maxLength:"40" doc:"id of the button whose press empties it; a form feed (0x0C) always does"`
	SupplyMV  int    `json:"supplyMV,omitempty" minimum:"0" maximum:"6000" doc:"what feeds the part that sends, in millivolts; absent: the host's logic voltage. Where the two differ, a divider stands on the line of the higher one"`
	Sends     bool   `json:"sends,omitempty" doc:"the host's line to the part is joined too"`
	Text      string `json:"text,omitempty" enum:"utf8,codes" doc:"what its bytes are: UTF-8, as telephones and computers send it, or codes of the module's ROM; absent: UTF-8"`
	Missing   string `json:"missing,omitempty" maxLength:"1" doc:"UTF-8: the character in place of one that the module cannot show; absent: ?"`
}

// Sensor is what a value over time is taken for, and what stands in for it while the show
// is played here.
type Sensor struct {
	Decimals    int     `json:"decimals,omitempty" minimum:"0" maximum:"4" doc:"digits behind the decimal point that count: a program is told whole numbers"`
	Hysteresis  float64 `json:"hysteresis,omitempty" minimum:"0" doc:"by so much it must go back before it counts as below or above again"`
	Start       float64 `json:"start,omitempty" doc:"its value until another comes"`
	SupplyMV    int     `json:"supplyMV,omitempty" minimum:"0" maximum:"6000" doc:"what feeds the stick, knob or sensor, in millivolts; absent: the host's logic voltage"`
	ReferenceMV int     `json:"referenceMV,omitempty" minimum:"0" maximum:"5000" doc:"the voltage that reads the most, in millivolts: one of the host's own, 1100 or 2560; absent: the host's logic voltage"`
	Circuit     Circuit `json:"circuit,omitzero"`
	Scale       Scale   `json:"scale,omitzero"`
	Average     int     `json:"average,omitempty" minimum:"0" maximum:"64" doc:"readings of its pin that are averaged; absent: 1"`
	Meter       Meter   `json:"meter,omitzero"`
	Source      Source  `json:"source,omitzero"`
}

// Circuit is what makes a signal's voltage. A zero Circuit is a part of three pins that gives one.
type Circuit struct {
	Kind     string `json:"kind,omitempty" enum:"knob,resistor,follower" doc:"knob: a potentiometer; resistor: one that changes, by light or heat, below another to the supply; follower: what follows the size of an alternating voltage, a diode, a capacitor and a resistor behind a potentiometer for its level"`
	LeastOhm int    `json:"leastOhm,omitempty" minimum:"0" maximum:"100000000" doc:"resistor: the least that it has, in ohms"`
	MostOhm  int    `json:"mostOhm,omitempty" minimum:"0" maximum:"100000000" doc:"resistor: the most that it has, in ohms"`
	Ohm      int    `json:"ohm,omitempty" minimum:"0" maximum:"10000000" doc:"knob: of its whole way; resistor: the other one, absent: the one with the widest spread of voltages; follower: the one that empties its capacitor; absent: 10000"`
	NanoF    int    `json:"nanoFarad,omitempty" minimum:"0" maximum:"1000000000" doc:"follower: its capacitor, in nanofarads; absent: 10000"`
}

// Scale says what value a reading of the pin is, by two points; what lies between and beyond
// them lies on their straight line. Readings are those of the host's converter: 0 to 1023 for
// one of 10 bits. A zero Scale means that the value is the reading.
type Scale struct {
	From Point `json:"from,omitzero"`
	To   Point `json:"to,omitzero"`
}

// Point is a reading and its value.
type Point struct {
	Reading int     `json:"reading" minimum:"0" maximum:"65535"`
	Value   float64 `json:"value" minimum:"-1000000000" maximum:"1000000000"`
}

// Meter lets fields follow the size of a signal as an instrument would.
type Meter struct {
	Reads     string  `json:"reads,omitempty" enum:"linear,decibels" doc:"absent: no meter, fields show the signal itself"`
	Reference float64 `json:"reference,omitempty" minimum:"0" maximum:"1000000" doc:"decibels: the level of 0 dB; absent: 1"`
	RiseMs    float64 `json:"riseMs,omitempty" minimum:"0" maximum:"60000" doc:"time constant of the rise, in milliseconds; absent: at once"`
	FallMs    float64 `json:"fallMs,omitempty" minimum:"0" maximum:"60000" doc:"time constant of the fall, in milliseconds; absent: at once"`
	HoldMs    int     `json:"holdMs,omitempty" minimum:"0" maximum:"60000" doc:"how long the highest level is held, in milliseconds; absent: 1000"`
}

// Source is a made-up course of a signal.
type Source struct {
	Curve    string    `json:"curve,omitempty" enum:"constant,ramp,sine,steps,noise,tide" doc:"absent: none, its values come as events"`
	Low      float64   `json:"low,omitempty" minimum:"-1000000000" maximum:"1000000000"`
	High     float64   `json:"high,omitempty" minimum:"-1000000000" maximum:"1000000000"`
	PeriodMs int       `json:"periodMs,omitempty" minimum:"0" maximum:"86400000" doc:"of a ramp, a sine, a tide, or one of steps, in milliseconds; absent: 10000"`
	Levels   []float64 `json:"levels,omitempty" nullable:"false" maxItems:"200" doc:"steps: one after the other, then again from the first"`
	Seed     int       `json:"seed,omitempty" minimum:"0" maximum:"1000000" doc:"noise: the same seed gives the same noise"`
	SampleMs int       `json:"sampleMs,omitempty" minimum:"0" maximum:"3600000" doc:"how often it is read, in milliseconds; absent: 100"`
}

// Feed lets fields show what an input gives.
type Feed struct {
	Field string `json:"field" minLength:"1" maxLength:"40" doc:"name of the field, on whatever screen"`
	Input string `json:"input" maxLength:"40" doc:"id of the input"`
	Peak  bool   `json:"peak,omitempty" doc:"of a meter: a bar marks the held peak too; another field shows it"`
}

// Fed returns what feeds a signal's stick, knob or sensor: wiring, levels and thresholds all
// take it from here.
func (in *Input) Fed(board *host.Board) physic.ElectricPotential {
	return fed(in.Signal.SupplyMV, board)
}

// Reference returns the voltage that reads the most.
func (in *Input) Reference(board *host.Board) physic.ElectricPotential {
	return fed(in.Signal.ReferenceMV, board)
}

// FedBy returns what feeds the part that sends over a serial line.
func (in *Input) FedBy(board *host.Board) physic.ElectricPotential {
	return fed(in.Serial.SupplyMV, board)
}

// fed is a supply in millivolts: the host's logic voltage where nobody said.
func fed(milliVolts int, board *host.Board) physic.ElectricPotential {
	if milliVolts > 0 {
		return physic.ElectricPotential(milliVolts) * physic.MilliVolt
	}
	return board.Logic
}
