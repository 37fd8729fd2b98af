package micropython

import (
	"fmt"

	"slatebell/codegen/layout"
)

// conversions are what adds each conversion of a clock's format.
var conversions = map[byte]string{
	'H': "self.add_number(t[3], 2)",
	'I': "self.add_number(t[3] % 12 or 12, 2)",
	'M': "self.add_number(t[4], 2)",
	'S': "self.add_number(t[5], 2)",
	'p': `self.add_codes(b"AM" if t[3] < 12 else b"PM")`,
	'd': "self.add_number(t[2], 2)",
	'e': "self.add_number(t[2], 2, 0x20)",
	'm': "self.add_number(t[1], 2)",
	'y': "self.add_number(t[0] % 100, 2)",
	'Y': "self.add_number(t[0], 4)",
	'j': "self.add_number(self.year_day(t), 3)",
	'a': "self.add_name(self.WEEKDAYS[self.weekday(t)], 3)",
	'A': "self.add_name(self.WEEKDAYS[self.weekday(t)], 9)",
	'b': "self.add_name(self.MONTHS[t[1] - 1], 3)",
	'B': "self.add_name(self.MONTHS[t[1] - 1], 9)",
}

type clockCase struct{ Letter, Says, Do string }

// clockCases writes the conversions that clocks use.
func clockCases(c *layout.Clocks) (out []clockCase) {
	for _, v := range c.Used {
		out = append(out, clockCase{fmt.Sprintf("0x%02X", v.Letter), v.Says, conversions[v.Letter]})
	}
	return out
}
