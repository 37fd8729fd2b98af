package run_test

import (
	"fmt"
	"log"

	"slatebell/core/bench"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
)

// Once round the loop for a screen of a bench whose text does not fit: what the simulated glass shows, and
// what is found.
func ExampleDo() {
	b := bench.New("Boathouse")
	b.Modules[0].Screens[0].Rows = []string{"Boats out today: 12"}
	setup, err := testbed.Of(&b, testbed.At{})
	if err != nil {
		log.Fatal(err)
	}
	r, err := run.Do(&setup, run.Options{})
	if err != nil {
		log.Fatal(err)
	}
	for _, cell := range r.Last().Glass(&r.Module, r.Contrast).Cells[:16] {
		fmt.Printf("%c", cell.Code)
	}
	fmt.Println("|")
	for _, f := range r.Findings {
		fmt.Println(f.Severity, f.Code)
	}
	// Output:
	// Boats out today:|
	// error screen.row-too-long
}
