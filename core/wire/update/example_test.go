package update_test

import (
	"fmt"

	"slatebell/core/wire/update"
)

// Of "Tide 3.2" two characters become others: the cheapest is an address and a run of characters.
func ExampleNew() {
	memory := update.Memory{Lines: 2, Columns: 40}
	cells := func(text string) []int {
		out := make([]int, memory.Size())
		for i := range out {
			out[i] = ' '
		}
		for i := range text {
			out[i] = int(text[i])
		}
		return out
	}
	state := update.State{Cells: cells("Tide 3.2"), At: update.Unknown}
	goal := update.Goal{Cells: cells("Tide 4.1"), Cursor: update.Unknown}
	const each = 37_000 // nanoseconds, whatever comes after whatever
	costs := update.Costs{Busy: [4]int64{each, each, each, 1_520_000}}
	for class := range costs.After {
		costs.After[class] = [2]int64{each, each}
	}
	ops, _ := update.New(memory, state, goal, costs, update.Allowed{})
	for _, op := range ops {
		switch op.Kind {
		case update.Address:
			fmt.Println("address of place", op.Index)
		case update.Write:
			fmt.Printf("write %q\n", op.Code)
		}
	}
	// Output:
	// address of place 5
	// write '4'
	// write '.'
	// write '1'
}
