package hd44780_test

import (
	"fmt"

	"slatebell/core/part/hd44780"
)

// Instructions and data are operations, which say what they do.
func ExampleOperation() {
	for _, op := range []hd44780.Operation{hd44780.Command(hd44780.ClearByte), hd44780.Command(0xC0), hd44780.Data('A')} {
		fmt.Printf("RS %v %02X: %s\n", op.RS, op.Byte, op.Explain())
	}
	// Output:
	// RS false 01: Clear display
	// RS false C0: Set DDRAM address: 0x40
	// RS true 41: Write data: 0x41
}
