package bench

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
}

// End is one way a scene ends.
type End struct {
	AfterMs int     `json:"afterMs,omitempty" minimum:"0" maximum:"86400000" doc:"time, in milliseconds"`
	Input   string  `json:"input,omitempty" maxLength:"40" doc:"id of the input that ends it"`
	On      string  `json:"on,omitempty" enum:"press,release,long,step,line,tick,above,below" doc:"what of the input ends it; absent: press of a button, step of a counter, line of a serial message, tick of a timer, above of a signal"`
	Level   float64 `json:"level,omitempty" doc:"above, below: of the signal"`
	Next    string  `json:"next" maxLength:"40" doc:"id of the scene that follows"`
}

// Input is what a show listens to.
type Input struct {
	ID      string  `json:"id" minLength:"1" maxLength:"40" pattern:"^[a-z0-9-]+$"`
	Name    string  `json:"name,omitempty" maxLength:"80"`
	Kind    string  `json:"kind" enum:"button,timer,counter,serial,signal"`
	Pin     string  `json:"pin,omitempty" maxLength:"12" doc:"label of the host's pin"`
	Pull    string  `json:"pull,omitempty" enum:"host,up,down" doc:"button: what holds its pin while it is open: the host's own pull-up, a resistor to the supply or one to ground; absent: host"`
	Button  Button  `json:"button,omitzero"`
	EveryMs int     `json:"everyMs,omitempty" minimum:"0" maximum:"86400000" doc:"timer: time between two ticks, in milliseconds; absent: 1000"`
	Counter Counter `json:"counter,omitzero"`
	Signal  Sensor  `json:"signal,omitzero"`
}

// Button says how a button is read.
type Button struct {
	DebounceMs int `json:"debounceMs,omitempty" minimum:"0" maximum:"1000" doc:"how long its level must hold, in milliseconds; absent: 20"`
	LongMs     int `json:"longMs,omitempty" minimum:"0" maximum:"60000" doc:"from when on a press is long, in milliseconds; absent: 800"`
}

// Counter steps along a list, or along numbers.
type Counter struct {
	Words []string `json:"words,omitempty" nullable:"false" maxItems:"200" doc:"what it steps along; absent: numbers from 0 on"`
	Count int      `json:"count,omitempty" minimum:"0" maximum:"65535" doc:"how many numbers there are where it has no words"`
	Stops bool     `json:"stops,omitempty" doc:"it stops at its ends; absent: after the last comes the first"`
	Up    string   `json:"up,omitempty" maxLength:"40" doc:"id of the button or timer that steps it on"`
	Down  string   `json:"down,omitempty" maxLength:"40" doc:"id of the button or timer that steps it back"`
}

// Sensor is what a value over time is taken for, and what stands in for it while the show
// is played here.
type Sensor struct {
	Hysteresis float64 `json:"hysteresis,omitempty" minimum:"0" doc:"by so much it must go back before it counts as below or above again"`
	Start      float64 `json:"start,omitempty" doc:"its value until another comes"`
	Source     Source  `json:"source,omitzero"`
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
}
