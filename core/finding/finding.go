// Package finding is the one type for every judgement the tool makes: about a
// screen, a run, a wiring. It imports nothing, so that every package of core
// can state what it found; the same list feeds interface, API and command line.
package finding

// Severity orders findings by what they mean for the maker.
type Severity string

// The severities, worst first.
const (
	Error   Severity = "error"   // the module will not show what was meant
	Warning Severity = "warning" // it may not, or a limit of a data sheet is broken
	Note    Severity = "note"    // worth knowing
)

// Rank returns 0 for the worst severity and more for the milder ones.
func (s Severity) Rank() int {
	switch s {
	case Error:
		return 0
	case Warning:
		return 1
	}
	return 2
}

// Finding is one judgement.
type Finding struct {
	Code     string   `json:"code" doc:"stable identifier, such as screen.row-too-long"`
	Severity Severity `json:"severity" enum:"error,warning,note"`
	What     string   `json:"what" doc:"what was found, with the values"`
	Why      string   `json:"why,omitempty" doc:"what it leads to, or why it is so"`
	Fix      string   `json:"fix,omitempty" doc:"what to do about it"`
	Source   string   `json:"source,omitempty" doc:"document the judgement rests on"`
	Place    *Place   `json:"place,omitempty" doc:"the cells it is about"`
	Step     *int     `json:"step,omitempty" doc:"index of the step it is about"`
	Remedies []Remedy `json:"remedies,omitempty" nullable:"false" doc:"changes that settle it"`
}

// Place is a run of cells in one row, all 0-based.
type Place struct {
	Row int `json:"row"`
	Col int `json:"col"`
	Len int `json:"len"`
}

// Remedy is a ready change to the screen and, where it says so, to a slot.
type Remedy struct {
	Label string       `json:"label" doc:"what it does"`
	Rows  []string     `json:"rows" nullable:"false" doc:"the screen's rows after it"`
	Glyph *GlyphChange `json:"glyph,omitempty" doc:"what its slot holds after it"`
}

// GlyphChange is a glyph to put into a slot; its fields are those of
// glyph.Glyph, which stands above this package.
type GlyphChange struct {
	Slot int    `json:"slot"`
	Name string `json:"name"`
	Rows []int  `json:"rows" nullable:"false"`
}

// Worst returns the gravest severity in a list, or "" where the list is empty.
func Worst(list []Finding) Severity {
	worst := Severity("")
	for _, f := range list {
		if worst == "" || f.Severity.Rank() < worst.Rank() {
			worst = f.Severity
		}
	}
	return worst
}
