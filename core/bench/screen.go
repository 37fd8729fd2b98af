package bench

import (
	"slatebell/core/text/field"
	"slatebell/core/text/screen"
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
