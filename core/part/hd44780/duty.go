package hd44780

// Duty returns how many lines of dots a controller scans, one after the other: 16 with two lines of
// text, 11 with one line of 5×10 dots, 8 with one of 5×8 (HD44780U data sheet, ADE-207-272(Z), "Function
// Set": number of display lines, character font and duty factor). Each line is driven for one part in so
// many of the time.
func Duty(twoLine, tall bool) int {
	switch {
	case twoLine:
		return 16
	case tall:
		return 11
	}
	return 8
}
