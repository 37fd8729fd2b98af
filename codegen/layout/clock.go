package layout

import "slatebell/core/ship/firmware"

// Conversion is a conversion of a clock's format.
type Conversion struct {
	Letter byte
	Says   string
	number bool // it adds digits
}

var conversions = []Conversion{
	{'H', "hour", true},
	{'I', "hour of twelve", true},
	{'M', "minute", true},
	{'S', "second", true},
	{'p', "AM or PM", false},
	{'d', "day", true},
	{'e', "day, with a space", true},
	{'m', "month", true},
	{'y', "year of the century", true},
	{'Y', "year", true},
	{'j', "day of the year", true},
	{'a', "weekday", false},
	{'A', "whole weekday", false},
	{'b', "month's name", false},
	{'B', "month's whole name", false},
}

// Clocks is what the clocks of a bench need.
type Clocks struct {
	Weekdays, Months, Names, Numbers, YearDay, Twelve bool
	Used                                              []Conversion
}

// newClocks finds out which conversions clocks need.
func newClocks(im *firmware.Image) (c Clocks) {
	used := map[byte]bool{}
	for i := range im.Modules {
		for k := range im.Modules[i].Places {
			for _, piece := range im.Modules[i].Places[k].Format {
				used[piece.Conversion] = true
			}
		}
	}
	for _, v := range conversions {
		if used[v.Letter] {
			c.Used = append(c.Used, v)
			c.Numbers = c.Numbers || v.number
		}
	}
	c.Weekdays, c.Months = used['a'] || used['A'], used['b'] || used['B']
	c.Names, c.YearDay, c.Twelve = c.Weekdays || c.Months, used['j'], used['I']
	return c
}
