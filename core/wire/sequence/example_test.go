package sequence_test

import (
	"fmt"
	"log"

	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// The letter A on a backpack: each byte that the expander's outputs take.
func ExampleCompile() {
	geometry, err := module.ParseGeometry("8x1")
	if err != nil {
		log.Fatal(err)
	}
	m := module.Module{Geometry: geometry, Technology: module.LCD, ROM: charrom.A00()}
	wired := link.New(link.Backpack)
	wired.Backlight = true
	program, err := sequence.Compile(m, wired, []byte("A       "), sequence.Options{})
	if err != nil {
		log.Fatal(err)
	}
	for _, step := range program.Steps[:2] {
		fmt.Print(step.Op.Explain(), ":")
		for _, word := range program.Words[step.First : step.First+step.Count] {
			fmt.Print(" ", program.Coder.Format(word))
		}
		fmt.Println()
	}
	// Output:
	// Set DDRAM address: 0x00: 88 8C 88 0C 08
	// Write data: 0x41: 49 4D 49 1D 19
}
