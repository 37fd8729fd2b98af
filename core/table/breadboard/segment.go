package breadboard

import "math"

// segment is a straight piece of wire.
type segment struct{ a, b Point }

// side tells on which side of a line a point lies: positive, negative, or 0 on it.
func side(a, b, p Point) float64 {
	v := (b.X-a.X)*(p.Y-a.Y) - (b.Y-a.Y)*(p.X-a.X)
	if math.Abs(v) < 1e-9 {
		return 0
	}
	return v
}

// meets reports whether two segments cross, touch, or lie on each other.
func (s segment) meets(o segment) bool {
	if max(s.a.X, s.b.X) < min(o.a.X, o.b.X) || max(o.a.X, o.b.X) < min(s.a.X, s.b.X) || max(s.a.Y, s.b.Y) < min(o.a.Y, o.b.Y) || max(o.a.Y, o.b.Y) < min(s.a.Y, s.b.Y) {
		return false
	}
	s1, s2 := side(s.a, s.b, o.a), side(s.a, s.b, o.b)
	o1, o2 := side(o.a, o.b, s.a), side(o.a, o.b, s.b)
	return s1*s2 <= 0 && o1*o2 <= 0
}

// crosses returns where two segments cross, each between its own ends; false where they only
// touch, or lie on each other.
func (s segment) crosses(o segment) (Point, bool) {
	s1, s2 := side(s.a, s.b, o.a), side(s.a, s.b, o.b)
	o1, o2 := side(o.a, o.b, s.a), side(o.a, o.b, s.b)
	if s1*s2 >= 0 || o1*o2 >= 0 {
		return Point{}, false
	}
	f := s1 / (s1 - s2)
	return Point{o.a.X + f*(o.b.X-o.a.X), o.a.Y + f*(o.b.Y-o.a.Y)}, true
}

// passes reports whether a segment lies over a place that is none of its ends.
func (s segment) passes(p Point) bool {
	length := s.a.distance(s.b)
	if length == 0 || p == s.a || p == s.b {
		return false
	}
	along := ((p.X-s.a.X)*(s.b.X-s.a.X) + (p.Y-s.a.Y)*(s.b.Y-s.a.Y)) / length
	if along < 0 || along > length {
		return false
	}
	return math.Abs((p.X-s.a.X)*(s.b.Y-s.a.Y)-(p.Y-s.a.Y)*(s.b.X-s.a.X))/length < 0.35
}

// beside is how much of a segment, from 0 to 1, runs so close to another that they
// are taken for one.
func (s segment) beside(o segment) float64 {
	n := 0
	const samples = 4
	for i := 1; i <= samples; i++ {
		f := float64(i) / (samples + 1)
		at := Point{s.a.X + f*(s.b.X-s.a.X), s.a.Y + f*(s.b.Y-s.a.Y)}
		if o.passes(at) {
			n++
		}
	}
	return float64(n) / samples
}

// through reports whether it runs over a thing.
func (s segment) through(th *Thing) bool {
	low, high := Point{th.X, th.Y}, Point{th.X + th.W, th.Y + th.H}
	inside := func(p Point) bool { return p.X > low.X && p.X < high.X && p.Y > low.Y && p.Y < high.Y }
	a, b := Point{low.X, high.Y}, Point{high.X, low.Y}
	return inside(s.a) || inside(s.b) || s.meets(segment{low, a}) || s.meets(segment{low, b}) || s.meets(segment{a, high}) || s.meets(segment{b, high})
}
