package pbm

import (
	"bytes"
	"math/rand/v2"
	"os/exec"
	"reflect"
	"strings"
	"testing"

	"slatebell/core/text/picture"
)

// tool runs a program of Debian's netpbm on data.
func tool(t *testing.T, data []byte, name string, args ...string) []byte {
	t.Helper()
	c := exec.Command(name, args...)
	c.Stdin = bytes.NewReader(data)
	var errs bytes.Buffer
	c.Stderr = &errs
	out, err := c.Output()
	if err != nil {
		t.Fatalf("%s: %v, %s", name, err, errs.String())
	}
	return out
}

// TestNetpbm hands random bitmaps, P1 and P4, to netpbm (Debian's package), and
// reads what it makes of them: the other form, and a copy turned left to right
// and back by its own tools.
func TestNetpbm(t *testing.T) {
	if _, err := exec.LookPath("pnmtoplainpnm"); err != nil {
		t.Skip("netpbm is not installed: run make test")
	}
	rng := rand.New(rand.NewPCG(9, 9))
	for range 12 {
		p := picture.NewPlane(1+rng.IntN(70), 1+rng.IntN(20))
		for i := range p.Lit {
			p.Lit[i] = rng.IntN(2) == 0
		}
		var plain, bits bytes.Buffer
		if err := Write(&plain, &p); err != nil {
			t.Fatal(err)
		}
		if err := WriteBits(&bits, &p); err != nil {
			t.Fatal(err)
		}
		for what, data := range map[string][]byte{
			"P4 made plain": tool(t, bits.Bytes(), "pnmtoplainpnm"),
			"P1 made bits":  tool(t, plain.Bytes(), "pamtopnm"),
			"P1":            plain.Bytes(),
			"P4":            bits.Bytes(),
		} {
			if got, err := Read(data); err != nil || !reflect.DeepEqual(got, p) {
				t.Fatalf("%s of %d × %d does not come back: %v", what, p.W, p.H, err)
			}
		}
		mirrored := p.Mirrored()
		if got, err := Read(tool(t, plain.Bytes(), "pamflip", "-lr")); err != nil || !reflect.DeepEqual(got, mirrored) {
			t.Fatalf("what netpbm mirrors is not our mirror: %v", err)
		}
	}
}

// TestRead reads what the format allows, and refuses what it does not. The
// forms are those of Netpbm's pbm(5).
func TestRead(t *testing.T) {
	want := picture.Plane{W: 3, H: 2, Lit: []bool{true, false, true, false, true, false}}
	for _, text := range []string{"P1\n3 2\n101\n010\n", "P1 # a comment\n# another\n3\t2\n1 0 1 0 1 0", "P4 3 2\n\xa0\x40", "P1 3 2 1 #x\n01010 ignored"} {
		if got, err := Read([]byte(text)); err != nil || !reflect.DeepEqual(got, want) {
			t.Errorf("%q: %v, %v", text, got, err)
		}
	}
	for text, what := range map[string]string{
		"P2 1 1 0":     "does not begin with P1 or P4",
		"P1\nx":        "line 2: no width",
		"P1 3":         "no height",
		"P1 0 2":       "0 × 2 dots",
		"P1 9999 1":    "expected 1–8192",
		"P1 3 2\n1012": "line 2: '2' is no dot",
		"P1 3 2 101":   "3 of 6 dots are there",
		"P4 3 2\n\xa0": "1 bytes of dots; 3 × 2 dots take 2",
		"P4 3 2":       "no blank after the height",
	} {
		if _, err := Read([]byte(text)); err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%q: %v, want %q", text, err, what)
		}
	}
}

// FuzzRead reads anything without falling over; what it reads comes back.
func FuzzRead(f *testing.F) {
	f.Add([]byte("P1\n3 2\n101\n010\n"))
	f.Add([]byte("P4 3 2\n\xa0\x40"))
	f.Fuzz(func(t *testing.T, data []byte) {
		p, err := Read(data)
		if err != nil {
			return
		}
		var b bytes.Buffer
		if err := WriteBits(&b, &p); err != nil {
			t.Fatal(err)
		}
		if got, err := Read(b.Bytes()); err != nil || !reflect.DeepEqual(got, p) {
			t.Fatalf("%d × %d does not come back: %v", p.W, p.H, err)
		}
	})
}
