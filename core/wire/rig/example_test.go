package rig_test

import (
	"fmt"
	"log"

	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
)

// A program is compiled for a link, played into the simulated module, and read from its glass.
func Example() {
	geometry, err := module.ParseGeometry("8x2")
	if err != nil {
		log.Fatal(err)
	}
	m := module.Module{Geometry: geometry, Technology: module.LCD, ROM: charrom.A00()}
	wired := link.New(link.Backpack)
	cells := []byte("Tide    3.2 m   ")
	program, err := sequence.Compile(m, wired, cells, sequence.Options{Init: true})
	if err != nil {
		log.Fatal(err)
	}
	r, err := rig.New(m, wired)
	if err != nil {
		log.Fatal(err)
	}
	r.Follow(program)
	moment := r.Moment()
	glass := moment.Glass(&m, m.UsualContrast())
	for row := range glass.Rows {
		for _, cell := range glass.Cells[row*glass.Cols : (row+1)*glass.Cols] {
			fmt.Printf("%c", cell.Code)
		}
		fmt.Println("|")
	}
	fmt.Println(len(program.Words), "words in", program.Finish.Milliseconds(), "ms")
	// Output:
	// Tide    |
	// 3.2 m   |
	// 73 words in 52 ms
}
