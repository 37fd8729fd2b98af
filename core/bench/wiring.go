package bench

// Wiring is what lies on the table between the parts.
type Wiring struct {
	Colours    map[string]string `json:"colours,omitempty" doc:"colour of the wires of a net, by its name or by what it is, such as GND, 5V, RS or data"`
	EachLine   bool              `json:"eachLine,omitempty" doc:"data lines have a colour each, which colours may name by D0 to D7"`
	Boards     []Breadboard      `json:"boards,omitempty" nullable:"false" maxItems:"8"`
	Placements []Placement       `json:"placements,omitempty" nullable:"false" maxItems:"400"`
	Wires      []Wire            `json:"wires,omitempty" nullable:"false" maxItems:"2000"`
	Done       []string          `json:"done,omitempty" nullable:"false" maxItems:"4000" doc:"what of the list of work is ticked off"`
	Lit        []Lit             `json:"lit,omitempty" nullable:"false" maxItems:"1000" doc:"steps of first light that are done"`
}

// Lit is a step of a module's first power-up that showed what it should.
type Lit struct {
	Module string `json:"module" maxLength:"40" doc:"id of the module"`
	Step   string `json:"step" maxLength:"40"`
	At     string `json:"at" maxLength:"40" doc:"when, RFC 3339"`
}

// Breadboard is a breadboard.
type Breadboard struct {
	ID         string `json:"id" minLength:"1" maxLength:"40" pattern:"^[a-z0-9-]+$"`
	Columns    int    `json:"columns" minimum:"5" maximum:"200" doc:"30 on a half-size board, 63 on a full-size one"`
	SplitRails bool   `json:"splitRails,omitempty" doc:"the rails are interrupted in the middle"`
	Joined     bool   `json:"joined,omitempty" doc:"the rails of the two sides are joined inside the board"`
	Beyond     string `json:"beyond,omitempty" maxLength:"40" doc:"id of the board beyond whose upper edge it lies, without its own lower rails: a wide host stands over the gap between them, in row a of this one and row j of that one"`
}

// Placement is a part that lies in holes.
type Placement struct {
	Part  string `json:"part" minLength:"1" maxLength:"80" doc:"what lies there: host, a module's id, or another part's name"`
	Board string `json:"board" maxLength:"40"`
	Hole  string `json:"hole" maxLength:"12" doc:"hole of its first pin, such as a12"`
	Turn  int    `json:"turn,omitempty" enum:"0,90,180,270" doc:"degrees clockwise"`
}

// Wire joins two ends, each a hole such as board-1/a12 or board-1/top+3, or a pin
// such as host/D4 or gate/RS.
type Wire struct {
	From     string `json:"from" minLength:"1" maxLength:"80"`
	To       string `json:"to" minLength:"1" maxLength:"80"`
	Colour   string `json:"colour,omitempty" maxLength:"20"`
	LengthMM int    `json:"lengthMM,omitempty" minimum:"0" maximum:"10000"`
}
