package capture

import (
	"math"
	"strings"

	"slatebell/core/part/hd44780"
)

// How often the traffic of a program has what (ours): data beside instructions, and of each the kinds.
const (
	dataShare     = 0.75
	printedShare  = 0.85 // of data: characters of ASCII
	glyphShare    = 0.13 // rows of glyphs, and slots
	readShare     = 0.05 // of all, where R/W is joined
	unlikelyWrite = 1e-7 // of all: what the controller ignores
)

// evidence is how much likelier, as a logarithm, a byte is in the traffic of a program than among all bytes alike, by RS and the byte; on four lines
// and on eight.
var evidence = map[int][512]float64{4: evidenceOn(4), 8: evidenceOn(8)}

func evidenceOn(width int) (out [512]float64) {
	var share [512]float64
	data := func(b byte, p float64) { share[256|int(b)] += dataShare * p }
	command := func(b byte, p float64) { share[b] += (1 - dataShare) * p }
	// Letters by how often texts have them, roughly; figures, signs and capitals alike (common practice).
	often := " eeetttaaooiinnsshhrrddllccuummwwffggyyppbbvvkk"
	for _, c := range often {
		data(byte(c), 0.45*printedShare/float64(len(often)))
	}
	for c := byte(' '); c < 0x7F; c++ {
		weight := 0.1 / 95
		switch {
		case c >= '0' && c <= '9':
			weight += 0.25 / 10
		case c >= 'A' && c <= 'Z':
			weight += 0.15 / 26
		case strings.IndexByte(":.,-%/", c) >= 0:
			weight += 0.05 / 6
		}
		data(c, printedShare*weight)
	}
	for row := range byte(32) {
		data(row, glyphShare/2/32)
		if row < 8 {
			data(row, glyphShare/2/8)
		}
	}
	for c := 0xA0; c < 0x100; c++ {
		data(byte(c), (1-printedShare-glyphShare)/0x60)
	}
	// Instructions.
	for line := range 2 {
		for col := range 40 {
			p := 0.3 / 80
			if col == 0 || col == 0x14 {
				p += 0.25 / 4
			}
			command(hd44780.DDRAMBase|byte(line*0x40+col), p)
		}
	}
	for a := range byte(64) {
		p := 0.02 / 64
		if a%8 == 0 {
			p += 0.08 / 8
		}
		command(hd44780.CGRAMBase|a, p)
	}
	command(hd44780.ClearByte, 0.08)
	command(hd44780.HomeByte, 0.02)
	for _, one := range []struct {
		b byte
		p float64
	}{
		{0x06, 0.04}, {0x04, 0.002}, {0x05, 0.002}, {0x07, 0.004}, // entry mode
		{0x08, 0.02}, {0x0C, 0.04}, {0x0D, 0.01}, {0x0E, 0.02}, {0x0F, 0.01}, // display on or off, cursor
		{0x28, 0.03}, {0x38, 0.02}, {0x20, 0.01}, {0x30, 0.03}, {0x24, 0.001}, {0x34, 0.001}, // function set
		{0x10, 0.002}, {0x14, 0.004}, {0x18, 0.01}, {0x1C, 0.01}, // shift
	} {
		command(one.b, one.p)
	}
	if width == 4 { // two strobes of the initialisation together
		command(0x33, 0.02)
		command(0x32, 0.02)
		command(0x22, 0.005)
	}
	for i := range out {
		out[i] = math.Log((share[i]*(1-readShare) + unlikelyWrite) * 512)
	}
	return out
}

// readEvidence is that of a read, whatever is read.
var readEvidence = math.Log(readShare * 2)
