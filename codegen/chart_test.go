package codegen

import (
	"math/rand/v2"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/prove/chart"
	"slatebell/core/prove/photo"
	"slatebell/core/prove/photo/phototest"
	"slatebell/core/ship/firmware"
)

// TestChartScreens builds the program that shows a ROM's chart as its user would, and runs it on a simulated chip. Of what is on the glass then
// photographs are taken; the reader is told of a module with ROM A00, and learns that it is A02.
func TestChartScreens(t *testing.T) {
	b := bench.New("pier")
	d := &b.Modules[0].Display
	d.Geometry, d.Controller.ROM = "20x4", "A02"
	derived, err := chart.Bench(&b)
	if err != nil {
		t.Fatal(err)
	}
	im, err := firmware.New(derived)
	if err != nil {
		t.Fatal(err)
	}
	dir, _ := write(t, im, C)
	if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror", "atmega328p"); said != "" {
		t.Errorf("make says %s", said)
	}
	d.Controller.ROM = "A00"
	m, err := d.Module()
	if err != nil {
		t.Fatal(err)
	}
	n := len(chart.Screens(&m))
	s := boot(t, im, filepath.Join(dir, "firmware.elf"), "atmega328p", 6*n+2, false, im.Modules[0].Link.Address)
	var shown []chart.Shown
	rng := rand.New(rand.NewPCG(26, 6))
	for next := 5 * time.Second; len(shown) < n; next += 6 * time.Second { // a photograph just before each screen ends
		for s.wire.now < next {
			if _, _, ok := s.next(); !ok {
				t.Fatalf("the program ended after %v", s.wire.now)
			}
		}
		one := s.wire.modules[0]
		mo := one.rig.Moment()
		glass := mo.Glass(&one.m.Display, 0.9)
		shot := phototest.Some(rng, 20, 4, 8, 20, 20, func(cell, row, col int) bool {
			return glass.Cells[cell].Dots.Lit(row, col)
		}).Take()
		got, err := chart.Read(&photo.Grey{W: shot.W, H: shot.H, Pix: shot.Greys()}, nil, &m)
		if err != nil {
			t.Fatalf("after %v: %v", s.wire.now, err)
		}
		shown = append(shown, got)
	}
	slices.Reverse(shown)
	c := chart.Learn(&m, shown, nil)
	if c.Like.ROM.Name != "A02" || len(c.Like.Codes) > 0 || len(c.Missing) > 0 {
		t.Errorf("the chart is like %s but for %x; missing are screens %v", c.Like.ROM.Name, c.Like.Codes, c.Missing)
	}
}
