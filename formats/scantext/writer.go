package scantext

import (
	"fmt"

	"slatebell/core/part/i2cbus"
)

// Line is how a scanner prints an address that answers.
func Line(a i2cbus.Address) string { return fmt.Sprintf("Found at %s (decimal %d)\n", a, uint8(a)) }
