// Package logbook is what a maker writes down at a bench: dated entries of what was
// measured, seen, tried, found and changed. What was found before tells which causes to
// think of first.
//
// It stands at the ground of core: the bench's document carries entries when it is
// passed on, and diagnose counts the causes in them.
package logbook

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"
)

// EntryKind is what an entry is about.
type EntryKind string

// The kinds.
const (
	Measured EntryKind = "measured"
	Seen     EntryKind = "seen"
	Tried    EntryKind = "tried"
	Found    EntryKind = "found" // a cause
	Changed  EntryKind = "changed"
	Lit      EntryKind = "lit"  // a step of a first power-up
	Scanned  EntryKind = "scan" // of the bus
	Practice EntryKind = "practice"
	Note     EntryKind = "note"
	Anew     EntryKind = "anew" // the causes found before it count no longer
)

// Kinds lists the kinds.
var Kinds = []EntryKind{Measured, Seen, Tried, Found, Changed, Lit, Scanned, Practice, Note, Anew}

// Bounds of an entry.
const (
	MaxText     = 4000    // characters
	MaxPictures = 4       // of an entry
	MaxPicture  = 1 << 20 // bytes of one
)

// Entry is one entry.
type Entry struct {
	ID       uint      `json:"id,omitempty" doc:"within the program that keeps it"`
	At       time.Time `json:"at"`
	Kind     EntryKind `json:"kind" enum:"measured,seen,tried,found,changed,lit,scan,practice,note,anew"`
	Module   string    `json:"module,omitempty" maxLength:"40" doc:"id of the module that it is about; absent: the whole bench"`
	Text     string    `json:"text" maxLength:"4000"`
	Causes   []string  `json:"causes,omitempty" nullable:"false" maxItems:"4" doc:"codes of what was found"`
	Value    *Value    `json:"value,omitempty" doc:"what was measured"`
	Round    *Round    `json:"round,omitempty" doc:"how a round of practice went"`
	Pictures []Picture `json:"pictures,omitempty" nullable:"false" maxItems:"4"`
}

// Value is a measured value with its unit.
type Value struct {
	Name   string  `json:"name" maxLength:"40"`
	Amount float64 `json:"amount"`
	Unit   string  `json:"unit" maxLength:"10"`
}

// Round is how a round of practice went.
type Round struct {
	Topic   string  `json:"topic,omitempty" maxLength:"20"`
	Level   int     `json:"level" minimum:"1" maximum:"9"`
	Right   bool    `json:"right"`
	Minutes float64 `json:"minutes" doc:"that the maker took, as they would be in life"`
	Best    float64 `json:"best" doc:"that the best plan takes"`
	Score   int     `json:"score" minimum:"0" maximum:"100"`
	Contest int     `json:"contest,omitempty" minimum:"0" maximum:"20" doc:"which round of a contest it was, from 1; absent: of none"`
}

// Picture is a picture that belongs to an entry.
type Picture struct {
	Name string `json:"name" maxLength:"120"`
	Type string `json:"type" enum:"image/png,image/jpeg"`
	Data []byte `json:"data,omitempty" doc:"the file; absent where the picture is fetched by itself"`
}

// Validate says what of an entry cannot be, and what would be right.
func (e *Entry) Validate() error {
	switch {
	case !slices.Contains(Kinds, e.Kind):
		return fmt.Errorf("kind %q; expected one of %v", e.Kind, Kinds)
	case e.At.IsZero():
		return fmt.Errorf("an entry without a time; expected such as 2026-05-01T14:05:00Z")
	case strings.TrimSpace(e.Text) == "" && len(e.Pictures) == 0 && e.Kind != Anew:
		return fmt.Errorf("an entry without text or picture")
	case utf8.RuneCountInString(e.Text) > MaxText:
		return fmt.Errorf("%d characters; an entry holds %d at most", utf8.RuneCountInString(e.Text), MaxText)
	case len(e.Pictures) > MaxPictures:
		return fmt.Errorf("%d pictures; an entry holds %d at most", len(e.Pictures), MaxPictures)
	}
	for _, p := range e.Pictures {
		if len(p.Data) > MaxPicture {
			return fmt.Errorf("picture %s has %d bytes; expected %d at most", p.Name, len(p.Data), MaxPicture)
		}
		if p.Type != "image/png" && p.Type != "image/jpeg" {
			return fmt.Errorf("picture %s is of type %q; expected image/png or image/jpeg", p.Name, p.Type)
		}
	}
	return nil
}

// Counts counts the causes that were found, by their codes, since the last entry that
// begins anew.
func Counts(entries []Entry) map[string]int {
	var since time.Time
	for _, e := range entries {
		if e.Kind == Anew && e.At.After(since) {
			since = e.At
		}
	}
	out := map[string]int{}
	for _, e := range entries {
		if e.Kind == Found && !e.At.Before(since) {
			for _, c := range e.Causes {
				out[c]++
			}
		}
	}
	return out
}

// Query chooses entries; its zero value takes all.
type Query struct {
	Kinds    []EntryKind
	Module   string // "" for any
	Text     string // words, all of which stand in the entry, whatever their case
	From, To time.Time
}

// Select returns the entries that a query chooses, the newest first.
func Select(entries []Entry, q Query) []Entry {
	words := strings.Fields(strings.ToLower(q.Text))
	out := []Entry{}
	for _, e := range entries {
		text := strings.ToLower(e.Text + " " + e.Module + " " + string(e.Kind) + " " + strings.Join(e.Causes, " "))
		switch {
		case len(q.Kinds) > 0 && !slices.Contains(q.Kinds, e.Kind):
		case q.Module != "" && e.Module != q.Module:
		case !q.From.IsZero() && e.At.Before(q.From), !q.To.IsZero() && e.At.After(q.To):
		case slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(text, w) }):
		default:
			out = append(out, e)
		}
	}
	slices.SortStableFunc(out, func(a, b Entry) int { return cmp.Or(b.At.Compare(a.At), cmp.Compare(b.ID, a.ID)) })
	return out
}
