// Package i2ctext reads lists of decoded I²C bytes: what decoders print line by line ("Address write: 27", "Data write: 0C", "ACK"), transactions in
// a line ("27 W: 0C 08", "[4E 0C 08]", "S 4E A 0C A P"), and tables with columns of addresses and data. They become a recording of SDA and SCL: their
// levels follow from the bytes, their times are made up.
package i2ctext

import (
	"bufio"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"slatebell/core/prove/capture"
)

// What is made up of times (ours): a bit takes so long that after each byte any instruction is done, also clear, and the waits of an initialisation
// lie between the bytes of one; and how long nothing comes between transactions.
const (
	bit     = 600 * time.Microsecond
	between = 4 * time.Millisecond
)

// maxLine is how long a line may be.
const maxLine = 1 << 16

// Levels of the two channels.
const (
	sda = 1 << iota
	scl
)

// kind is what happens on a bus.
type kind uint8

const (
	start kind = iota
	stop
	octet // a byte, with its acknowledge
)

// event is one of them.
type event struct {
	kind kind
	b    byte
	nack bool
}

// Reader reads a list as a recording of SDA and SCL. Use NewReader.
type Reader struct {
	in      *bufio.Scanner
	line    int
	table   *table // of a table's columns; nil for other lists
	address int    // of the table's transaction; −1: none is open
	held    *event // a byte whose acknowledge may come in the next line
	open    bool   // a transaction is
	queue   []capture.Change
	now     time.Duration
	levels  uint64
	begun   bool
	ended   bool
}

// NewReader reads a list.
func NewReader(r io.Reader) *Reader {
	l := &Reader{in: bufio.NewScanner(r), address: -1, levels: sda | scl}
	l.in.Buffer(make([]byte, maxLine), maxLine)
	return l
}

// Channels are SDA and SCL.
func (*Reader) Channels() []string { return []string{"SDA", "SCL"} }

// Step is a nanosecond: times are made up.
func (*Reader) Step() time.Duration { return 1 }

// Untimed says that they are.
func (*Reader) Untimed() bool { return true }

var (
	word     = regexp.MustCompile(`(?i)\b(address|data) (write|read): *(?:0x)?([0-9a-f]{1,2})\b`)
	sign     = regexp.MustCompile(`(?i)(?:^|[\s:])(start repeat|repeated start|restart|start|stop|nack|nak|ack)\s*$`)
	silent   = regexp.MustCompile(`(?i)(?:^|[\s:])(?:write|read|[01])\s*$|: *(?:bit|warning)`)
	directed = regexp.MustCompile(`(?i)^\s*(?:(w|r|write|read)\s+(?:to\s+|from\s+)?(?:0x)?([0-9a-f]{2})|(?:0x)?([0-9a-f]{2})\s+(w|r|write|read))\s*[:,]?\s+(.*)$`)
	framed   = regexp.MustCompile(`(?i)^\s*(?:\[|s\b)`)
	token    = regexp.MustCompile(`(?i)^(?:0x)?([0-9a-f]{2})([an~+-]?)$`)
)

// Looks reports whether the beginning of a file is that of such a list.
func Looks(head []byte) bool {
	n := 0
	for line := range strings.Lines(strings.TrimPrefix(string(head), "\ufeff")) {
		line = strings.TrimSpace(line)
		if line == "" || line[0] == '#' {
			continue
		}
		if n == 0 && columns(line) != nil || word.MatchString(line) || directed.MatchString(line) || framed.MatchString(line) && strings.ContainsAny(line, " ") {
			return true
		}
		if n++; n > 60 {
			break
		}
	}
	return false
}

// Next returns the levels from the next time on at which one changes. Its error names the line.
func (l *Reader) Next() (c capture.Change, err error) {
	for len(l.queue) == 0 {
		if !l.begun {
			l.begun = true
			return capture.Change{Levels: l.levels}, nil
		}
		if l.ended {
			return c, io.EOF
		}
		if err := l.more(); err != nil {
			return c, err
		}
	}
	c, l.queue = l.queue[0], l.queue[1:]
	return c, nil
}

// more reads a line, and lets its events happen.
func (l *Reader) more() error {
	if !l.in.Scan() {
		if err := l.in.Err(); err != nil {
			return fmt.Errorf("line %d: %w", l.line+1, err)
		}
		l.ended = true
		l.release()
		l.close()
		return nil
	}
	l.line++
	text := strings.TrimSpace(strings.TrimPrefix(l.in.Text(), "\ufeff"))
	if text == "" || text[0] == '#' {
		return nil
	}
	if l.line == 1 {
		if l.table = columns(text); l.table != nil {
			return nil
		}
	}
	if l.table != nil {
		return l.row(text)
	}
	return l.plain(text)
}

// plain reads a line of a list that is no table.
func (l *Reader) plain(text string) error {
	if m := word.FindStringSubmatch(text); m != nil {
		v, _ := strconv.ParseUint(m[3], 16, 8)
		b := byte(v)
		if strings.EqualFold(m[1], "address") {
			if b > 0x7F {
				return fmt.Errorf("line %d: address 0x%02X; expected one of seven bits, up to 0x7F", l.line, b)
			}
			b = b<<1 | direction(m[2])
			if !l.open {
				l.do(event{kind: start})
			}
		}
		l.release()
		l.held = &event{kind: octet, b: b}
		return nil
	}
	if m := sign.FindStringSubmatch(text); m != nil {
		switch strings.ToLower(m[1]) {
		case "ack":
			l.release()
		case "nack", "nak":
			if l.held != nil {
				l.held.nack = true
			}
			l.release()
		case "stop":
			l.close()
		default:
			l.release()
			l.do(event{kind: start})
		}
		return nil
	}
	if m := directed.FindStringSubmatch(text); m != nil {
		address, way := m[2]+m[3], m[1]+m[4]
		return l.transaction(address, way, m[5])
	}
	if framed.MatchString(text) {
		return l.frame(text)
	}
	if silent.MatchString(text) {
		return nil
	}
	return fmt.Errorf("line %d: %.60q; expected what a decoder prints, such as \"Data write: 0C\", or a transaction such as \"27 W: 0C 08\" or \"[4E 0C 08]\"", l.line, text)
}

// direction is bit 0 of an address's byte.
func direction(way string) byte {
	if strings.HasPrefix(strings.ToLower(way), "r") {
		return 1
	}
	return 0
}

// transaction reads the bytes behind an address.
func (l *Reader) transaction(address, way, rest string) error {
	v, err := strconv.ParseUint(address, 16, 8)
	if err != nil || v > 0x7F {
		return fmt.Errorf("line %d: address %q; expected one of seven bits in hexadecimal, up to 7F", l.line, address)
	}
	l.close()
	l.do(event{kind: start})
	l.do(event{kind: octet, b: byte(v)<<1 | direction(way)})
	for _, t := range strings.FieldsFunc(rest, func(r rune) bool { return r == ' ' || r == ',' || r == '\t' }) {
		if err := l.byteOf(t); err != nil {
			return err
		}
	}
	l.close()
	return nil
}

// frame reads a transaction between START and STOP, whose first byte is the address with the direction.
func (l *Reader) frame(text string) error {
	text = strings.NewReplacer("[", " [ ", "]", " ] ", ",", " ").Replace(text)
	for _, t := range strings.Fields(text) {
		switch strings.ToLower(t) {
		case "[", "s", "sr":
			l.release()
			l.do(event{kind: start})
		case "]", "p":
			l.close()
		case "a", "ack":
			l.release()
		case "n", "~a", "na", "nack", "nak":
			if l.held != nil {
				l.held.nack = true
			}
			l.release()
		default:
			m := token.FindStringSubmatch(t)
			if m == nil {
				return fmt.Errorf("line %d: %q; expected a byte in hexadecimal, S, Sr, P, A or N", l.line, t)
			}
			v, _ := strconv.ParseUint(m[1], 16, 8)
			l.release()
			l.held = &event{kind: octet, b: byte(v), nack: m[2] != "" && strings.Contains("nN~-", m[2])}
		}
	}
	l.release()
	return nil
}

// byteOf reads a byte of data.
func (l *Reader) byteOf(t string) error {
	m := token.FindStringSubmatch(strings.Trim(t, `"`))
	if m == nil {
		return fmt.Errorf("line %d: %q; expected a byte in hexadecimal, such as 0C or 0x0C", l.line, t)
	}
	v, _ := strconv.ParseUint(m[1], 16, 8)
	l.do(event{kind: octet, b: byte(v), nack: m[2] != "" && strings.Contains("nN~-", m[2])})
	return nil
}

// table says in which columns a table has what; −1: in none.
type table struct {
	comma                                string
	address, data, way, ack, packet, all int
}

// columns reads the head of a table; nil where it is none.
func columns(text string) *table {
	t := &table{comma: ",", address: -1, data: -1, way: -1, ack: -1, packet: -1}
	for _, s := range []string{";", "\t"} {
		if strings.Contains(text, s) {
			t.comma = s
		}
	}
	names := strings.Split(text, t.comma)
	t.all = len(names)
	for i, name := range names {
		name = strings.ToLower(strings.Trim(strings.TrimSpace(name), `"`))
		switch {
		case strings.Contains(name, "address") && t.address < 0:
			t.address = i
		case strings.HasPrefix(name, "data") || name == "value" || name == "byte":
			t.data = i
		case strings.Contains(name, "read") || strings.Contains(name, "direction") || name == "r/w":
			t.way = i
		case strings.Contains(name, "ack") && !strings.Contains(name, "packet"):
			t.ack = i
		case strings.Contains(name, "packet") || strings.Contains(name, "transaction"):
			t.packet = i
		}
	}
	if t.address < 0 || t.data < 0 {
		return nil
	}
	return t
}

// row reads a line of a table: a byte of data with the address that it went to. Rows of one address, and one packet where that is a column, are a
// transaction.
func (l *Reader) row(text string) error {
	t := l.table
	cells := strings.Split(text, t.comma)
	if len(cells) != t.all {
		return fmt.Errorf("line %d: %d values; expected %d, as in the first line", l.line, len(cells), t.all)
	}
	cell := func(i int) string {
		if i < 0 {
			return ""
		}
		return strings.Trim(strings.TrimSpace(cells[i]), `"`)
	}
	address, err := number(cell(t.address))
	if err != nil {
		return fmt.Errorf("line %d: address %q; expected a number such as 0x27 or 0x4E", l.line, cell(t.address))
	}
	way := direction(cell(t.way))
	of := address
	if address <= 0x7F && !t.eight(address) {
		of = address<<1 | int(way)
	}
	key := of
	if p, err := number(cell(t.packet)); err == nil {
		key |= p << 8
	}
	if key != l.address {
		l.close()
		l.do(event{kind: start})
		l.do(event{kind: octet, b: byte(of)})
		l.address = key
	}
	data, err := number(cell(t.data))
	if err != nil || data > 0xFF {
		return fmt.Errorf("line %d: data %q; expected a byte such as 0x0C", l.line, cell(t.data))
	}
	refused := strings.ToLower(cell(t.ack))
	l.do(event{kind: octet, b: byte(data), nack: slices.Contains([]string{"nak", "nack", "false", "0", "no"}, refused)})
	return nil
}

// eight reports whether an address is that of a write with the direction's bit: none of a display's is so low otherwise.
func (t *table) eight(address int) bool { return address&1 == 0 && address >= 0x40 && t.way < 0 }

// number reads one in any base, as 0x27, 27h or 39; one with a letter is hexadecimal.
func number(text string) (int, error) {
	text = strings.ToLower(text)
	base := 0
	switch {
	case strings.HasSuffix(text, "h"):
		text, base = strings.TrimSuffix(text, "h"), 16
	case !strings.HasPrefix(text, "0x") && strings.ContainsAny(text, "abcdef"):
		base = 16
	case !strings.HasPrefix(text, "0x"):
		base = 10
	}
	n, err := strconv.ParseUint(text, base, 16)
	return int(n), err
}

// release lets a byte happen that waits for its acknowledge.
func (l *Reader) release() {
	if e := l.held; e != nil {
		l.held = nil
		l.do(*e)
	}
}

// close ends a transaction that is open.
func (l *Reader) close() {
	l.release()
	if l.open {
		l.do(event{kind: stop})
	}
	l.address = -1
}

// do lets an event happen on the two lines (UM10204 rev. 7, §3.1).
func (l *Reader) do(e event) {
	switch e.kind {
	case start:
		l.set(bit/8, sda, true)
		l.set(bit/4, scl, true)
		l.set(bit/4, sda, false)
		l.set(bit/4, scl, false)
		l.open = true
	case stop:
		l.set(bit/8, sda, false)
		l.set(bit/4, scl, true)
		l.set(bit/4, sda, true)
		l.now += between
		l.open = false
	case octet:
		if !l.open {
			l.do(event{kind: start})
		}
		for i := range 9 {
			high := e.nack
			if i < 8 {
				high = e.b>>(7-i)&1 == 1
			}
			l.set(bit/8, sda, high)
			l.set(bit*3/8, scl, true)
			l.set(bit/2, scl, false)
		}
	}
}

// set puts a line to a level after some time.
func (l *Reader) set(after time.Duration, line uint64, high bool) {
	l.now += after
	was := l.levels
	if l.levels &^= line; high {
		l.levels |= line
	}
	if l.levels != was {
		l.queue = append(l.queue, capture.Change{At: l.now, Levels: l.levels})
	}
}
