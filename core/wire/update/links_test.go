package update_test

import (
	"math/rand/v2"
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
)

// TestCheapestOnLinks holds plans against going through everything by the costs of
// real links: all four, slow and fast, with every way to wait and to group.
func TestCheapestOnLinks(t *testing.T) {
	rng := rand.New(rand.NewPCG(10, 9))
	g, err := module.ParseGeometry("16x2")
	if err != nil {
		t.Fatal(err)
	}
	m := module.Module{Geometry: g, Technology: module.LCD, ROM: charrom.A00()}
	links := 0
	for _, kind := range link.Kinds {
		for _, waits := range []sequence.Waits{sequence.WorstCase, sequence.Typical, sequence.PollBusy} {
			for _, change := range []func(l *link.Link){
				func(*link.Link) {},
				func(l *link.Link) { l.Grouping, l.Setup = link.PerOperation, link.SetupBefore },
				func(l *link.Link) { l.Grouping, l.Speed, l.PinTime = link.PerByte, l.Speed/2, 20*time.Microsecond },
				func(l *link.Link) {
					if l.Kind == link.ShiftReg {
						l.Speed = 4 * physic.MegaHertz
					}
					l.PinTime = 500 * time.Nanosecond
				},
			} {
				l := link.New(kind)
				change(&l)
				if waits == sequence.PollBusy && kind != link.ShiftReg {
					l.ReadWrite = true
				}
				b, err := sequence.NewBuilder(m, l, sequence.Options{Waits: waits})
				if err != nil {
					continue // it cannot be read over this link
				}
				links++
				for range 12 {
					update.HoldRandom(t, rng, b.Costs())
				}
			}
		}
	}
	if links < 40 {
		t.Errorf("%d links", links)
	}
}
