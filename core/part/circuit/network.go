package circuit

import (
	"math"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/linear"
)

// Network is a small direct-current circuit: nodes that sources hold at a voltage,
// resistors, and diodes. Nodes are numbered as the caller likes.
type Network struct {
	held      map[int]float64 // V
	resistors []branch
	diodes    []branch
}

// branch is a conductance between two nodes; of a diode, while it conducts, behind
// its forward voltage.
type branch struct {
	from, to int
	siemens  float64
	forward  float64
}

// Hold holds a node at a voltage against ground. Held twice, the last counts.
func (n *Network) Hold(node int, v physic.ElectricPotential) {
	if n.held == nil {
		n.held = map[int]float64{}
	}
	n.held[node] = float64(v) / float64(physic.Volt)
}

// Resistor joins two nodes; less than a milliohm counts as one.
func (n *Network) Resistor(a, b int, r physic.ElectricResistance) {
	n.resistors = append(n.resistors, branch{from: a, to: b, siemens: 1 / max(float64(r)/float64(physic.Ohm), 1e-3)})
}

// Diode joins an anode to a cathode: above its forward voltage it conducts with a
// resistance of its own, below it does not. It returns its index.
func (n *Network) Diode(anode, cathode int, forward physic.ElectricPotential, own physic.ElectricResistance) int {
	n.diodes = append(n.diodes, branch{anode, cathode, 1 / max(float64(own)/float64(physic.Ohm), 1e-3), float64(forward) / float64(physic.Volt)})
	return len(n.diodes) - 1
}

// Solution is the voltages and currents of a Network.
type Solution struct {
	volts   map[int]float64
	current []float64 // of the diodes, in A
}

// Voltage returns a node's voltage, and false for one that nothing joins to a
// source.
func (s *Solution) Voltage(node int) (physic.ElectricPotential, bool) {
	v, ok := s.volts[node]
	return physic.ElectricPotential(math.Round(v * float64(physic.Volt))), ok
}

// Through returns the current of a diode by its index.
func (s *Solution) Through(diode int) physic.ElectricCurrent {
	return physic.ElectricCurrent(math.Round(s.current[diode] * float64(physic.Ampere)))
}

// Solve works out the network by nodal analysis. Which diodes conduct is found by
// turns: those that ought to are let conduct, and the rest are cut.
func (n *Network) Solve() Solution {
	on := make([]bool, len(n.diodes))
	var s Solution
	for range 2*len(n.diodes) + 1 {
		s = n.solve(on)
		changed := false
		for i, d := range n.diodes {
			a, okA := s.volts[d.from]
			k, okK := s.volts[d.to]
			conducts := okA && okK && a-k > d.forward
			if on[i] {
				conducts = s.current[i] > 0
			}
			changed = changed || conducts != on[i]
			on[i] = conducts
		}
		if !changed {
			break
		}
	}
	return s
}

// solve works out the network with some of its diodes conducting.
func (n *Network) solve(on []bool) Solution {
	live := n.reached(on)
	index := map[int]int{}
	var order []int
	for _, b := range append(append([]branch{}, n.resistors...), n.diodes...) {
		for _, node := range []int{b.from, b.to} {
			_, held := n.held[node]
			if _, known := index[node]; !held && !known && live[node] {
				index[node] = len(order)
				order = append(order, node)
			}
		}
	}
	size := len(order)
	m := make([][]float64, size) // the matrix with its right-hand side
	for i := range m {
		m[i] = make([]float64, size+1)
	}
	add := func(b branch, forward float64) {
		// Current b.siemens·(V(from) − V(to) − forward) leaves from and enters to.
		for _, end := range []struct {
			node, other int
			sign        float64
		}{{b.from, b.to, 1}, {b.to, b.from, -1}} {
			i, free := index[end.node]
			if !free {
				continue
			}
			m[i][i] += b.siemens
			m[i][size] += end.sign * b.siemens * forward
			if j, ok := index[end.other]; ok {
				m[i][j] -= b.siemens
			} else {
				m[i][size] += b.siemens * n.held[end.other]
			}
		}
	}
	for _, r := range n.resistors {
		if live[r.from] && live[r.to] {
			add(r, 0)
		}
	}
	for i, d := range n.diodes {
		if on[i] && live[d.from] && live[d.to] {
			add(d, d.forward)
		}
	}
	x, _ := linear.Solve(m) // every node is joined to a held one, so that there is one solution
	s := Solution{volts: map[int]float64{}, current: make([]float64, len(n.diodes))}
	for node, v := range n.held {
		s.volts[node] = v
	}
	for i, node := range order {
		s.volts[node] = x[i]
	}
	for i, d := range n.diodes {
		if on[i] {
			s.current[i] = d.siemens * (s.volts[d.from] - s.volts[d.to] - d.forward)
		}
	}
	return s
}

// reached returns the nodes that something conducting joins to a held one.
func (n *Network) reached(on []bool) map[int]bool {
	live := map[int]bool{}
	for node := range n.held {
		live[node] = true
	}
	for grew := true; grew; {
		grew = false
		spread := func(b branch) {
			if live[b.from] != live[b.to] {
				live[b.from], live[b.to], grew = true, true, true
			}
		}
		for _, r := range n.resistors {
			spread(r)
		}
		for i, d := range n.diodes {
			if on[i] {
				spread(d)
			}
		}
	}
	return live
}
