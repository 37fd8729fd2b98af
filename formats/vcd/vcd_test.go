package vcd

import (
	"bufio"
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/link"
)

// edge is a signal's new level, as an independent reader of the dump has it.
type edge struct {
	at   int64 // ns
	name string
	high bool
}

// read is a reader of value change dumps that knows IEEE 1364-2005 §18 and
// nothing of the writer.
func read(t *testing.T, dump []byte) (edges []edge) {
	t.Helper()
	names := map[string]string{}
	var at int64
	words := bufio.NewScanner(bytes.NewReader(dump))
	words.Split(bufio.ScanWords)
	section := func() (parts []string) {
		for words.Scan() && words.Text() != "$end" {
			parts = append(parts, words.Text())
		}
		return parts
	}
	for words.Scan() {
		switch w := words.Text(); {
		case w == "$var":
			p := section()
			if len(p) != 4 || p[0] != "wire" || p[1] != "1" {
				t.Fatalf("$var %v", p)
			}
			names[p[2]] = p[3]
		case w == "$timescale":
			if got := strings.Join(section(), " "); got != "1 ns" {
				t.Fatalf("timescale %s", got)
			}
		case w == "$dumpvars" || w == "$end":
		case w[0] == '$':
			section()
		case w[0] == '#':
			next, err := strconv.ParseInt(w[1:], 10, 64)
			if err != nil || next < at {
				t.Fatalf("time %s after %d", w, at)
			}
			at = next
		case w[0] == '0' || w[0] == '1':
			name, ok := names[w[1:]]
			if !ok {
				t.Fatalf("%q is no variable", w[1:])
			}
			edges = append(edges, edge{at, name, w[0] == '1'})
		default:
			t.Fatalf("%q", w)
		}
	}
	return edges
}

// i2c decodes bytes from the edges of SDA and SCL alone, and checks UM10204
// rev. 7 table 10 on the way. Each transaction is its bytes, address first.
func i2c(t *testing.T, edges []edge, low, high int64) (transactions [][]byte) {
	t.Helper()
	sda, scl := true, true
	var b byte
	bits := -1
	var fell, rose, moved int64
	for _, e := range edges {
		switch e.name {
		case "SCL":
			if e.high == scl {
				continue
			}
			scl = e.high
			if !scl {
				if bits >= 0 && e.at-rose < high {
					t.Fatalf("at %d ns: t_HIGH %d ns", e.at, e.at-rose)
				}
				fell = e.at
				continue
			}
			if fell > 0 && e.at-fell < low {
				t.Fatalf("at %d ns: t_LOW %d ns", e.at, e.at-fell)
			}
			if e.at-moved < 100 {
				t.Fatalf("at %d ns: t_SU;DAT %d ns", e.at, e.at-moved)
			}
			rose = e.at
			if bits < 0 {
				continue
			}
			if bits == 8 { // the acknowledge
				transactions[len(transactions)-1] = append(transactions[len(transactions)-1], b)
				b, bits = 0, 0
				continue
			}
			b <<= 1
			if sda {
				b |= 1
			}
			bits++
		case "SDA":
			if e.high == sda {
				continue
			}
			sda, moved = e.high, e.at
			if scl && !sda {
				transactions = append(transactions, nil)
				b, bits = 0, 0
			} else if scl && sda {
				bits = -1
			}
		}
	}
	return transactions
}

// TestReadBack reads the dump of every way to group transactions with
// independent readers: bytes from SDA and SCL, characters from E, RS and data.
func TestReadBack(t *testing.T) {
	for _, kind := range link.Kinds {
		for _, grouping := range []string{"byte", "operation", "screen"} {
			for _, speed := range []int{100_000, 400_000} {
				m := bench.NewModule("gate", "Gate")
				m.Link.Kind, m.Link.Outputs.Transactions = string(kind), grouping
				setup := testbed.Setup{Display: m.Display, Link: m.Link, Host: testbed.HostSide{BusHz: speed}, Rows: []string{"Tide 3.2 m", "High 14:05"}}
				r, err := run.Do(&setup, run.Options{})
				if err != nil {
					t.Fatal(err)
				}
				var dump bytes.Buffer
				if err := Write(&dump, r.Program); err != nil {
					t.Fatal(err)
				}
				edges := read(t, dump.Bytes())
				name := fmt.Sprintf("%s, %s, %d Hz", kind, grouping, speed)
				if text := characters(edges, r.Wired.Width()); text != "Tide 3.2 mHigh 14:05" {
					t.Errorf("%s: E, RS and data carry %q", name, text)
				}
				if kind != link.Backpack {
					continue
				}
				low, high := int64(4700), int64(4000)
				if speed > 100_000 {
					low, high = 1300, 600
				}
				var want, got []byte
				for _, w := range r.Program.Words {
					want = append(want, byte(w))
				}
				transactions := i2c(t, edges, low, high)
				for _, tr := range transactions {
					if len(tr) < 2 || tr[0] != 0x4E {
						t.Fatalf("%s: a transaction of %X", name, tr)
					}
					got = append(got, tr[1:]...)
				}
				if !slices.Equal(got, want) || len(transactions) != r.Program.Transactions {
					t.Errorf("%s: %d transactions carry %X, want %d and %X", name, len(transactions), got, r.Program.Transactions, want)
				}
			}
		}
	}
}

// characters puts together what falls of E carry while RS is high.
func characters(edges []edge, width int) string {
	level := map[string]bool{}
	var text []byte
	var half int
	for i := 0; i < len(edges); {
		at := edges[i].at
		fell := false
		before := map[string]bool{}
		for k, v := range level {
			before[k] = v
		}
		for ; i < len(edges) && edges[i].at == at; i++ {
			e := edges[i]
			fell = fell || e.name == "E" && level["E"] && !e.high
			level[e.name] = e.high
		}
		if !fell || !before["RS"] || before["RW"] {
			continue
		}
		value := 0
		for d := 7; d >= 8-width; d-- {
			value <<= 1
			if before[fmt.Sprintf("D%d", d)] {
				value |= 1
			}
		}
		if width == 8 {
			text = append(text, byte(value))
		} else if half++; half%2 == 1 {
			text = append(text, byte(value<<4))
		} else {
			text[len(text)-1] |= byte(value)
		}
	}
	return string(text)
}
