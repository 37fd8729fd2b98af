package vcd

import (
	"bufio"
	"fmt"
	"io"
	"regexp"
	"strconv"
	"strings"
	"time"

	"slatebell/core/prove/capture"
	"slatebell/formats/rawsamples"
)

// Reader reads a value change dump as a recording: its wires and registers of one bit are channels, and each bit of wider ones. What is unknown
// keeps its level, and what nobody drives is high, as a pull-up holds it. Times are those of the file. Use NewReader.
type Reader struct {
	in       *bufio.Reader
	line     int
	names    []string
	of       map[string]variable
	short    [128]variable // by identifiers of one character
	factor   int64         // of a time in the file, and
	divide   int64         // what it is divided by, for nanoseconds
	levels   uint64
	now      int64
	begun    bool // a value was read
	returned bool // and a change was returned, with last
	last     uint64
	word     []byte
	sampled  time.Duration // how far apart samples are, where a comment says so
}

// variable is a run of channels, the lowest bit first; none where bits is 0.
type variable struct{ first, bits int }

// maxWord is how long a word of a dump may be.
const maxWord = 4096

// NewReader reads the declarations of a dump. Its error names the line, and what was expected there.
func NewReader(r io.Reader) (*Reader, error) {
	v := &Reader{in: bufio.NewReaderSize(r, 1<<20), line: 1, of: map[string]variable{}, factor: 1, divide: 1}
	var scopes []string
	type declared struct{ scope, name string }
	var list []declared
	for {
		word, err := v.next()
		if err == io.EOF {
			return nil, v.wrong("the file ends within its declarations; expected $enddefinitions $end")
		} else if err != nil {
			return nil, err
		}
		switch keyword := string(word); keyword {
		case "$enddefinitions":
			if _, err := v.section(); err != nil {
				return nil, err
			}
			if len(v.names) == 0 {
				return nil, v.wrong("it declares no wire; expected $var wire 1 ! NAME $end")
			}
			twice := map[string]int{}
			for _, d := range list {
				twice[d.name]++
			}
			for i, d := range list { // names that several scopes have are told apart
				if twice[d.name] > 1 && d.scope != "" {
					v.names[i] = d.scope + "." + d.name
				}
			}
			return v, nil
		case "$scope", "$upscope", "$timescale", "$var", "$comment", "$date", "$version":
			parts, err := v.section()
			if err != nil {
				return nil, err
			}
			switch {
			case keyword == "$comment":
				v.remark(strings.Join(parts, " "))
			case keyword == "$scope" && len(parts) > 1:
				scopes = append(scopes, parts[1])
			case keyword == "$upscope" && len(scopes) > 0:
				scopes = scopes[:len(scopes)-1]
			case keyword == "$timescale":
				if err := v.timescale(strings.Join(parts, "")); err != nil {
					return nil, err
				}
			case keyword == "$var":
				if err := v.declare(parts); err != nil {
					return nil, err
				}
				for len(list) < len(v.names) {
					list = append(list, declared{strings.Join(scopes, "."), v.names[len(list)]})
				}
			}
		default:
			if len(keyword) > 1 && keyword[0] == '$' { // of other tools
				if _, err := v.section(); err != nil {
					return nil, err
				}
				continue
			}
			return nil, v.wrong(fmt.Sprintf("%.40q stands among the declarations; expected $var, $scope, $timescale or $enddefinitions", keyword))
		}
	}
}

// Channels are the names of the wires.
func (v *Reader) Channels() []string { return v.names }

// Step is how far apart samples are, where a comment states their rate; the unit of time where none does.
func (v *Reader) Step() time.Duration {
	return max(1, v.sampled, time.Duration(v.factor/v.divide))
}

// rated is how a comment states the rate of samples.
var rated = regexp.MustCompile(`\bat ([0-9.]+ ?[kMG]?Hz)`)

func (v *Reader) remark(text string) {
	if m := rated.FindStringSubmatch(text); m != nil {
		if rate, err := rawsamples.Rate(m[1]); err == nil && rate <= rawsamples.MaxRate {
			v.sampled = time.Duration(1e9 / rate)
		}
	}
}

func (v *Reader) wrong(what string) error { return fmt.Errorf("line %d: %s", v.line, what) }

// next reads a word; it is overwritten by the next one.
func (v *Reader) next() ([]byte, error) {
	v.word = v.word[:0]
	for {
		b, err := v.in.ReadByte()
		if err != nil {
			if err == io.EOF && len(v.word) > 0 {
				return v.word, nil
			}
			return nil, err
		}
		if b > ' ' {
			if len(v.word) == maxWord {
				return nil, v.wrong(fmt.Sprintf("a word of more than %d characters; expected a value change dump", maxWord))
			}
			v.word = append(v.word, b)
			continue
		}
		if len(v.word) > 0 {
			if b == '\n' {
				v.in.UnreadByte() // it is counted before the next word
			}
			return v.word, nil
		}
		if b == '\n' {
			v.line++
		}
	}
}

// section reads words up to $end.
func (v *Reader) section() (parts []string, err error) {
	for {
		word, err := v.next()
		if err == io.EOF {
			return nil, v.wrong("the file ends within a declaration; expected $end")
		} else if err != nil {
			return nil, err
		}
		if string(word) == "$end" {
			return parts, nil
		}
		parts = append(parts, string(word))
	}
}

// timescale reads one such as 10us.
func (v *Reader) timescale(text string) error {
	digits := strings.TrimRight(text, "munpfs")
	n, err := strconv.ParseInt(digits, 10, 64)
	units := map[string][2]int64{"s": {1e9, 1}, "ms": {1e6, 1}, "us": {1e3, 1}, "ns": {1, 1}, "ps": {1, 1e3}, "fs": {1, 1e6}}
	unit, known := units[text[len(digits):]]
	if err != nil || n != 1 && n != 10 && n != 100 || !known {
		return v.wrong(fmt.Sprintf("the timescale is %q; expected 1, 10 or 100 with s, ms, us, ns, ps or fs", text))
	}
	v.factor, v.divide = n*unit[0], unit[1]
	return nil
}

// declare takes a variable: its type, size, identifier and name, perhaps with a range.
func (v *Reader) declare(parts []string) error {
	if len(parts) < 4 {
		return v.wrong(fmt.Sprintf("$var has %d words; expected type, size, identifier and name", len(parts)))
	}
	size, err := strconv.Atoi(parts[1])
	if err != nil || size < 1 {
		return v.wrong(fmt.Sprintf("a variable of %q bits; expected a number from 1", parts[1]))
	}
	if parts[0] == "real" || parts[0] == "string" || parts[0] == "parameter" || v.of[parts[2]].bits > 0 || size > capture.MaxChannels {
		return nil // no lines, or an alias of some
	}
	if len(v.names)+size > capture.MaxChannels {
		return v.wrong(fmt.Sprintf("more than %d wires; leave out what does not belong to the module", capture.MaxChannels))
	}
	v.of[parts[2]] = variable{len(v.names), size}
	if len(parts[2]) == 1 && parts[2][0] < 128 {
		v.short[parts[2][0]] = v.of[parts[2]]
	}
	if size == 1 {
		v.names = append(v.names, parts[3])
		return nil
	}
	name, _, _ := strings.Cut(parts[3], "[")
	for bit := range size {
		v.names = append(v.names, name+strconv.Itoa(bit))
	}
	return nil
}

// Next returns the levels from the next time on at which one changes. Its error names the line.
func (v *Reader) Next() (c capture.Change, err error) {
	for {
		word, err := v.next()
		if err == io.EOF {
			if c, ok := v.changed(); ok {
				return c, nil
			}
			return c, io.EOF
		} else if err != nil {
			return c, err
		}
		switch b := word[0]; {
		case b == '#':
			at, err := strconv.ParseInt(string(word[1:]), 10, 64)
			switch {
			case err != nil || at < 0 || at > (1<<62)/v.factor:
				return c, v.wrong(fmt.Sprintf("%.40q is no time; expected # and a number", word))
			case at < v.now:
				return c, v.wrong(fmt.Sprintf("time %d comes after %d; expected times in their order", at, v.now))
			case at == v.now:
				continue
			}
			c, ok := v.changed()
			if v.now = at; ok {
				return c, nil
			}
		case b == '$':
			if string(word) == "$comment" {
				if _, err := v.section(); err != nil {
					return c, err
				}
			}
		case b == 'b' || b == 'B':
			value := string(word[1:])
			id, err := v.next()
			if err != nil {
				return c, v.wrong("the file ends within a value; expected an identifier")
			}
			if err := v.vector(value, v.of[string(id)]); err != nil {
				return c, err
			}
		case b == 'r' || b == 'R' || b == 's' || b == 'S':
			if _, err := v.next(); err != nil {
				return c, v.wrong("the file ends within a value; expected an identifier")
			}
		default:
			if err := v.scalar(b, word[1:]); err != nil {
				return c, err
			}
		}
	}
}

// changed are the levels at the time that was read last, where they are others than before.
func (v *Reader) changed() (c capture.Change, ok bool) {
	if !v.begun || v.returned && v.levels == v.last {
		return c, false
	}
	v.returned, v.last = true, v.levels
	return capture.Change{At: time.Duration(v.now * v.factor / v.divide), Levels: v.levels}, true
}

// scalar takes the value of a wire.
func (v *Reader) scalar(value byte, id []byte) error {
	if len(id) == 0 {
		return v.wrong(fmt.Sprintf("a value %q without an identifier; expected one such as 1!", value))
	}
	var to variable
	if len(id) == 1 && id[0] < 128 {
		to = v.short[id[0]]
	} else {
		to = v.of[string(id)]
	}
	if to.bits == 0 {
		return nil // of what is no channel
	}
	return v.set(to.first, value)
}

// set gives a channel a level.
func (v *Reader) set(channel int, value byte) error {
	switch value {
	case '1', 'z', 'Z':
		v.levels |= 1 << channel
	case '0':
		v.levels &^= 1 << channel
	case 'x', 'X':
		return nil
	default:
		return v.wrong(fmt.Sprintf("a value %q; expected 0, 1, x or z", value))
	}
	v.begun = true
	return nil
}

// vector takes the value of several wires, the highest bit first; what is left out above is 0, or as x or z says (IEEE 1364-2005, §18.2.1).
func (v *Reader) vector(value string, to variable) error {
	if value == "" {
		return v.wrong("a value without a bit; expected one such as b1010 !")
	}
	fill := byte('0')
	if value[0] != '1' {
		fill = value[0]
	}
	for bit := range to.bits {
		b := fill
		if bit < len(value) {
			b = value[len(value)-1-bit]
		}
		if err := v.set(to.first+bit, b); err != nil {
			return err
		}
	}
	return nil
}
