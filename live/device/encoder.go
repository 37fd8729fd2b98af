package device

// Encoder counts the notches of a rotary encoder by the levels of its two contacts, as exported programs do: a notch is four
// edges, both contacts are open where it rests, and at least two of the edges must have been seen, so that no bounce counts.
type Encoder struct {
	High    bool // the contacts are high while closed
	Notches byte // counted on and round; one direction up, the other down
	closed  byte // how the contacts were last, a bit each
	edges   int
}

// edge is where an encoder whose contacts change from one state to another moves: four states each, A in bit 0. What
// skips a state moves nowhere.
var edge = [4][4]int{
	0: {0, 1, -1, 0},
	1: {-1, 0, 0, 1},
	2: {1, 0, 0, -1},
	3: {0, -1, 1, 0},
}

// Look takes the levels of the contacts.
func (e *Encoder) Look(a, b bool) {
	var now byte
	if a == e.High {
		now |= 1
	}
	if b == e.High {
		now |= 2
	}
	e.edges += edge[e.closed][now]
	e.closed = now
	if now != 0 {
		return
	}
	if e.edges >= 2 {
		e.Notches++
	} else if e.edges <= -2 {
		e.Notches--
	}
	e.edges = 0
}
