package i2cbus

import (
	"fmt"
	"strings"
	"testing"
)

// TestParts holds addresses against the parts' data sheets, and the reserved ones
// against UM10204 rev. 7, §3.1.12 (all from memory).
func TestParts(t *testing.T) {
	if parts, err := parse(table); err != nil || len(parts) < 30 {
		t.Fatalf("%d parts, %v", len(parts), err)
	}
	for _, c := range []struct{ part, want string }{
		{"PCF8574", "20 21 22 23 24 25 26 27"},
		{"pcf8574a", "38 39 3A 3B 3C 3D 3E 3F"},
		{"MCP23017", "20 21 22 23 24 25 26 27"},
		{"SSD1306", "3C 3D"},
		{"DS3231", "68"},
		{"ADXL345", "1D 53"},
		{"BH1750", "23 5C"},
		{"TCA9548A", "70 71 72 73 74 75 76 77"},
	} {
		p, ok := ByName(c.part)
		if got := strings.Trim(strings.ReplaceAll(fmt.Sprint(p.Addresses), "0x", ""), "[]"); !ok || got != c.want {
			t.Errorf("%s: %s, want %s", c.part, got, c.want)
		}
	}
	for text, want := range map[string]string{"48-4B 53": "[0x48 0x49 0x4A 0x4B 0x53]", "0x53,0x48;48": "[0x48 0x53]", "06-09": "[0x08 0x09]", "76-7F": "[0x76 0x77]"} {
		if got, err := ParseAddresses(text); err != nil || fmt.Sprint(got) != want {
			t.Errorf("%q: %s, %v", text, got, err)
		}
	}
	for text, says := range map[string]string{"": "expected some", "07": "expected some", "4B-48": "lower one first", "80": "7 bits", "g": "7 bits", "48-": "7 bits"} {
		if got, err := ParseAddresses(text); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %s, %v", text, got, err)
		}
	}
	pwm, _ := ByName("PCA9685")
	if pwm.Can(0x70) || !pwm.Can(0x6F) || !pwm.Can(0x71) || !pwm.Can(0x77) || pwm.Can(0x78) || len(pwm.Takes) != 1 || pwm.Takes[0] != 0x70 {
		t.Errorf("PCA9685: %v, takes %v", pwm.Addresses, pwm.Takes)
	}
	if u := Unknown("barometer of ours"); len(u.Addresses) != 112 || u.Addresses[0] != 8 || u.Addresses[111] != 0x77 {
		t.Errorf("an unknown part can have %v", u.Addresses)
	}
	reserved := 0
	for a := range Address(128) {
		if a.Reserved() != "" {
			reserved++
		}
		if (a.Reserved() != "") != (a <= 7 || a >= 0x78) {
			t.Errorf("%s: %q", a, a.Reserved())
		}
		// PCF8574 and PCF8574A data sheets: 0100 A2 A1 A0 and 0111 A2 A1 A0
		p, ok := Expander(a)
		if want := map[Address]string{0b0100: "PCF8574", 0b0111: "PCF8574A"}[a>>3]; p.Name != want || ok != (want != "") {
			t.Errorf("%s is %q", a, p.Name)
		}
	}
	for a, want := range map[Address]string{0: "general call", 1: "CBUS", 2: "format", 3: "future", 4: "high-speed", 7: "high-speed", 0x78: "10-bit", 0x7B: "10-bit", 0x7C: "device ID", 0x7F: "device ID"} {
		if !strings.Contains(a.Reserved(), want) {
			t.Errorf("%s is reserved for %q, want %q", a, a.Reserved(), want)
		}
	}
	if len(At(0x70)) != 2 || len(At(0x27)) != 4 {
		t.Errorf("at 0x70 %v, at 0x27 %v", At(0x70), At(0x27))
	}
}

// TestPads closes every combination of A0–A2 on both families: an open pad counts
// as 1 (PCF8574 and PCF8574A data sheets, from memory).
func TestPads(t *testing.T) {
	for _, c := range []struct {
		a      Address
		closed string
		n      int
	}{
		{0x27, "none", 0}, {0x26, "A0", 1}, {0x25, "A1", 1}, {0x23, "A2", 1}, {0x24, "A0 A1", 2}, {0x22, "A0 A2", 2}, {0x21, "A1 A2", 2}, {0x20, "A0 A1 A2", 3},
		{0x3F, "none", 0}, {0x38, "A0 A1 A2", 3}, {0x3A, "A0 A2", 2},
	} {
		pads := PadsFor(c.a)
		if back, err := ParsePads(c.closed); back != pads || err != nil {
			t.Errorf("%q reads as %s, %v", c.closed, back, err)
		}
		if pads.String() != c.closed || pads.Count() != c.n || pads.At(c.a|7) != c.a {
			t.Errorf("%s: %s closed, %d, back to %s", c.a, pads, pads.Count(), pads.At(c.a|7))
		}
	}
	for _, bad := range []string{"A3", "0A", "A0A1", "all"} {
		if p, err := ParsePads(bad); err == nil {
			t.Errorf("%q reads as %s", bad, p)
		}
	}
	if a := Address(0x27); a.Write() != 0x4E || a.Read() != 0x4F {
		t.Errorf("0x27 is %02X and %02X in 8 bits", a.Write(), a.Read())
	}
}

// FuzzParseAddresses reads anything: what it gives are addresses that a part may
// have, ascending, each once.
func FuzzParseAddresses(f *testing.F) {
	for _, seed := range []string{"48-4B 53", "0x27", "20-27,38-3F", "7F", "-", "48-", ";;"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		list, err := ParseAddresses(text)
		if (err == nil) != (len(list) > 0) {
			t.Errorf("%q: %v, %v", text, list, err)
		}
		for i, a := range list {
			if a.Reserved() != "" || i > 0 && list[i-1] >= a {
				t.Errorf("%q: %v", text, list)
			}
		}
	})
}
