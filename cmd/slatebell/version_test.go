package main

import (
	"bytes"
	"strings"
	"testing"
)

// TestVersion says of which version, commit and day the program is.
func TestVersion(t *testing.T) {
	was := [3]string{version, commit, date}
	defer func() { version, commit, date = was[0], was[1], was[2] }()
	for _, c := range []struct{ version, commit, date, want string }{
		{"v1.2", "0123abc", "2026-11-29", "slatebell v1.2, commit 0123abc, of 2026-11-29\n"},
		{"", "0123abc", "", "slatebell dev, commit 0123abc\n"},
	} {
		version, commit, date = c.version, c.commit, c.date
		var out bytes.Buffer
		if code := execute([]string{"--version"}, stdio{strings.NewReader(""), &out, &out}); code != exitOK || out.String() != c.want {
			t.Errorf("%d, %q, want %q", code, out.String(), c.want)
		}
	}
}
