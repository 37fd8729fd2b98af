package c99

import (
	"strings"

	"slatebell/codegen/layout"
)

// conversions are what adds each conversion of a clock's format; PAD stands for the character
// before a number that is too short, where others than 0 are used.
var conversions = map[byte]string{
	'H': "add_number(time->hour, 2PAD)",
	'I': "add_number(hour ? hour : 12u, 2PAD)",
	'M': "add_number(time->minute, 2PAD)",
	'S': "add_number(time->second, 2PAD)",
	'p': "add(time->hour < 12u ? 'A' : 'P');\n            add('M')",
	'd': "add_number(time->day, 2PAD)",
	'e': "add_number(time->day, 2, ' ')",
	'm': "add_number(time->month, 2PAD)",
	'y': "add_number(time->year % 100u, 2PAD)",
	'Y': "add_number(time->year, 4PAD)",
	'j': "add_number(year_day(time), 3PAD)",
	'a': "add_name(weekdays, weekday(time), 3)",
	'A': "add_name(weekdays, weekday(time), 9)",
	'b': "add_name(months, (uint8_t)(time->month - 1u), 3)",
	'B': "add_name(months, (uint8_t)(time->month - 1u), 9)",
}

type clockCase struct{ Letter, Says, Do string }

// clockCases writes the conversions that clocks use.
func clockCases(c *layout.Clocks, padded bool) (out []clockCase) {
	pad := ""
	if padded {
		pad = ", '0'"
	}
	for _, v := range c.Used {
		out = append(out, clockCase{string(v.Letter), v.Says, strings.ReplaceAll(conversions[v.Letter], "PAD", pad)})
	}
	return out
}
