// Package i2cbus knows what shares a bus: which addresses a part can have and
// how its pads choose one, which addresses give every part its own with the
// fewest pads changed, and what a scan of the bus answers and means.
//
// The table of parts is embedded. The package stands near the ground of core:
// link takes the expanders' addresses from it, plan asks it about a bench.
package i2cbus

import (
	"bytes"
	_ "embed"
	"encoding/csv"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"
)

// Address is a 7-bit address.
type Address uint8

// String writes an address as the trade does: 0x27.
func (a Address) String() string { return fmt.Sprintf("0x%02X", uint8(a)) }

// Write returns the 8-bit form of the address that begins a write.
func (a Address) Write() uint8 { return uint8(a) << 1 }

// Read returns the 8-bit form of the address that begins a read.
func (a Address) Read() uint8 { return uint8(a)<<1 | 1 }

// FirstFree and LastFree are the ends of the addresses that parts may have.
const FirstFree, LastFree Address = 0x08, 0x77

// Reserved says what an address is reserved for, or "" where a part may have it
// (UM10204 rev. 7, §3.1.12, from memory).
func (a Address) Reserved() string {
	switch {
	case a == 0:
		return "the general call and the START byte"
	case a == 1:
		return "CBUS"
	case a == 2:
		return "another bus format"
	case a == 3:
		return "future purposes"
	case a < FirstFree:
		return "the controller code of high-speed mode"
	case a > LastFree && a < 0x7C:
		return "the 10-bit addresses"
	case a > LastFree:
		return "the device ID"
	}
	return ""
}

// Part is a part that a bus can carry.
type Part struct {
	Name      string // designation
	What      string
	Addresses []Address // that it can have, ascending; none is reserved
	Takes     []Address // that it answers at besides its own
}

// Can reports whether the part can have an address.
func (p *Part) Can(a Address) bool { return slices.Contains(p.Addresses, a) }

// Padded reports whether the part sits on backpacks whose pads A0–A2 choose its
// address: PCF8574 and PCF8574A.
func (p *Part) Padded() bool { return p.Name == "PCF8574" || p.Name == "PCF8574A" }

// Expander returns the expander of backpacks that has an address: PCF8574 at
// 0x20–0x27, PCF8574A at 0x38–0x3F (their data sheets, from memory).
func Expander(a Address) (Part, bool) {
	for _, p := range Expanders() {
		if p.Can(a) {
			return p, true
		}
	}
	return Part{}, false
}

// Expanders returns the parts that sit on backpacks: PCF8574, then PCF8574A.
func Expanders() []Part {
	var out []Part
	for _, p := range Parts() {
		if p.Padded() {
			out = append(out, p)
		}
	}
	return out
}

// Pads are the pads A0–A2 of a backpack that are closed: bit n is An. An open
// pad is pulled high and counts as 1 in the address.
type Pads uint8

// PadsFor returns the pads to close for an expander's address.
func PadsFor(a Address) Pads { return Pads(^a & 7) }

// At returns the address of the same expander with its pads closed so.
func (p Pads) At(a Address) Address { return a&^7 | Address(^p&7) }

// Count returns how many pads are closed.
func (p Pads) Count() int { return int(p&1 + p>>1&1 + p>>2&1) }

// Closed lists the closed pads by name.
func (p Pads) Closed() []string {
	var names []string
	for n := range 3 {
		if p>>n&1 == 1 {
			names = append(names, fmt.Sprintf("A%d", n))
		}
	}
	return names
}

// ParsePads reads what String writes.
func ParsePads(s string) (Pads, error) {
	var p Pads
	for _, word := range strings.Fields(s) {
		if word == "none" {
			continue
		}
		n := strings.Index("A0A1A2", word)
		if len(word) != 2 || n < 0 || n%2 != 0 {
			return 0, fmt.Errorf("pads %q; expected A0, A1 and A2, or none", s)
		}
		p |= 1 << (n / 2)
	}
	return p, nil
}

// String names the closed pads, such as "A0 A2", or none.
func (p Pads) String() string {
	if p&7 == 0 {
		return "none"
	}
	return strings.Join(p.Closed(), " ")
}

//go:embed devices.csv
var table []byte

// Parts returns the parts of the embedded table.
var Parts = sync.OnceValue(func() []Part {
	parts, err := parse(table)
	if err != nil {
		return nil // the tests read it too
	}
	return parts
})

// ByName returns the part of a designation.
func ByName(name string) (Part, bool) {
	for _, p := range Parts() {
		if strings.EqualFold(p.Name, strings.TrimSpace(name)) {
			return p, true
		}
	}
	return Part{}, false
}

// At returns the parts of the table that can have an address.
func At(a Address) []Part {
	var parts []Part
	for _, p := range Parts() {
		if p.Can(a) {
			parts = append(parts, p)
		}
	}
	return parts
}

// Unknown returns a part that is not in the table; it can have any address.
func Unknown(name string) Part {
	p := Part{Name: name, What: "not in the table"}
	for a := FirstFree; a <= LastFree; a++ {
		p.Addresses = append(p.Addresses, a)
	}
	return p
}

// parse reads the table: a line a part with its addresses; behind + stand those
// that it answers at besides its own.
func parse(data []byte) ([]Part, error) {
	rows, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
	if err != nil {
		return nil, err
	}
	parts := make([]Part, 0, len(rows)-1)
	for _, r := range rows[1:] {
		p := Part{Name: r[0], What: r[1]}
		own, besides, _ := strings.Cut(r[2], "+")
		if p.Addresses, err = ParseAddresses(own); err != nil {
			return nil, fmt.Errorf("%s: %w", p.Name, err)
		}
		if besides != "" {
			if p.Takes, err = ParseAddresses(besides); err != nil {
				return nil, fmt.Errorf("%s: %w", p.Name, err)
			}
		}
		p.Addresses = slices.DeleteFunc(p.Addresses, func(a Address) bool { return slices.Contains(p.Takes, a) })
		parts = append(parts, p)
	}
	return parts, nil
}

// ParseAddresses reads addresses in hexadecimal, single ones and ranges, such as
// 48-4B 53. Those that are reserved are left out; they come back ascending, each
// once.
func ParseAddresses(text string) ([]Address, error) {
	var list []Address
	for _, word := range strings.FieldsFunc(text, func(c rune) bool { return c == ' ' || c == ',' || c == ';' }) {
		first, last, ranged := strings.Cut(word, "-")
		if !ranged {
			last = first
		}
		from, err := parseHex(first)
		if err != nil {
			return nil, err
		}
		to, err := parseHex(last)
		if err != nil {
			return nil, err
		}
		if to < from {
			return nil, fmt.Errorf("addresses %q; expected the lower one first", word)
		}
		for a := from; a <= to; a++ {
			if a.Reserved() == "" {
				list = append(list, a)
			}
		}
	}
	if len(list) == 0 {
		return nil, fmt.Errorf("addresses %q; expected some from %s to %s in hexadecimal, such as 48-4B 53", text, FirstFree, LastFree)
	}
	slices.Sort(list)
	return slices.Compact(list), nil
}

func parseHex(word string) (Address, error) {
	n, err := strconv.ParseUint(strings.TrimPrefix(strings.ToLower(word), "0x"), 16, 7)
	if err != nil {
		return 0, fmt.Errorf("address %q; expected 7 bits in hexadecimal, such as 48", word)
	}
	return Address(n), nil
}
