package charrom

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"
)

// maxChart bounds what Parse reads; all 256 cells with comments fit many times.
const maxChart = 1 << 20

// Parse reads a ROM chart: a line "rom NAME", then bands. A band is a line of
// up to 16 cells CODE=CHARACTERS, then eight lines with the cells' dots side by
// side, # for a lit dot and . for a dark one. CODE is two hexadecimal digits;
// CHARACTERS are the code's own character, then other spellings of it, each
// literal or as U+XXXX alone; none means the code is reached by number only.
// After a line "below CODE CODE …" come two lines of dots: rows 9 and 10 of those
// cells in the 5×10 font, dark where the chart does not say. Blank lines and
// lines that start with # may stand between bands. Errors name the line and what
// was expected.
func Parse(rd io.Reader) (*ROM, error) {
	data, err := io.ReadAll(io.LimitReader(rd, maxChart+1))
	if err != nil {
		return nil, fmt.Errorf("reading ROM chart: %w", err)
	}
	if len(data) > maxChart {
		return nil, fmt.Errorf("ROM chart is longer than %d bytes", maxChart)
	}
	p := chartParser{lines: bufio.NewScanner(bytes.NewReader(data)), rom: &ROM{codes: map[rune]byte{}}}
	p.lines.Buffer(nil, maxChart+1)
	if err := p.parse(); err != nil {
		return nil, fmt.Errorf("ROM chart, line %d: %w", p.line, err)
	}
	return p.rom, nil
}

type chartParser struct {
	lines *bufio.Scanner
	line  int
	rom   *ROM
}

func (p *chartParser) next() (string, bool) {
	if !p.lines.Scan() {
		return "", false
	}
	p.line++
	return strings.TrimRight(p.lines.Text(), " \r"), true
}

func (p *chartParser) parse() error {
	cells := 0
	for {
		text, ok := p.next()
		if !ok {
			break
		}
		switch {
		case text == "" || strings.HasPrefix(text, "#"):
		case strings.HasPrefix(text, "rom "):
			p.rom.Name = strings.TrimSpace(text[4:])
		case strings.HasPrefix(text, "below "):
			if err := p.below(text[6:]); err != nil {
				return err
			}
		default:
			n, err := p.band(text)
			if err != nil {
				return err
			}
			cells += n
		}
	}
	if p.rom.Name == "" {
		return fmt.Errorf("the chart has no line \"rom NAME\"")
	}
	if cells == 0 {
		return fmt.Errorf("the chart has no cells; expected bands such as \"41=A\" and eight lines of dots")
	}
	return p.lines.Err()
}

func (p *chartParser) band(head string) (int, error) {
	fields := strings.Fields(head)
	if len(fields) > 16 {
		return 0, fmt.Errorf("%d cells side by side, expected at most 16", len(fields))
	}
	codes := make([]byte, len(fields))
	for i, f := range fields {
		code, chars, err := cellHead(f)
		if err != nil {
			return 0, err
		}
		if p.rom.known[code] {
			return 0, fmt.Errorf("code %02X stands in the chart twice", code)
		}
		codes[i] = code
		p.rom.add(Cell{Code: code, Characters: chars})
	}
	return len(codes), p.rows(8, codes, func(row int, code, bits byte) { p.rom.dots[code][row] = bits })
}

// below reads rows 9 and 10 of cells that the chart has.
func (p *chartParser) below(head string) error {
	var codes []byte
	for _, f := range strings.Fields(head) {
		n, err := strconv.ParseUint(f, 16, 8)
		if err != nil || !p.rom.known[n] {
			return fmt.Errorf("below: %q is no code of a cell before it", f)
		}
		codes = append(codes, byte(n))
	}
	return p.rows(2, codes, func(row int, code, bits byte) { p.rom.below[code][row] = bits })
}

// rows reads lines of dots, the cells of codes side by side.
func (p *chartParser) rows(n int, codes []byte, set func(row int, code, bits byte)) error {
	for row := range n {
		text, ok := p.next()
		if !ok {
			return fmt.Errorf("the chart ends after %d of %d lines of dots", row, n)
		}
		dots := strings.Fields(text)
		if len(dots) != len(codes) {
			return fmt.Errorf("dots of %d cells under a head of %d", len(dots), len(codes))
		}
		for i, d := range dots {
			bits, err := rowBits(d)
			if err != nil {
				return fmt.Errorf("cell %02X: %w", codes[i], err)
			}
			set(row, codes[i], bits)
		}
	}
	return nil
}

// cellHead reads CODE=CHARACTERS.
func cellHead(f string) (code byte, chars string, err error) {
	hex, chars, ok := strings.Cut(f, "=")
	n, perr := strconv.ParseUint(hex, 16, 8)
	if !ok || len(hex) != 2 || perr != nil {
		return 0, "", fmt.Errorf("%q is no cell; expected CODE=CHARACTERS such as 41=A", f)
	}
	if u, ok := strings.CutPrefix(chars, "U+"); ok && u != "" {
		v, err := strconv.ParseUint(u, 16, 32)
		if err != nil || !utf8.ValidRune(rune(v)) {
			return 0, "", fmt.Errorf("%q is no character; expected such as U+0041", chars)
		}
		chars = string(rune(v))
	}
	if !utf8.ValidString(chars) {
		return 0, "", fmt.Errorf("cell %s: the character is not valid UTF-8", hex)
	}
	return byte(n), chars, nil
}

// rowBits reads five dots.
func rowBits(d string) (bits byte, err error) {
	if len(d) != 5 {
		err = fmt.Errorf("row %q has %d dots, expected 5", d, len(d))
	}
	for _, c := range d {
		bits <<= 1
		switch c {
		case '#':
			bits |= 1
		case '.':
		default:
			err = fmt.Errorf("row %q has %q, expected # for a lit dot, . for a dark one", d, c)
		}
	}
	return bits, err
}

// WriteTo writes the ROM as a chart that Parse reads, sixteen cells a band.
func (r *ROM) WriteTo(w io.Writer) (int64, error) {
	var b bytes.Buffer
	fmt.Fprintf(&b, "rom %s\n", r.Name)
	for high := 0; high < 256; high += 16 {
		var codes []byte
		for c := high; c < high+16; c++ {
			if r.known[c] {
				codes = append(codes, byte(c))
			}
		}
		if len(codes) == 0 {
			continue
		}
		b.WriteByte('\n')
		for i, c := range codes {
			chars := r.runes[c]
			if strings.TrimSpace(chars) != chars {
				chars = fmt.Sprintf("U+%04X", []rune(chars)[0])
			}
			fmt.Fprintf(&b, "%s%02X=%s", separator(i), c, chars)
		}
		b.WriteByte('\n')
		for row := range 8 {
			writeRow(&b, codes, func(c byte) byte { return r.dots[c][row] })
		}
	}
	var codes []byte
	for c := range r.below {
		if r.below[c] != [2]byte{} {
			codes = append(codes, byte(c))
		}
	}
	if len(codes) > 0 {
		fmt.Fprintf(&b, "\nbelow % X\n", codes)
		for row := range 2 {
			writeRow(&b, codes, func(c byte) byte { return r.below[c][row] })
		}
	}
	return b.WriteTo(w)
}

// writeRow writes a line of dots, the cells of codes side by side.
func writeRow(b *bytes.Buffer, codes []byte, bits func(code byte) byte) {
	for i, c := range codes {
		b.WriteString(separator(i))
		for col := range 5 {
			b.WriteByte(".#"[bits(c)>>(4-col)&1])
		}
	}
	b.WriteByte('\n')
}

func separator(i int) string {
	if i == 0 {
		return ""
	}
	return " "
}
