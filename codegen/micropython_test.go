package codegen

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"slatebell/codegen/c99"
	"slatebell/codegen/layout"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/firmware/firmtest"
	"slatebell/core/text/field"
)

// python runs a generated module in MicroPython under node.
func python(t *testing.T, im *firmware.Image, dir string, v *c99.View, prelude string) *session {
	t.Helper()
	runtime, _ := filepath.Abs("../web/node_modules/@micropython/micropython-webassembly-pyscript/micropython.mjs")
	c := exec.Command("node", "testdata/micropython.mjs", runtime, dir, v.File, prelude)
	c.Stderr = os.Stderr
	return talk(t, im, c)
}

// pythonCall writes a call of a player in Python.
func pythonCall(c *firmtest.Call, m *firmware.Module, cm *layout.Display) string {
	switch {
	case c.Value >= 0:
		s := cm.Setters[c.Value]
		if t := c.Told.Time; m.Values[c.Value].Kind == field.Clock {
			return fmt.Sprintf("displays.%s((%d, %d, %d, %d, %d, %d))", s.Func, t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second())
		}
		if s.Text {
			return fmt.Sprintf("displays.%s(%s)", s.Func, "bytes("+strings.ReplaceAll(fmt.Sprint([]byte(c.Told.Codes)), " ", ", ")+")")
		}
		return fmt.Sprintf("displays.%s(%d)", s.Func, c.Told.Units)
	case c.Place >= 0:
		for _, mv := range cm.Moves {
			if mv.Index == c.Place {
				return fmt.Sprintf("displays.%s()", mv.Func)
			}
		}
	case c.Dots >= 0:
		return fmt.Sprintf("displays.%s_light(%d)", cm.Ident, c.Dots)
	case c.Screen == m.Blank():
		return fmt.Sprintf("displays.%s_clear()", cm.Ident)
	}
	return fmt.Sprintf("displays.%s_show(displays.%s)", cm.Ident, cm.Screens[c.Screen].Enum)
}

// TestMicroPython makes the same random calls of the C and of the MicroPython of random
// benches: what they send, byte by byte and pin by pin, waits included, is the same.
func TestMicroPython(t *testing.T) {
	images(2000, 9, func(seed uint64, r *rand.Rand, im *firmware.Image) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			cdir, v := write(t, im, C)
			pdir, _ := write(t, im, MicroPython)
			numbered(t, im, filepath.Join(pdir, v.File+".py"))
			inC, inPython := start(t, im, cdir, v), python(t, im, pdir, v, "testdata/machine.py")
			players := make([]*firmware.Player, len(im.Modules))
			both := func(d int, c, p string) {
				t.Helper()
				if status, err := inC.do(c); err != nil || status != 0 {
					t.Fatalf("%q: %#x, %v", c, status, err)
				}
				if status, err := inPython.do(p); err != nil || status != 0 {
					t.Fatalf("%q: %#x, %v: %s", p, status, err, inPython.out.Text())
				}
				a, b := inC.wire.modules[d], inPython.wire.modules[d]
				if string(a.bytes) != string(b.bytes) || strings.Join(a.ops, " ") != strings.Join(b.ops, " ") {
					t.Fatalf("%q: C and MicroPython differ: %d and %d bytes, %d and %d pulses", p, len(a.bytes), len(b.bytes), len(a.ops), len(b.ops))
				}
				if err := b.check(players[d]); err != nil {
					t.Fatalf("%q: %v", p, err)
				}
			}
			for d := range im.Modules {
				players[d], _ = firmware.NewPlayer(&im.Modules[d])
				players[d].Begin()
				both(d, fmt.Sprintf("b %d", d), fmt.Sprintf("displays.%s_begin()", v.Modules[d].Ident))
			}
			for range 5 {
				for d := range im.Modules {
					m := &im.Modules[d]
					for _, c := range firmtest.Calls(r, m, 3) {
						c.Do(players[d], m)
						both(d, callText(&c, d, m, v.Modules[d].Display), pythonCall(&c, m, v.Modules[d].Display))
					}
				}
			}
		})
	})
}

// numbered lets pins go by their numbers in Python too, as they do in C.
func numbered(t *testing.T, im *firmware.Image, name string) {
	t.Helper()
	for i := range im.Modules {
		for _, label := range im.Modules[i].Pins {
			n, _ := im.Host.Number(label)
			replaceIn(t, name, fmt.Sprintf("%q", label), fmt.Sprint(n))
		}
	}
}

func replaceIn(t *testing.T, name, old, fresh string) {
	t.Helper()
	text, err := os.ReadFile(name)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(name, []byte(strings.ReplaceAll(string(text), old, fresh)), 0o644); err != nil {
		t.Fatal(err)
	}
}

// TestNoAllocation makes random calls of random benches with MicroPython's heap locked:
// none of them allocates anything, begin aside.
func TestNoAllocation(t *testing.T) {
	images(3000, 12, func(seed uint64, r *rand.Rand, im *firmware.Image) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			dir, v := write(t, im, MicroPython)
			s := python(t, im, dir, v, "testdata/quiet.py")
			for d := range im.Modules {
				m, cm := &im.Modules[d], v.Modules[d].Display
				if status, err := s.do(fmt.Sprintf("displays.%s_begin()", cm.Ident)); err != nil || status != 0 {
					t.Fatalf("begin: %v: %s", err, s.out.Text())
				}
				for _, c := range firmtest.Calls(r, m, 12) {
					call := pythonCall(&c, m, cm) // a time is made before the heap is locked
					if name, told, ok := strings.Cut(call, "(("); ok {
						call = fmt.Sprintf("t = (%s; locked(lambda: %s(t))", strings.TrimSuffix(told, ")"), name)
					} else {
						call = fmt.Sprintf("locked(lambda: %s)", call)
					}
					if status, err := s.do(call); err != nil || status != 0 {
						t.Errorf("%s: %v: %s", call, err, s.out.Text())
					}
				}
			}
			if status, err := s.do("x = bytearray(10); locked(lambda: bytearray(10))"); err != nil || status == 0 {
				t.Errorf("the heap is not locked: %d, %v", status, err)
			}
		})
	})
}

// TestExamplePython runs main.py of the demo for some seconds, one display after the other:
// each shows each of its screens, and counts.
func TestExamplePython(t *testing.T) {
	b := unstaged()
	im, err := firmware.New(&b, 0)
	if err != nil {
		t.Fatal(err)
	}
	dir, v := write(t, im, MicroPython)
	main, err := os.ReadFile(filepath.Join(dir, "main.py"))
	if err != nil {
		t.Fatal(err)
	}
	// what waits is told to stop at a second's end, which the harness sees as a call's end
	s := python(t, im, dir, v, "testdata/machine.py")
	text := strings.ReplaceAll(string(main), "    while True:", "    for second in range(6):")
	text = strings.ReplaceAll(text, "from time import sleep_ms", "import time; sleep_ms = time.sleep_ms")
	text = strings.ReplaceAll(text, "__name__ == \"__main__\"", "True")
	status, err := s.do(fmt.Sprintf("exec(%q)", text))
	if err != nil || status != 0 {
		t.Fatalf("%v: %s", err, s.out.Text())
	}
	m := &im.Modules[0]
	values := m.Starts()
	for i := range m.Values {
		if m.Values[i].Name == "Tide" {
			values[i].Units += 5
		}
	}
	mo := s.wire.modules[0].rig.Moment()
	glass := mo.Glass(&m.Display, 0.9)
	var codes []byte
	for _, c := range glass.Cells {
		codes = append(codes, c.Code)
	}
	if want := m.Shows(5%len(m.Screens), values); string(codes) != string(want) {
		t.Errorf("after six seconds % X, want % X", codes, want)
	}
}
