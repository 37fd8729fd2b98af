package layout

import "testing"

// TestNames writes names of people's words as both languages take them.
func TestNames(t *testing.T) {
	n := Names{}
	for _, c := range [][2]string{
		{"Quillfish Landing", "quillfish_landing"}, {"Höhe über Null", "hohe_uber_null"}, {"Straße", "strasse"}, {"int", "the_int"}, {"2nd slip", "the_2nd_slip"},
		{"潮", "otherwise"}, {"Quillfish landing!", "quillfish_landing_2"}, {"__x--y", "x_y"}, {"", "otherwise_2"},
	} {
		if got := n.Of(c[0], "otherwise"); got != c[1] {
			t.Errorf("%q becomes %q, want %q", c[0], got, c[1])
		}
	}
}
