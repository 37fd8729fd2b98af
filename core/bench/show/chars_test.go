package show

import (
	"math/rand/v2"
	"testing"

	"golang.org/x/text/encoding/unicode"

	"slatebell/core/bench"
	"slatebell/core/part/charrom"
	"slatebell/core/text/glyph"
)

// TestUTF8 sends text as telephones do, whole and spoilt, to modules of every ROM: each character shows the
// code that composing has for it, a glyph's slot where one is named after it, and else the
// chosen one. What bytes mean is held against golang.org/x/text/encoding/unicode.
func TestUTF8(t *testing.T) {
	alphabet := []rune("Tide 3.2 m °CéäößÄÉ€日本ｱﾂ→←αβЖЩ½\\~¥’“”😀\u00a0\u0301\uFFFD\u0800\u07FF\u0080")
	seen := map[string]int{}
	for _, name := range charrom.Names() {
		rom, _ := charrom.ByName(name)
		for seed := range uint64(300) {
			r := rand.New(rand.NewPCG(seed, 21))
			b := bench.New("")
			m := &b.Modules[0]
			m.Display.Controller.ROM = name
			m.Glyphs = glyph.Bank{{Slot: 3, Name: "é", Rows: make([]int, 8)}, {Slot: 5, Name: "€", Rows: make([]int, 8)}, {Slot: 0, Name: "bell", Rows: make([]int, 8)}}
			m.Show.Inputs = []bench.Input{{ID: "radio", Kind: "serial", Serial: bench.Serial{Ends: "pause", PauseMs: 20, Longest: 200, Missing: "*"}}}
			s, err := Of(m)
			if err != nil {
				t.Fatal(err)
			}
			var text []byte
			for range r.IntN(30) {
				part := []byte(string(alphabet[r.IntN(len(alphabet))]))
				switch r.IntN(6) {
				case 0: // a byte is lost
					at := r.IntN(len(part))
					part = append(part[:at:at], part[at+1:]...)
				case 1: // or garbled
					part[r.IntN(len(part))] = byte(0x20 + r.IntN(0xE0))
				}
				text = append(text, part...)
			}
			said, err := unicode.UTF8.NewDecoder().Bytes(text)
			if err != nil {
				t.Fatal(err)
			}
			var want []byte
			for _, ch := range string(said) {
				code, ok := rom.Code(ch)
				switch {
				case ok:
					seen["of the ROM"]++
				case ch == 'é':
					code = 3
					seen["a glyph"]++
				case ch == '€':
					code = 5
				default:
					code = '*'
					seen["missing"]++
				}
				want = append(want, code)
			}
			st := s.Begin()
			for i, c := range text {
				st = s.Take(st, Event{At: int64(i), Value: int64(c)})
			}
			if st = s.Until(st, 1000); st.Inputs[0].Line.Text != string(want) {
				t.Fatalf("%s, %q shows % X, want % X", name, text, st.Inputs[0].Line.Text, want)
			}
		}
	}
	for _, what := range []string{"of the ROM", "a glyph", "missing"} {
		if seen[what] == 0 {
			t.Errorf("no character was %s", what)
		}
	}
	b := bench.New("")
	m := &b.Modules[0]
	m.Show.Inputs = []bench.Input{{ID: "radio", Kind: "serial", Serial: bench.Serial{Missing: "日"}}}
	if _, err := Of(m); err == nil || err.Error() != "/show/inputs/0/serial/missing: the module has no '日' (U+65E5); expected a character that it shows" {
		t.Errorf("a character in place of others that is missing itself: %v", err)
	}
	m.Show.Inputs[0].Serial = bench.Serial{Text: "codes"}
	s, err := Of(m)
	if err != nil {
		t.Fatal(err)
	}
	st := s.Begin()
	for i, c := range []byte("\xDFC\n") {
		st = s.Take(st, Event{At: int64(i), Value: int64(c)})
	}
	if st.Inputs[0].Line.Text != "\xDFC" {
		t.Errorf("codes show % X", st.Inputs[0].Line.Text)
	}
}
