package replay

import (
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
)

// GeometryOf is the size of module that operations are likeliest for, by the addresses that they begin at and how far they write: a name as
// module.Geometries has it.
func GeometryOf(list []Operation) string {
	twoLines, started, inCGRAM := true, map[byte]bool{}, false
	var ac byte
	var most [2]int // columns written of each line
	for i := range list {
		op := &list[i]
		if op.RW {
			continue
		}
		switch op.Kind() {
		case hd44780.FunctionSet:
			twoLines = op.Byte&hd44780.TwoLine != 0
		case hd44780.Clear, hd44780.Home:
			ac, inCGRAM = 0, false
		case hd44780.SetCGRAM:
			inCGRAM = true
		case hd44780.SetDDRAM:
			ac, inCGRAM = op.Byte&0x7F, false
			started[ac] = true
		case hd44780.WriteData:
			if !inCGRAM {
				line, col := 0, int(ac)
				if twoLines {
					line, col = int(ac>>6), int(ac&0x3F)
				}
				most[line] = max(most[line], col+1)
				switch ac++; {
				case twoLines && ac == 0x28:
					ac = 0x40
				case twoLines && ac == 0x68, !twoLines && ac == 0x50:
					ac = 0
				}
			}
		}
	}
	far := max(most[0], most[1])
	fits := func(names ...string) string {
		for _, n := range names {
			if g, err := module.ParseGeometry(n); err == nil && far <= g.Cols {
				return n
			}
		}
		return names[len(names)-1]
	}
	switch {
	case !twoLines:
		return fits("8x1", "16x1", "20x1")
	case started[0x14] || started[0x54]:
		return "20x4"
	case started[0x10] || started[0x50]:
		return "16x4"
	case far > 24 && far <= 40 && most[0] == most[1]: // rows that follow each other in memory are written in one go
		return "20x4"
	}
	return fits("8x2", "16x2", "20x2", "24x2", "40x2")
}
