package formats_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/charrom"
	"slatebell/core/wire/link"
	"slatebell/formats/bdf"
	"slatebell/formats/benchjson"
	"slatebell/formats/dottext"
	"slatebell/formats/eventcsv"
	"slatebell/formats/recording"
	"slatebell/formats/scantext"
	"slatebell/formats/sessionzip"
	"slatebell/formats/wirehex"
	"slatebell/internal/ratio"
)

// recorded reads a recording to its end.
func recorded(data []byte) error {
	s, err := recording.Open(bytes.NewReader(data), int64(len(data)), recording.Options{Rate: 1e6})
	for err == nil {
		_, err = s.Next()
	}
	if err == io.EOF {
		return nil
	}
	return err
}

// times writes a text with a line for each of n.
func times(head string, n int, line func(i int) string) []byte {
	var out bytes.Buffer
	out.WriteString(head)
	for i := range n {
		out.WriteString(line(i))
	}
	return out.Bytes()
}

// TestReadersAreLinear reads eight times as much of everything that people bring along, and takes eight times as long.
func TestReadersAreLinear(t *testing.T) {
	dump := func(n int) []byte {
		return times("$timescale 1 ns $end $var wire 1 ! SDA $end $var wire 1 \" SCL $end $enddefinitions $end\n", n, func(i int) string { return fmt.Sprintf("#%d\n%d!\n%d\"\n", i*2500, i/2%2, i%2) })
	}
	inputs := []bench.Input{{ID: "tide", Kind: "number"}}
	for name, c := range map[string]struct {
		n    int
		make func(n int) []byte
		read func(data []byte) error
	}{
		"wire bytes": {20_000, func(n int) []byte { return []byte(strings.Repeat("4D 49 1D 19 ", n)) }, func(data []byte) (err error) {
			for r := wirehex.NewReader(bytes.NewReader(data), link.Backpack); err == nil; {
				_, err = r.Next()
			}
			if err == io.EOF {
				return nil
			}
			return err
		}},
		"a scanner's print": {40, func(n int) []byte {
			return times("", n, func(int) string { return "I2C device found at address 0x27 (39), write 0x4E, read 0x4F\n" })
		}, func(data []byte) error { _, err := scantext.Read(bytes.NewReader(data), nil); return err }},
		"a value change dump": {4000, dump, recorded},
		"a table of samples": {4000, func(n int) []byte {
			return times("time_us,SDA,SCL\n", n, func(i int) string { return fmt.Sprintf("%d.5,%d,%d\n", i*2, i/2%2, i%2) })
		}, recorded},
		"samples": {100_000, func(n int) []byte { return bytes.Repeat([]byte{0, 1, 3, 2}, n) }, recorded},
		"a session": {4000, func(n int) []byte {
			data := dump(n)
			s, err := recording.Open(bytes.NewReader(data), int64(len(data)), recording.Options{})
			var out bytes.Buffer
			if err == nil {
				err = sessionzip.Write(&out, s, 1_000_000)
			}
			if err != nil {
				t.Fatal(err)
			}
			return out.Bytes()
		}, recorded},
		"decoded bytes": {500, func(n int) []byte {
			return times("", n, func(int) string {
				return "i2c-1: Start\ni2c-1: Write\ni2c-1: Address write: 27\ni2c-1: ACK\ni2c-1: Data write: 4D\ni2c-1: ACK\ni2c-1: Stop\n"
			})
		}, recorded},
		"events": {2000, func(n int) []byte {
			return times("time_ms,input,value\n", n, func(i int) string { return fmt.Sprintf("%d,tide,%d\n", i, i%9) })
		},
			func(data []byte) error { _, err := eventcsv.Read(bytes.NewReader(data), inputs); return err }},
		"a font": {60, func(n int) []byte {
			return append(times(fmt.Sprintf("STARTFONT 2.1\nFONT boathouse\nSIZE 8 75 75\nFONTBOUNDINGBOX 5 8 0 0\nCHARS %d\n", n), n, func(i int) string {
				return fmt.Sprintf("STARTCHAR c%d\nENCODING %d\nSWIDTH 500 0\nDWIDTH 5 0\nBBX 5 8 0 0\nBITMAP\n20\n70\n20\n20\nA8\n70\n20\n00\nENDCHAR\n", i, 33+i)
			}), "ENDFONT\n"...)
		}, func(data []byte) error { _, err := bdf.Read(data); return err }},
		"dots": {20, func(n int) []byte {
			return times("", n, func(i int) string { return "..#..\n.###.\n..#..\n..#..\n#.#.#\n.###.\n..#..\n.....\n\n" })
		},
			func(data []byte) error { _, err := dottext.Read(string(data)); return err }},
		"a chart": {2000, func(n int) []byte {
			var whole bytes.Buffer
			charrom.A00().WriteTo(&whole)
			return times(whole.String(), n, func(int) string { return "# the boathouse's own dots, after the sheet\n" })
		}, func(data []byte) error { _, err := charrom.Parse(bytes.NewReader(data)); return err }},
		"a bench": {6, func(n int) []byte {
			b := bench.New("Full")
			m := b.Modules[0]
			b.Modules = nil
			for i := range n {
				m.ID, m.Screens = fmt.Sprint("module-", i+1), nil
				for s := range 20 {
					m.Screens = append(m.Screens, bench.Screen{ID: fmt.Sprint("screen-", s+1), Rows: []string{"Tide  3.2 m", "High water 14:05"}})
				}
				b.Modules = append(b.Modules, m)
			}
			data, err := json.Marshal(b)
			if err != nil {
				t.Fatal(err)
			}
			return data
		}, func(data []byte) error { _, err := benchjson.Parse(data); return err }},
	} {
		t.Run(name, func(t *testing.T) {
			ratio.Linear(t, c.n, func(n int) func() {
				data := c.make(n)
				return func() {
					if err := c.read(data); err != nil {
						t.Fatalf("%d of it: %v", n, err)
					}
				}
			})
		})
	}
}
