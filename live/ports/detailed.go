//go:build !darwin

package ports

import "go.bug.st/serial/enumerator"

// detailed lists ports with what USB tells of them.
func detailed() (out []Port, err error) {
	found, err := enumerator.GetDetailedPortsList()
	for _, p := range found {
		out = append(out, Port{Name: p.Name, USB: p.IsUSB, VID: p.VID, PID: p.PID, Serial: p.SerialNumber, Product: p.Product})
	}
	return out, err
}
