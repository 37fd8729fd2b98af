package replay

import (
	"fmt"
	"sort"
	"time"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/prove/capture"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
)

// momentEach is each how many operations the module's state is kept.
const momentEach = 512

// Until is how many operations there are up to a time.
func (r *Replay) Until(at time.Duration) int {
	return sort.Search(len(r.Operations), func(i int) bool { return r.Operations[i].At > at })
}

// At is the module as it stands at a time of the recording: the state that was kept last before it, and the operations since.
func (r *Replay) At(at time.Duration) rig.Moment {
	n := r.Until(at)
	k := n / momentEach
	mo := r.before(k)
	if k < len(r.kept) { // else just as many as were kept, and no more
		for i := k * momentEach; i < n; i++ {
			op := &r.Operations[i]
			repeat(&mo.Controllers[int(op.Enable)%2], r.origin+op.At, op)
		}
	}
	mo.At = r.origin + at
	return r.lit(mo, at)
}

// before is the state that was kept k-th, which nobody observes any more; that at the end where fewer were kept.
func (r *Replay) before(k int) rig.Moment {
	if k >= len(r.kept) {
		return r.rig.Moment()
	}
	mo := r.kept[k]
	for i := range mo.Controllers {
		mo.Controllers[i].Observe(nil)
	}
	return mo
}

// lit is a moment with the backlight as it was at a time.
func (r *Replay) lit(mo rig.Moment, at time.Duration) rig.Moment {
	i := sort.Search(len(r.lights), func(i int) bool { return r.lights[i].at > at }) - 1
	mo.Pins &^= link.Backlight
	if i >= 0 && r.lights[i].on || r.wires.Bare() && !r.found.Lines.Has("BL") { // fed by itself
		mo.Pins |= link.Backlight
	}
	return mo
}

// repeat lets a controller take an operation again at its time, by its pins, so that what is lost is lost again.
func repeat(c *hd44780.Controller, at time.Duration, op *Operation) {
	p := hd44780.Pins(op.Byte)
	if op.RS {
		p |= hd44780.RS
	}
	if op.RW {
		p |= hd44780.RW
	}
	pulse := func(p hd44780.Pins) {
		c.HoldEnable(p)
		c.Drive(at, p|hd44780.E)
		c.Drive(at, p)
	}
	if c.FourBit {
		c.Low = false
		pulse(p&hd44780.DataPins | op.opened)
		p = p&^hd44780.DataPins | p<<4&hd44780.DataPins
	}
	pulse(p)
}

// Says is what an operation means to the module, with the character that it writes.
func (r *Replay) Says(op *Operation) string {
	if op.Kind() == hd44780.WriteData {
		if ch, ok := r.module.ROM.Rune(op.Byte); ok && ch != ' ' {
			return fmt.Sprintf("Write data: 0x%02X, '%c'", op.Byte, ch)
		}
	}
	return r.module.Family.Explain(op.Operation)
}

// Came are the bytes on the bus, or into the register, that end from a time to another.
func (r *Replay) Came(from, to time.Duration) []capture.Byte {
	find := func(at time.Duration) int {
		return sort.Search(len(r.Traffic), func(i int) bool { return r.Traffic[i].At >= at })
	}
	return r.Traffic[find(from):find(to+1)]
}

// Module is that into which the recording is played.
func (r *Replay) Module() *module.Module { return &r.module }

// GlassAt is what the module shows at a time, with its usual contrast.
func (r *Replay) GlassAt(at time.Duration) rig.Glass {
	mo := r.At(at)
	return r.glassOf(&mo)
}

func (r *Replay) glassOf(mo *rig.Moment) rig.Glass {
	return mo.Glass(&r.module, r.module.UsualContrast())
}
