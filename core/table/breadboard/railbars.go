package breadboard

// RailBar is what a rail of a board joins: its holes from the first to the last, the net
// that it carries, and the colour of that net.
type RailBar struct {
	Row         Row
	First, Last int // holes
	Net, Colour string
}

// RailBars lists the rails of a board, each half of one that is split by itself.
func (t *Table) RailBars(board int) (out []RailBar) {
	b := &t.Boards[board]
	last := railHoles(b.Columns)
	for _, row := range []Row{TopPlus, TopMinus, BottomMinus, BottomPlus} {
		for first := 1; b.HasRow(row) && first <= last; {
			strip := b.strip(Hole{board, row, first})
			end := first
			for end < last && b.strip(Hole{board, row, end + 1}) == strip {
				end++
			}
			bar := RailBar{Row: row, First: first, Last: end}
			bar.Net = t.carried(t.root(t.stripOf(Hole{board, row, first})))
			if n, ok := t.Net.Named(bar.Net); ok {
				bar.Colour = n.Colour
			}
			out = append(out, bar)
			first = end + 1
		}
	}
	return out
}
