// Package finding is the one type for every judgement the tool makes: about a
// screen, a run, a wiring. It imports only the places of a text, so that every package of
// core can state what it found; the same list feeds interface, API and command line.
//
// A finding points into the bench's document by RFC 6901 pointers, and its
// remedies are RFC 6902 patches of it, so that whoever holds the document can
// apply any of them.
package finding

import "slatebell/core/place"

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
	Code     string        `json:"code" doc:"stable identifier, such as screen.row-too-long"`
	Severity Severity      `json:"severity" enum:"error,warning,note"`
	What     string        `json:"what" doc:"what was found, with the values"`
	Places   []place.Place `json:"places,omitempty" nullable:"false" doc:"rows and columns that what names, for those who count them from 0"`
	Why      string        `json:"why,omitempty" doc:"what it leads to, or why it is so"`
	Fix      string        `json:"fix,omitempty" doc:"what to do about it"`
	Source   string        `json:"source,omitempty" doc:"document the judgement rests on"`
	Path     string        `json:"path,omitempty" doc:"RFC 6901 pointer to what of the bench it is about"`
	Cells    *Cells        `json:"cells,omitempty" doc:"the cells it is about"`
	Step     *int          `json:"step,omitempty" doc:"index of the step it is about"`
	AtNs     *int64        `json:"atNs,omitempty" doc:"when in a recording it is, nanoseconds since its beginning"`
	Pins     []string      `json:"pins,omitempty" nullable:"false" doc:"the pins it is about, such as hall/RS"`
	Remedies []Remedy      `json:"remedies,omitempty" nullable:"false" doc:"changes that settle it"`
}

// Cells is a run of cells in one row, all 0-based.
type Cells struct {
	Row int `json:"row"`
	Col int `json:"col"`
	Len int `json:"len"`
}

// Remedy is a ready change of the bench.
type Remedy struct {
	Label  string        `json:"label" doc:"what it does"`
	Places []place.Place `json:"places,omitempty" nullable:"false" doc:"rows and columns that the label names"`
	Patch  Patch         `json:"patch" nullable:"false" doc:"RFC 6902 patch of the bench; it begins with a test of what it was made for"`
}

// Patch is an RFC 6902 JSON Patch.
type Patch []Op

// Op is one operation of a Patch.
type Op struct {
	Op    string `json:"op" enum:"test,add,replace,remove"`
	Path  string `json:"path" doc:"RFC 6901 pointer"`
	Value any    `json:"value,omitempty"`
}

// Test returns the operation that lets a patch pass only where a value stands.
func Test(path string, value any) Op { return Op{"test", path, value} }

// Add returns the operation that sets a member, there or not, or inserts an
// element of an array.
func Add(path string, value any) Op { return Op{"add", path, value} }

// Replace returns the operation that replaces a value that is there.
func Replace(path string, value any) Op { return Op{"replace", path, value} }

// Remove returns the operation that takes a value away that is there.
func Remove(path string) Op { return Op{Op: "remove", Path: path} }

// Say sets what was found.
func (f *Finding) Say(t place.Text) { f.What, f.Places = t.S, t.Places }

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
