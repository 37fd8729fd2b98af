// Package breadboard lays the parts and wires of a netlist into holes, works out
// what the holes really join, and holds that against the netlist. What drives each
// pin of a module's header, the voltage at VO and the current of the backlight are
// computed from the holes, so that the glass shows the board as it is drawn.
//
// It stands above wiring, which says what must be joined, and below run, which plays
// a module as it is joined. Lengths are in pitches of 2.54 mm unless they say mm; x
// grows to the right, y downwards.
package breadboard

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"slatebell/core/bench"
)

// Pitch is the distance of two holes, in mm (common practice).
const Pitch = 2.54

// Row is a row of holes: a rail, or one of the ten that a column has.
type Row int8

// The rows, from the top.
const (
	TopPlus Row = iota
	TopMinus
	J
	I
	H
	G
	F
	E
	D
	C
	B
	A
	BottomMinus
	BottomPlus
	rows
)

// rowNames and rowY are the rows' names, and where they lie below the topmost; the
// gap between f and e is 7.62 mm, so that DIP parts straddle it.
var (
	rowNames = [rows]string{"top+", "top-", "j", "i", "h", "g", "f", "e", "d", "c", "b", "a", "bottom-", "bottom+"}
	rowY     = [rows]float64{0, 1, 3, 4, 5, 6, 7, 10, 11, 12, 13, 14, 16, 17}
)

// height is how far the lowest row lies below the topmost, and edge how far a
// board reaches beyond its outer holes.
const height, edge = 17.0, 1.2

// Rail reports whether a row is one of the rails.
func (r Row) Rail() bool { return r <= TopMinus || r >= BottomMinus }

// String returns the row's name: a–j, or top+, top-, bottom- or bottom+.
func (r Row) String() string { return rowNames[r] }

// Y is where a row lies below the topmost.
func (r Row) Y() float64 { return rowY[r] }

// Hole is one hole of a table's boards. N counts columns from 1; on a rail it
// counts the rail's own holes.
type Hole struct {
	Board int // index
	Row   Row
	N     int
}

// Board is a breadboard that lies on the table.
type Board struct {
	bench.Breadboard
	X, Y float64 // of its hole top+ in column 1
}

// railHoles is how many holes a rail has: groups of five, a gap of one pitch
// between them (25 on a half-size board, 50 on a full-size one; common practice).
func railHoles(columns int) int { return max(columns/6, 1) * 5 }

// railColumn is the column, counted from 1, beside which a rail's hole lies.
func railColumn(columns, n int) int {
	groups := max(columns/6, 1)
	return (columns-(6*groups-1))/2 + n + (n-1)/5
}

// HasRow reports whether the board has a row: one that lies beyond another's edge has no lower
// rails.
func (b *Board) HasRow(r Row) bool {
	return r >= 0 && r < rows && (b.Beyond == "" || r < BottomMinus)
}

// Has reports whether the board has a hole.
func (b *Board) Has(h Hole) bool {
	if !b.HasRow(h.Row) || h.N < 1 {
		return false
	}
	if h.Row.Rail() {
		return h.N <= railHoles(b.Columns)
	}
	return h.N <= b.Columns
}

// At returns where a hole lies on the table.
func (b *Board) At(h Hole) Point {
	n := h.N
	if h.Row.Rail() {
		n = railColumn(b.Columns, h.N)
	}
	return Point{b.X + float64(n-1), b.Y + h.Row.Y()}
}

// Point is a place on the table.
type Point struct{ X, Y float64 }

func (p Point) distance(q Point) float64 {
	x, y := p.X-q.X, p.Y-q.Y
	return math.Sqrt(x*x + y*y)
}

// name writes a hole as the document does: board-1/a12, board-1/top+3.
func name(boards []Board, h Hole) string {
	return fmt.Sprintf("%s/%s%d", boards[h.Board].ID, h.Row, h.N)
}

// parseHole reads a hole such as a12 or top+3 of a board.
func parseHole(b *Board, index int, text string) (Hole, error) {
	for r := range rows {
		rest, ok := strings.CutPrefix(text, r.String())
		if !ok {
			continue
		}
		n, err := strconv.Atoi(rest) // of bottom-3, row b leaves no number
		if h := (Hole{index, r, n}); err == nil && b.Has(h) {
			return h, nil
		}
	}
	return Hole{}, fmt.Errorf("%q is no hole of %s; expected a1–j%d, or top+1–bottom-%d of a rail", text, b.ID, b.Columns, railHoles(b.Columns))
}

// strips is how many conductors a board has: two a column, and four rails of two
// halves each.
func strips(columns int) int { return 2*columns + 8 }

// strip returns which conductor of its board a hole belongs to.
func (b *Board) strip(h Hole) int {
	if !h.Row.Rail() {
		at := h.N - 1
		if h.Row >= E {
			at += b.Columns
		}
		return at
	}
	rail := map[Row]int{TopPlus: 0, TopMinus: 1, BottomMinus: 2, BottomPlus: 3}[h.Row]
	half := 0
	if b.SplitRails && h.N > railHoles(b.Columns)/2 {
		half = 1
	}
	return 2*b.Columns + 2*rail + half
}

// inStrip lists the holes of the conductor that a hole belongs to.
func (b *Board) inStrip(h Hole) []Hole {
	if !h.Row.Rail() {
		first := J
		if h.Row >= E {
			first = E
		}
		out := make([]Hole, 5)
		for i := range out {
			out[i] = Hole{h.Board, first + Row(i), h.N}
		}
		return out
	}
	var out []Hole
	for n := 1; n <= railHoles(b.Columns); n++ {
		if other := (Hole{h.Board, h.Row, n}); b.strip(other) == b.strip(h) {
			out = append(out, other)
		}
	}
	return out
}

// Rows lists the rows from the top.
func Rows() []Row {
	out := make([]Row, rows)
	for i := range out {
		out[i] = Row(i)
	}
	return out
}

// Outline returns the board's edges on the table.
func (b *Board) Outline() (left, top, width, high float64) {
	lowest := height
	if !b.HasRow(BottomPlus) {
		lowest = A.Y()
	}
	return b.X - edge, b.Y - edge, float64(b.Columns-1) + 2*edge, lowest + 2*edge
}

// RailXs returns where the holes of a rail lie, from its first, counted from the
// board's column 1.
func (b *Board) RailXs() []float64 {
	out := make([]float64, railHoles(b.Columns))
	for i := range out {
		out[i] = float64(railColumn(b.Columns, i+1) - 1)
	}
	return out
}
