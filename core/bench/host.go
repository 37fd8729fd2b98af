package bench

// UsualHostMV is what the pins of a host bear that says nothing else: 5 V, as
// those of an ATmega328P do.
const UsualHostMV = 5000

// UsualBusHz is the clock of a bus that says nothing else: standard mode,
// UM10204 rev. 7.
const UsualBusHz = 100_000

// Host is the microcontroller board.
type Host struct {
	Part    string    `json:"part,omitempty" maxLength:"40" doc:"designation, such as ATmega328P"`
	BearsMV int       `json:"bearsMV,omitempty" minimum:"0" maximum:"6000" doc:"highest voltage that its pins bear, in millivolts; absent: 5000"`
	Supply  HostFeed  `json:"supply,omitzero"`
	Pins    []HostPin `json:"pins,omitempty" nullable:"false" maxItems:"120" doc:"pins of the user's own host"`
}

// HostFeed is where the host takes its current from.
type HostFeed struct {
	From    string `json:"from,omitempty" enum:"usb2,usb3,battery,supply"`
	LimitMA int    `json:"limitMA,omitempty" minimum:"0" maximum:"20000" doc:"what the source gives, in milliamperes; absent: what its kind gives"`
}

// HostPin is a pin of the user's own host.
type HostPin struct {
	Label string   `json:"label" minLength:"1" maxLength:"12" doc:"as printed on the board"`
	Can   []string `json:"can,omitempty" nullable:"false" maxItems:"12" doc:"what it can be, such as output or SDA"`
}

// Bus is the host's SDA and SCL with all on it.
type Bus struct {
	SDA           string       `json:"sda,omitempty" maxLength:"12" doc:"label of the host's pin; absent: the host's usual"`
	SCL           string       `json:"scl,omitempty" maxLength:"12"`
	SpeedHz       int          `json:"speedHz,omitempty" minimum:"0" maximum:"1000000" doc:"clock in hertz; absent: 100000"`
	PullUpOhm     int          `json:"pullUpOhm,omitempty" minimum:"0" maximum:"1000000" doc:"pull-ups of the bus itself, in ohms; absent: none"`
	CapacitancePF int          `json:"capacitancePF,omitempty" minimum:"0" maximum:"10000" doc:"measured, in picofarads; absent: taken from wires and devices"`
	Multiplexer   *Multiplexer `json:"multiplexer,omitempty"`
}

// Multiplexer splits a bus into channels.
type Multiplexer struct {
	Part    string `json:"part" minLength:"1" maxLength:"40"`
	Address int    `json:"address" minimum:"0" maximum:"127" doc:"7-bit address"`
}

// Device is anything else on the bus.
type Device struct {
	ID        string  `json:"id" minLength:"1" maxLength:"40" pattern:"^[a-z0-9-]+$"`
	Name      string  `json:"name" maxLength:"80"`
	Part      string  `json:"part" maxLength:"40" doc:"designation, such as DS3231"`
	Address   int     `json:"address" minimum:"0" maximum:"127" doc:"7-bit address"`
	PullUpOhm int     `json:"pullUpOhm,omitempty" minimum:"0" maximum:"1000000" doc:"pull-ups on its board, in ohms; absent: none"`
	CurrentMA float64 `json:"currentMA,omitempty" minimum:"0" maximum:"5000" doc:"in milliamperes"`
}
