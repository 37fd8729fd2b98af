package codegen

import (
	"fmt"

	"slatebell/core/firmware"
)

func writeMicroPython(im *firmware.Image) ([]File, error) { return nil, fmt.Errorf("not yet") }
