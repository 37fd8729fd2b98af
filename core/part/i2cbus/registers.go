package i2cbus

import "time"

// Registers is a part whose registers are numbered: the first byte of a write is a number, those that follow are
// kept from there on; reads go on from the number, round and round.
type Registers struct {
	Bytes []byte
	next  int
}

// Write takes what is written after the part's address.
func (r *Registers) Write(data []byte) {
	if len(data) == 0 || len(r.Bytes) == 0 {
		return
	}
	r.next = int(data[0]) % len(r.Bytes)
	for _, b := range data[1:] {
		r.Bytes[r.next] = b
		r.next = (r.next + 1) % len(r.Bytes)
	}
}

// Read gives what is read.
func (r *Registers) Read(into []byte) {
	for i := range into {
		if len(r.Bytes) == 0 {
			into[i] = 0xFF
			continue
		}
		into[i] = r.Bytes[r.next]
		r.next = (r.next + 1) % len(r.Bytes)
	}
}

// bcd writes a number below 100 as two decimal digits.
func bcd(n int) byte { return byte(n/10<<4 | n%10) }

// ClockAt is the timekeeping registers of a DS3231, or of a DS1307, at a time: seconds, minutes, hours of 24,
// day of the week, day, month, year (DS3231 data sheet, timekeeping registers, from memory).
func ClockAt(t time.Time) *Registers {
	return &Registers{Bytes: []byte{bcd(t.Second()), bcd(t.Minute()), bcd(t.Hour()), byte(t.Weekday()) + 1, bcd(t.Day()), bcd(int(t.Month())), bcd(t.Year() % 100)}}
}

// ThermometerAt is the temperature register of an LM75 at a temperature, in eighths of a degree Celsius: its first
// byte is whole degrees, rounded down, its second the rest (LM75 data sheet, temperature register, from memory).
func ThermometerAt(eighths int) *Registers {
	return &Registers{Bytes: []byte{byte(eighths >> 3), byte(eighths << 5)}}
}
