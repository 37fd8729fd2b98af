package browse

import "testing"

// TestAtScreen says where a page is opened in a browser by itself.
func TestAtScreen(t *testing.T) {
	for _, c := range []struct {
		system, name, value string
		want                bool
	}{
		{"linux", "DISPLAY", ":0", true},
		{"linux", "WAYLAND_DISPLAY", "wayland-0", true},
		{"linux", "", "", false},
		{"darwin", "", "", true},
		{"windows", "", "", true},
		{"windows", "CI", "true", false},
		{"darwin", "SSH_CONNECTION", "203.0.113.7 1 203.0.113.8 22", false},
	} {
		got := atScreen(c.system, func(name string) string {
			if name == c.name {
				return c.value
			}
			return ""
		})
		if (got == nil) != c.want {
			t.Errorf("%s with %s=%q: %v", c.system, c.name, c.value, got)
		}
	}
}
