package hd44780

import "testing"

// TestDuty holds the duty factor against the table of the function set (HD44780U data sheet,
// ADE-207-272(Z), table 8): 1/8, 1/11, 1/16; two lines show 5×8 dots only.
func TestDuty(t *testing.T) {
	for _, c := range []struct {
		two, tall bool
		want      int
	}{{false, false, 8}, {false, true, 11}, {true, false, 16}, {true, true, 16}} {
		if got := Duty(c.two, c.tall); got != c.want {
			t.Errorf("two lines %v, 5×10 %v: %d, want %d", c.two, c.tall, got, c.want)
		}
	}
}
