package c99

import (
	"fmt"
	"slices"
	"strings"

	"slatebell/core/ship/firmware"
)

// flags are what avr-gcc is told, in the Makefile and by Build.
type flags struct{ C, Small, AVR, Link string }

var usualFlags = flags{
	C:     "-std=c99 -Os -Wall -Wextra -Wconversion -pedantic",
	Small: "-fno-move-loop-invariants -fno-inline-small-functions -fno-tree-pre -fno-tree-dominator-opts",
	AVR:   "-DF_CPU=16000000UL -mrelax",
	Link:  "-ffunction-sections -fdata-sections -flto -Wl,--gc-sections",
}

// ELF is the file that the example is built as.
const ELF = "firmware.elf"

// Build returns what avr-gcc is told to build the example of a bench for its own host, in the
// directory of its files, as its Makefile does; an error where the host is no ATmega that it can
// be built for.
func Build(im *firmware.Image) ([]string, error) {
	v, err := New(im)
	if err != nil {
		return nil, err
	}
	mcu := strings.ToLower(im.Host.Chip)
	if !slices.Contains(v.Targets, mcu) {
		return nil, fmt.Errorf("an %s is not what avr-gcc builds this program for; expected a host with an ATmega328P or an ATmega2560", im.Host.Chip)
	}
	f := &v.Flags
	args := append([]string{"-mmcu=" + mcu}, strings.Fields(strings.Join([]string{f.C, f.AVR, f.Small, f.Link}, " "))...)
	args = append(args, "-o", ELF, v.File+".c", "port_avr.c")
	if v.Reads.Any() {
		args = append(args, "inputs.c")
	}
	return append(args, "main.c"), nil
}
