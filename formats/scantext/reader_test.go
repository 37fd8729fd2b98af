package scantext

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"slatebell/core/part/i2cbus"
)

// grid is the table that scanners of Linux hosts print (common practice).
const grid = `     0  1  2  3  4  5  6  7  8  9  a  b  c  d  e  f
00:          -- -- -- -- -- -- -- -- -- -- -- -- -- 
10: -- -- -- -- -- -- -- -- -- -- -- -- -- -- -- -- 
20: -- -- -- -- -- -- -- 27 -- -- -- -- -- -- -- -- 
30: -- -- -- -- -- -- -- -- -- -- -- -- 3c -- -- -- 
40: -- -- -- -- -- -- -- -- -- -- -- -- -- -- -- -- 
50: -- -- -- -- -- -- -- -- -- -- -- -- -- -- -- -- 
60: -- -- -- -- -- -- -- -- UU -- -- -- -- -- -- -- 
70: -- -- -- -- -- -- -- --                         
`

// TestRead reads print-outs of every shape that hosts' scanners give (common
// practice; the wording here is ours).
func TestRead(t *testing.T) {
	for _, c := range []struct {
		text     string
		expected string // what ought to answer, in hexadecimal
		found    string
		note     string // part of a note
	}{
		{"Scanning...\nI2C device found at address 0x27  !\ndone\n", "", "27", ""},
		{"Device found at 0x27 (39)\nDevice found at 0x68 (104)\n", "27", "27 68", ""},
		{"Decimal address:  39 | Hexa address:  0x27\n", "", "27", ""},
		{"39", "", "27", "decimal"},
		{"39", "27", "27", "decimal"},
		{"39", "39", "39", "hexadecimal"},
		{"27", "27", "27", "hexadecimal"},
		{"39, 104\n", "", "27 68", "decimal"},
		{"[39, 104]", "27 68", "27 68", ""},
		{">>> i2c.scan()\n[39, 60, 104]\n>>> ", "", "27 3C 68", ""},
		{"['0x27', '0x68']", "", "27 68", ""},
		{`{"devices": [39, 104]}`, "", "27 68", ""},
		{`{"0x27": true, "0x68": true}`, "", "27 68", ""},
		{`[b'\x27', b'\x3f']`, "", "27 3F", ""},
		{"2 devices found: 0x27, 0x68", "", "27 68", ""},
		{"2 devices found: 39 104", "", "27 68", ""},
		{"I2C devices found: 2\n39\n104\n", "", "27 68", ""},
		{"Found 1 device.\nAddress 39\n", "", "27", ""},
		{"Scanning addresses 1 to 127 ...\nfound 39\n", "", "27", ""},
		{"scan 0x08-0x77 at 100 kHz\n0x3F ok\n", "", "3F", ""},
		{"SDA=21 SCL=22\nFound: 39\n", "", "27", ""},
		{"12:33:01.223 -> Found address: 39\n12:33:01.230 -> Found address: 104", "", "27 68", ""},
		{"1. 39\n2. 104\n", "", "27 68", ""},
		{"Device 1: 0x27\nDevice 2: 0x68\n", "", "27 68", ""},
		{"0x27: ACK\n0x28: NACK\n0x29: no response\n", "", "27", ""},
		{"I2C device at 0x27\nUnknown error at address 0x3F\n", "", "27", ""},
		{"0x27, no errors", "", "27", ""},
		{"3C 27 68\n", "", "27 3C 68", ""},
		{"addresses in hex: 27 68", "", "27 68", "hexadecimal"},
		{"addresses, decimal: 39 68", "27 44", "27 44", ""},
		{"27h 68h", "", "27 68", ""},
		{"$27 $3F", "", "27 3F", ""},
		{"0b0100111", "", "27", ""},
		{"B0100111 answers", "", "27", ""},
		{"0x4E", "27", "27", "8-bit"},
		{"0x4E", "", "4E", ""},
		{"0x4E 0x4F", "27", "27", "8-bit"},
		{"78", "27", "27", "8-bit"},
		{"0xD0 0x4E", "", "27 68", "8-bit"},
		{"0x80", "", "40", "8-bit"},
		{"0x7F", "", "7F", ""},
		{strings.Replace(grid, "00:          -- -- -- --", "00:          -- -- -- XX", 1), "", "06 27 3C 68", ""},
		{"0x27 (write 0x4E, read 0x4F)", "", "27", ""},
		{"0x27 0x27\r\n0x27\r\n", "", "27", ""},
		{"0X3f", "", "3F", ""},
		{"PCF8574 at 39, supply 3.3 V, bus at 100000 baud", "", "27", ""},
		{"2026-11-25 14:05 address 39", "", "27", ""},
		{grid, "", "27 3C 68", ""},
		{strings.ReplaceAll(strings.ReplaceAll(grid, "27", "XX"), "--", ".."), "", "27 3C 68", ""},
		{"0x20: .  .  .  .  .  .  .  #\n0x30: .  .  .  .  .  .  .  .  .  .  .  .  .  .  .  *", "", "27 3F", ""},
		{"20 | -- -- -- -- -- -- -- 27 |\n30 | -- -- -- -- -- -- -- -- |", "", "27", ""},
		{strings.ReplaceAll(grid, ":", ""), "", "27 3C 68", ""},
		{"0x20: 0 0 0 0 0 0 0 1\n0x60: 0 0 0 0 0 0 0 0 1", "", "27 68", ""},
		{"39\n104\nTotal devices: 2\n", "", "27 68", ""},
		{"Scan complete: 2 device(s) found.\n#1: 39\n#2: 104", "", "27 68", ""},
		{"20 27 68", "", "14 1B 44", "decimal"}, // a list, no table
	} {
		var expected []i2cbus.Address
		for _, word := range strings.Fields(c.expected) {
			var a i2cbus.Address
			fmt.Sscanf(word, "%X", &a)
			expected = append(expected, a)
		}
		r, err := Read(strings.NewReader(c.text), expected)
		if err != nil {
			t.Errorf("%q: %v", c.text, err)
			continue
		}
		found := strings.Trim(strings.ReplaceAll(fmt.Sprint(r.Found), "0x", ""), "[]")
		if found != c.found {
			t.Errorf("%q, expected %s: found %s, want %s", c.text, c.expected, found, c.found)
		}
		if notes := strings.Join(r.Notes, " "); !strings.Contains(notes, c.note) {
			t.Errorf("%q, expected %s: notes %q, want %q", c.text, c.expected, notes, c.note)
		}
	}
}

func TestNone(t *testing.T) {
	for text, silent := range map[string]bool{
		"": false, "ready\n": false, "Scanning...\nNo I2C devices found\n": true, "[]\n": true, "0 devices found": true, "Nothing found.": true,
		"Error at 0x27": false, "SDA=21, SCL=22": false, strings.ReplaceAll(strings.ReplaceAll(strings.ReplaceAll(grid, "27", "--"), "3c", "--"), "UU", "--"): true,
		"address 300": false, "0x123": false,
	} {
		if r, err := Read(strings.NewReader(text), nil); !errors.Is(err, ErrNone) || r.Silent != silent {
			t.Errorf("%q: %+v, %v", text, r, err)
		}
	}
	if _, err := Read(strings.NewReader(strings.Repeat("39 ", MaxSize)), nil); err == nil || errors.Is(err, ErrNone) {
		t.Errorf("an endless print-out: %v", err)
	}
}

// FuzzRead reads anything: what it finds are addresses of 7 bits, ascending, and
// where something is expected and printed plainly, it is found.
func FuzzRead(f *testing.F) {
	for _, seed := range []string{grid, "39 104", "0x27", "[39]", "20: 27 28\n30: 3c --", "Device 1: 39", "0xD0", "27h", "--\x00", "0b", "B0", "$"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		r, err := Read(strings.NewReader(text), []i2cbus.Address{0x27})
		if err != nil {
			return
		}
		if len(r.Found) == 0 || !slices.IsSorted(r.Found) || len(slices.Compact(slices.Clone(r.Found))) != len(r.Found) || r.Found[len(r.Found)-1] > 0x7F {
			t.Errorf("%q: %v", text, r.Found)
		}
	})
}

// BenchmarkRead reads print-outs of two sizes: time grows with the length.
func BenchmarkRead(b *testing.B) {
	for _, lines := range []int{50, 500} {
		text := strings.Repeat("I2C device found at address 0x27 (39), write 0x4E, read 0x4F\n", lines)
		b.Run(fmt.Sprint(lines), func(b *testing.B) {
			b.SetBytes(int64(len(text)))
			for b.Loop() {
				if _, err := Read(strings.NewReader(text), nil); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
