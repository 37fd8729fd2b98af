package breadboard

import (
	"fmt"
	"math"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/part/host"
)

// widest and narrowest are how far apart, in pitches, the two rows of a host lie that stands over
// the edges of two boards. Nearer than the narrowest the boards touch, with one strip of rails
// between them (common practice: a board is 36 mm wide between its rails, and a strip of rails
// 10 mm); beyond the widest are boards with sockets, not with pins.
const narrowest, widest = 7.0, 12.0

// layBoards says where the boards lie: in a row, and those beyond an edge above the board that
// they name, as far off as the host's two rows are apart.
func layBoards(b *bench.Bench) []Board {
	out := make([]Board, len(b.Wiring.Boards))
	x := 0.0
	for i, board := range b.Wiring.Boards {
		out[i] = Board{Breadboard: board, X: x}
		if board.Beyond == "" {
			x += float64(board.Columns) + apart
		}
	}
	for i := range out {
		if at := slices.IndexFunc(out, func(o Board) bool { return o.ID == out[i].Beyond }); at >= 0 {
			board := b.Host.Board()
			gap := max(math.Round(across(&board)), narrowest)
			out[i].X, out[i].Y = out[at].X, out[at].Y+J.Y()-gap-A.Y()
		}
	}
	return out
}

// across is how far the two rows of a host's pins are apart, in pitches.
func across(board *host.Board) float64 { return float64(board.Apart) / 1e6 / Pitch }

// beyondEdge finds the hole of another board at a place: over the edge of two that lie one beyond
// the other.
func (t *Table) beyondEdge(board int, at Point) (Hole, bool) {
	own := &t.Boards[board]
	for i := range t.Boards {
		b := &t.Boards[i]
		if b.Beyond != own.ID && own.Beyond != b.ID || i == board {
			continue
		}
		for row := J; row <= A; row++ {
			h := Hole{i, row, int(math.Round(at.X-b.X)) + 1}
			if b.Has(h) && b.At(h).distance(at) < 0.3 {
				return h, true
			}
		}
	}
	return Hole{}, false
}

// withEdge adds to boards the one beyond the first's upper edge that a host over two edges needs,
// and takes others of the kind away.
func withEdge(b *bench.Bench, boards []bench.Breadboard) []bench.Breadboard {
	d, edges, _ := hostBay(b)
	if !edges {
		return boards
	}
	far := bench.Breadboard{Columns: halfSize, Beyond: boards[0].ID}
	if d.cols+firstColumn-1 > far.Columns {
		far.Columns = fullSize
	}
	for _, w := range b.Wiring.Boards {
		if w.Beyond == far.Beyond && w.Columns >= far.Columns {
			far = w
		}
	}
	if far.ID == "" || slices.ContainsFunc(boards, func(b bench.Breadboard) bool { return b.ID == far.ID }) {
		far.ID = unused(boards)
	}
	return append(slices.Clone(boards), far)
}

// unused is an id that no board has.
func unused(boards []bench.Breadboard) string {
	for n := len(boards) + 1; ; n++ {
		id := fmt.Sprintf("board-%d", n)
		if !slices.ContainsFunc(boards, func(b bench.Breadboard) bool { return b.ID == id }) {
			return id
		}
	}
}

// flat are the boards that lie in a row, without those beyond an edge.
func flat(boards []bench.Breadboard) []bench.Breadboard {
	return slices.DeleteFunc(slices.Clone(boards), func(b bench.Breadboard) bool { return b.Beyond != "" })
}

// last is the rightmost of the boards that lie in a row; nil where there is none.
func (t *Table) last() (out *Board) {
	for i := range t.Boards {
		if t.Boards[i].Beyond == "" {
			out = &t.Boards[i]
		}
	}
	return out
}

// top is where the topmost row of all boards lies.
func (t *Table) top() (y float64) {
	for i := range t.Boards {
		y = min(y, t.Boards[i].Y)
	}
	return y
}
