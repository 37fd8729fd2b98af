package web

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
)

type cell struct {
	Row int `json:"row"`
	Col int `json:"col"`
}

func (c cell) before(o cell) bool { return c.Row < o.Row || c.Row == o.Row && c.Col < o.Col }

type rowEdit struct {
	What   string `json:"what"`
	Anchor cell   `json:"anchor"`
	Caret  cell   `json:"caret"`
	Text   string `json:"text"`
	Mode   string `json:"mode"`
}

// glass is a screen as a module would hold it: every cell there, blank where nothing was written.
type glass [4][40]byte

// take takes the cells from one to another out of a row; with insert what follows moves up.
func (g *glass) take(row, from, to int, mode string) {
	to = min(to, len(g[row]))
	blanks := g[row][from:to]
	if mode == "insert" {
		copy(g[row][from:], g[row][to:])
		blanks = g[row][len(g[row])-(to-from):]
	}
	for i := range blanks {
		blanks[i] = ' '
	}
}

// clear takes out all from one place to another, a row at a time.
func (g *glass) clear(from, to cell, mode string) {
	for row := from.Row; row <= to.Row; row++ {
		start, end := 0, len(g[row])
		if row == from.Row {
			start = from.Col
		}
		if row == to.Row {
			end = to.Col
		}
		g.take(row, start, max(start, end), mode)
	}
}

// do carries an edit out, and returns where the caret is then.
func (g *glass) do(e *rowEdit) cell {
	at, from, to := e.Caret, e.Anchor, e.Caret
	if to.before(from) {
		from, to = to, from
	}
	switch e.What {
	case "backspace":
		if at.Col == 0 && at.Row == 0 {
			return at
		} else if at.Col == 0 { // to the end of what is written above
			return cell{at.Row - 1, len(strings.TrimRight(string(g[at.Row-1][:]), " "))}
		}
		g.take(at.Row, at.Col-1, at.Col, e.Mode)
		return cell{at.Row, at.Col - 1}
	case "remove":
		g.take(at.Row, at.Col, at.Col+1, "insert")
		return at
	case "clear":
		g.clear(from, to, e.Mode)
		return from
	}
	if from != to {
		g.clear(from, to, e.Mode)
		at = from
	}
	if e.Mode == "insert" {
		copy(g[at.Row][at.Col+len(e.Text):], g[at.Row][at.Col:])
	}
	copy(g[at.Row][at.Col:], e.Text)
	return cell{at.Row, at.Col + len(e.Text)}
}

// TestRows types, deletes and clears at random, far behind the text too: the rows are those of a glass that has every cell, without the blanks
// at their ends.
func TestRows(t *testing.T) {
	r := rand.New(rand.NewPCG(30, 11))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	place := func() cell { return cell{r.IntN(4), r.IntN(20)} }
	pages := startPages(t)
	for range 200 {
		edits := make([]rowEdit, 12)
		for i := range edits {
			edits[i] = rowEdit{pick("write", "write", "clear", "backspace", "remove"), place(), place(), pick("T", "oar", "3.2 m", " "), pick("overtype", "insert")}
			if e := &edits[i]; e.What != "clear" && r.IntN(3) > 0 {
				e.Anchor = e.Caret
			}
		}
		var all []struct {
			Rows  []string `json:"rows"`
			Caret cell     `json:"caret"`
		}
		pages.ask(msg{"do": "rows", "edits": edits}, &all)
		var want glass
		for row := range want {
			want[row] = [40]byte([]byte(strings.Repeat(" ", 40)))
		}
		for i, got := range all {
			caret := want.do(&edits[i])
			var rows []string
			for _, row := range want {
				rows = append(rows, strings.TrimRight(string(row[:]), " "))
			}
			for len(rows) > 0 && rows[len(rows)-1] == "" {
				rows = rows[:len(rows)-1]
			}
			if !slices.Equal(got.Rows, rows) || got.Caret != caret {
				t.Fatalf("%+v gives %q with the caret at %v, want %q and %v", edits[:i+1], got.Rows, got.Caret, rows, caret)
			}
		}
	}
}
