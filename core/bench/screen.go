package bench

import (
	"slatebell/core/field"
	"slatebell/core/screen"
)

// Screen is a composed text with its fields. Rows may be longer than the module
// is wide, and more than it has: nothing that was typed is lost. Places are
// 0-based.
type Screen struct {
	ID     string        `json:"id" minLength:"1" maxLength:"40" pattern:"^[a-z0-9-]+$"`
	Name   string        `json:"name,omitempty" maxLength:"80"`
	Rows   []string      `json:"rows" nullable:"false" maxItems:"64" doc:"text of each row, at most 400 characters; U+E000–U+E0FF stand for the codes 00–FF, U+E100 + key for a drawing of the library"`
	Fields []field.Field `json:"fields,omitempty" nullable:"false" maxItems:"64"`
	Cursor screen.Cursor `json:"cursor,omitzero"`
	Scroll screen.Scroll `json:"scroll,omitzero"`
}

// Loading says how the screens of a module follow each other, for the loading of
// more glyphs than CGRAM holds.
type Loading struct {
	Loop    bool `json:"loop,omitempty" doc:"after the last screen comes the first"`
	OnGlass bool `json:"onGlass,omitempty" doc:"a slot may be loaded while the screen before still shows it"`
}

// Show is a module's scenes and inputs.
type Show struct {
	Start  string  `json:"start,omitempty" maxLength:"40" doc:"id of the first scene; absent: the first of the list"`
	Scenes []Scene `json:"scenes,omitempty" nullable:"false" maxItems:"500"`
	Inputs []Input `json:"inputs,omitempty" nullable:"false" maxItems:"64"`
}

// Scene is a screen with what ends it.
type Scene struct {
	ID     string `json:"id" minLength:"1" maxLength:"40" pattern:"^[a-z0-9-]+$"`
	Name   string `json:"name,omitempty" maxLength:"80"`
	Screen string `json:"screen" maxLength:"40" doc:"id of the screen"`
	Ends   []End  `json:"ends,omitempty" nullable:"false" maxItems:"16" doc:"absent: it stays"`
}

// End is one way a scene ends.
type End struct {
	AfterMs int    `json:"afterMs,omitempty" minimum:"0" maximum:"86400000" doc:"time, in milliseconds"`
	Input   string `json:"input,omitempty" maxLength:"40" doc:"id of the input that ends it"`
	Next    string `json:"next" maxLength:"40" doc:"id of the scene that follows"`
}

// Input is what a show listens to.
type Input struct {
	ID   string `json:"id" minLength:"1" maxLength:"40" pattern:"^[a-z0-9-]+$"`
	Name string `json:"name,omitempty" maxLength:"80"`
	Kind string `json:"kind" enum:"button,timer,counter,serial,signal"`
	Pin  string `json:"pin,omitempty" maxLength:"12" doc:"label of the host's pin"`
	Pull string `json:"pull,omitempty" enum:"host,up,down" doc:"button: what holds its pin while it is open: the host's own pull-up, a resistor to the supply or one to ground; absent: host"`
}
