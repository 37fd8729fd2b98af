package codegen

import (
	"fmt"
	"strings"

	"slatebell/core/ship/firmware"
)

// conversion is a conversion of a clock's format as both languages write it; PAD stands for
// the character before a number that is too short, where others than 0 are used.
type conversion struct {
	letter    byte
	says      string
	c, python string
}

var conversions = []conversion{
	{'H', "hour", "add_number(time->hour, 2PAD)", "self.add_number(t[3], 2)"},
	{'I', "hour of twelve", "add_number(hour ? hour : 12u, 2PAD)", "self.add_number(t[3] % 12 or 12, 2)"},
	{'M', "minute", "add_number(time->minute, 2PAD)", "self.add_number(t[4], 2)"},
	{'S', "second", "add_number(time->second, 2PAD)", "self.add_number(t[5], 2)"},
	{'p', "AM or PM", "add(time->hour < 12u ? 'A' : 'P');\n            add('M')", `self.add_codes(b"AM" if t[3] < 12 else b"PM")`},
	{'d', "day", "add_number(time->day, 2PAD)", "self.add_number(t[2], 2)"},
	{'e', "day, with a space", "add_number(time->day, 2, ' ')", "self.add_number(t[2], 2, 0x20)"},
	{'m', "month", "add_number(time->month, 2PAD)", "self.add_number(t[1], 2)"},
	{'y', "year of the century", "add_number(time->year % 100u, 2PAD)", "self.add_number(t[0] % 100, 2)"},
	{'Y', "year", "add_number(time->year, 4PAD)", "self.add_number(t[0], 4)"},
	{'j', "day of the year", "add_number(year_day(time), 3PAD)", "self.add_number(self.year_day(t), 3)"},
	{'a', "weekday", "add_name(weekdays, weekday(time), 3)", "self.add_name(self.WEEKDAYS[self.weekday(t)], 3)"},
	{'A', "whole weekday", "add_name(weekdays, weekday(time), 9)", "self.add_name(self.WEEKDAYS[self.weekday(t)], 9)"},
	{'b', "month's name", "add_name(months, (uint8_t)(time->month - 1u), 3)", "self.add_name(self.MONTHS[t[1] - 1], 3)"},
	{'B', "month's whole name", "add_name(months, (uint8_t)(time->month - 1u), 9)", "self.add_name(self.MONTHS[t[1] - 1], 9)"},
}

// clocks is what the clocks of a bench need.
type clocks struct {
	Weekdays, Months, Names, Numbers, YearDay, Twelve bool
	Cases, Python                                     []clockCase
}

type clockCase struct{ Letter, Says, Do string }

// newClocks finds out which conversions clocks need.
func newClocks(im *firmware.Image, padded bool) (c clocks) {
	pad := ""
	if padded {
		pad = ", '0'"
	}
	used := map[byte]bool{}
	for i := range im.Modules {
		for k := range im.Modules[i].Places {
			for _, piece := range im.Modules[i].Places[k].Format {
				used[piece.Conversion] = true
			}
		}
	}
	for _, v := range conversions {
		if used[v.letter] {
			c.Cases = append(c.Cases, clockCase{string(v.letter), v.says, strings.ReplaceAll(v.c, "PAD", pad)})
			c.Python = append(c.Python, clockCase{fmt.Sprintf("0x%02X", v.letter), v.says, v.python})
			c.Numbers = c.Numbers || strings.Contains(v.c, "add_number")
		}
	}
	c.Weekdays, c.Months = used['a'] || used['A'], used['b'] || used['B']
	c.Names, c.YearDay, c.Twelve = c.Weekdays || c.Months, used['j'], used['I']
	return c
}
