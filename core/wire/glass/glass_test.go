package glass

import (
	"testing"

	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/wire/rig"
)

// TestSee looks at glasses of two rows whose dots are as strong as is said, and calls
// them by their class.
func TestSee(t *testing.T) {
	rom := charrom.A00()
	for _, c := range []struct {
		name string
		on   bool
		bare bool // the second row is not scanned
		tech module.Technology
		look module.Look
		text string
		want Class
	}{
		{"text", true, false, module.LCD, module.Look{Lit: 1, Dark: 0.04}, "Tide", Characters},
		{"no text", true, false, module.LCD, module.Look{Lit: 1, Dark: 0.04}, "    ", Blank},
		{"too little", true, false, module.LCD, module.Look{Lit: 0.2}, "Tide", Blank},
		{"a little", true, false, module.LCD, module.Look{Lit: 0.5}, "Tide", Faint},
		{"too much", true, false, module.LCD, module.Look{Lit: 1, Dark: 0.95}, "Tide", AllBlocks},
		{"as it is reset", false, true, module.LCD, module.Look{Lit: 1, Dark: 0.92}, "Tide", BlockRow},
		{"reset, contrast off", false, true, module.LCD, module.Look{Lit: 0.2, Dark: 0.1}, "Tide", Blank},
		{"off", false, false, module.LCD, module.Look{Lit: 1, Dark: 0.04}, "Tide", Blank},
		{"a tube at a quarter", true, false, module.VFD, module.Look{Lit: 0.25}, "Tide", Characters},
		{"a tube that is off", false, false, module.VFD, module.Look{Lit: 1}, "Tide", Blank},
	} {
		g := rig.Glass{Cols: 2, Rows: 2, CellRows: 8, On: c.on, Look: c.look}
		for i := range 4 {
			g.Cells = append(g.Cells, rig.ShownCell{Code: c.text[i], Dots: rom.Dots(c.text[i]), Scanned: !c.bare || i < 2})
		}
		v := See(&g, c.tech, nil)
		if v.Class() != c.want {
			t.Errorf("%s: %s, want %s", c.name, v.Class(), c.want)
		}
		same := See(&g, c.tech, nil)
		if same.Key() != v.Key() {
			t.Errorf("%s: two looks differ", c.name)
		}
		g.Light = true
		if lit := See(&g, c.tech, nil); lit.Key() == v.Key() {
			t.Errorf("%s: the light makes no difference", c.name)
		}
	}
}

// TestCells packs dots and takes them out again.
func TestCells(t *testing.T) {
	rom := charrom.A00()
	seen := map[Cell]bool{}
	for code := range 256 {
		dots, below := rom.Dots(byte(code)), [3]byte{byte(code) & 0x1F, 0x11, 0x0A}
		c := Of(dots, below)
		if d, b := c.Unpack(); d != dots || b != below || c.Shade() != 0 || c.Faint() || c.Dots() != c {
			t.Errorf("code %02X comes out as %v, %v", code, d, b)
		}
		seen[c|Grey|faintDots] = true
	}
	for c := range seen {
		if c.Shade() != Grey || !c.Faint() || c.Dots()&(Grey|Dark|faintDots) != 0 {
			t.Errorf("%x: shade %x", c, c.Shade())
		}
	}
}
