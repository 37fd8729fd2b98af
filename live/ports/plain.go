//go:build darwin

package ports

import (
	"strings"

	"go.bug.st/serial"
)

// detailed lists ports by their names: what USB tells of them takes cgo on this system.
func detailed() (out []Port, err error) {
	names, err := serial.GetPortsList()
	for _, name := range names {
		if !strings.HasPrefix(name, "/dev/tty.") { // each is there twice; cu. does not wait for a modem
			out = append(out, Port{Name: name, USB: strings.Contains(name, "usb")})
		}
	}
	return out, err
}
