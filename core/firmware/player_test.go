package firmware_test

import (
	"bytes"
	"math/rand/v2"
	"testing"

	"slatebell/core/firmware"
	"slatebell/core/firmware/firmtest"
	"slatebell/core/rig"
)

// TestPlayer makes calls at random for benches at random and plays what is sent into the
// rig: after every call the glass shows just what it is to show, and no limit is broken.
func TestPlayer(t *testing.T) {
	played, held := 0, 0
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 11))
		im, err := firmware.New(firmtest.Bench(r))
		if err != nil {
			continue // more glyphs than slots: said of it
		}
		for i := range im.Modules {
			m := &im.Modules[i]
			played++
			if m.Held {
				held++
			}
			calls := firmtest.Calls(r, m, 25)
			for n := range len(calls) + 1 {
				if n < len(calls) && n%6 != 0 {
					continue
				}
				p, err := firmware.NewPlayer(m)
				if err != nil {
					t.Fatal(err)
				}
				p.Begin()
				for k := range n {
					calls[k].Do(p, m)
				}
				hardware, err := rig.New(m.Display, m.Link)
				if err != nil {
					t.Fatal(err)
				}
				hardware.Play(p.Program(), nil)
				mo := hardware.Moment()
				glass := mo.Glass(&m.Display, 0.9)
				var codes []byte
				for _, c := range glass.Cells {
					codes = append(codes, c.Code)
				}
				if want := p.Shows(); !bytes.Equal(codes, want) {
					t.Fatalf("seed %d, module %d (%s, %s), %d calls: % X, want % X", seed, i, m.Display.Geometry.Name, m.Link.Kind, n, codes, want)
				}
				if v, _ := hardware.Violations(); len(v) > 0 {
					t.Fatalf("seed %d, module %d: %+v", seed, i, v[0])
				}
			}
		}
	}
	if played < 300 || held < 20 {
		t.Errorf("%d modules played, of which %d load glyphs as screens need them", played, held)
	}
}
