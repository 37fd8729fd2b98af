package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"slatebell/core/finding"
)

// dumped writes what sequence prints of a screen as a value change dump, and returns where.
func dumped(t *testing.T, args ...string) string {
	t.Helper()
	out, errs, code := try("", append([]string{"sequence", "--geometry", "16x2", "--format", "vcd", "--text", "Tide 3.2 m\nHigh 14:05"}, args...)...)
	if code != 0 {
		t.Fatalf("sequence %v: %d, %s", args, code, errs)
	}
	name := filepath.Join(t.TempDir(), "start.vcd")
	if err := os.WriteFile(name, []byte(out), 0o644); err != nil {
		t.Fatal(err)
	}
	return name
}

// TestCapture reads recordings of our own programs on each link: the glass is that of the screen, nothing is wrong; at a time before its end it shows
// less; what it prints as a dump is read again; and as a bench it is one of which check finds nothing.
func TestCapture(t *testing.T) {
	for _, link := range []string{"backpack", "shift", "parallel4", "parallel8"} {
		name := dumped(t, "--link", link)
		lines := map[string][]string{"backpack": {"--lines", "SDA=SDA,SCL=SCL"}, "shift": {"--lines", "data=DATA,clock=CLOCK,latch=LATCH"}}[link]
		out, errs, code := try("", append([]string{"capture", name, "--format", "json"}, lines...)...)
		var got captured
		if err := json.Unmarshal([]byte(out), &got); err != nil {
			t.Fatalf("%s: %v: %s", link, err, errs)
		}
		last := got.Operations[len(got.Operations)-1]
		if code != 0 || string(got.Link) != link || got.Geometry != "16x2" || strings.Join(got.Rows, "|") != "Tide 3.2 m      |High 14:05      " || len(got.Findings) > 0 || last.Byte != '5' || last.RS != 1 || last.At < 0.04 {
			t.Errorf("%s: code %d, %s, %s, %q, %v, the last of %d operations is %+v", link, code, got.Link, got.Geometry, got.Rows, got.Findings, len(got.Operations), last)
		}
		if link == "backpack" && (got.Address != 0x27 || got.Mapping != "RS=0,RW=1,E=2,BL=3,D4=4,D5=5,D6=6,D7=7") {
			t.Errorf("the backpack is at 0x%02X with %s", got.Address, got.Mapping)
		}
		if out, _, _ := try("", append([]string{"capture", name, "--at", "30ms"}, lines...)...); !strings.HasSuffix(out, "|                |\n|                |\n") {
			t.Errorf("%s, at 30 ms: %q", link, out)
		}
		again := filepath.Join(t.TempDir(), "again.vcd")
		header, _, code := try("", append([]string{"capture", name, "--format", "vcd"}, lines...)...)
		if err := os.WriteFile(again, []byte(header), 0o644); err != nil || code != 0 {
			t.Fatal(err, code)
		}
		if out, errs, code := try("", "capture", again); code != 0 || !strings.HasSuffix(out, "|Tide 3.2 m      |\n|High 14:05      |\n") {
			t.Errorf("%s, its header again: code %d, %s%.200s", link, code, errs, out)
		}
		learnt := filepath.Join(t.TempDir(), "learnt.json")
		document, _, _ := try("", append([]string{"capture", name, "--as", "bench"}, lines...)...)
		if err := os.WriteFile(learnt, []byte(document), 0o644); err != nil {
			t.Fatal(err)
		}
		if out, errs, code := try("", "check", learnt); code != 0 || !strings.Contains(document, `"Tide 3.2 m"`) {
			t.Errorf("%s, as a bench: code %d, %s%s", link, code, out, errs)
		}
		if out, _, code := try("", append([]string{"capture", name, "--format", "csv"}, lines...)...); code != 0 || !strings.HasPrefix(out, "time_us,rs,rw,value,enable,meaning\r\n") {
			t.Errorf("%s, as csv: code %d, %.80q", link, code, out)
		}
	}
}

// TestCaptureJudges finds limits that a program breaks, says when, and ends with 1; and refuses what it cannot read in words that say what would be
// right.
func TestCaptureJudges(t *testing.T) {
	for _, c := range []struct {
		want string // code of the finding
		args []string
	}{
		{"timing.t-as", []string{"--link", "backpack", "--setup", "with-e"}}, {"timing.pw-eh", []string{"--link", "parallel4", "--pin-ns", "100"}},
	} {
		out, _, code := try("", "capture", dumped(t, c.args...), "--format", "json")
		var got captured
		json.Unmarshal([]byte(out), &got)
		at := slices.IndexFunc(got.Findings, func(f finding.Finding) bool { return f.Code == c.want })
		if code != 1 || at < 0 || !strings.Contains(got.Findings[at].What, "the first at") {
			t.Errorf("%v: code %d, %v; expected %s", c.args, code, got.Findings, c.want)
		}
	}
	name := dumped(t)
	whole, err := os.ReadFile(name)
	if err != nil {
		t.Fatal(err)
	}
	broken := filepath.Join(t.TempDir(), "broken.vcd")
	os.WriteFile(broken, append(whole, "#60000000\n1!\n9!\n"...), 0o644)
	if out, errs, code := try("", "capture", broken, "--lines", "SDA=SDA,SCL=SCL"); code != 1 || !strings.HasSuffix(out, "|Tide 3.2 m      |\n|High 14:05      |\n") || !strings.Contains(errs, "capture.broken") || !strings.Contains(errs, "a value '9'; expected 0, 1, x or z") {
		t.Errorf("a file that is broken at its end: code %d, %q, %q", code, errs, out)
	}
	noise := filepath.Join(t.TempDir(), "noise.csv")
	os.WriteFile(noise, []byte("time_us,a,b\n0,0,1\n1,1,1\n2,0,0\n"), 0o644)
	for _, c := range []struct {
		args []string
		want string
	}{
		{[]string{"capture", name, "--lines", "E=99"}, `E: "99" is no channel; expected a number from 0 to`}, {[]string{"capture", name, "--lines", "Q=1"}, `"Q=1" names no line; expected one of D0`},
		{[]string{"capture", name, "--at", "soon"}, `--at "soon"; expected a time such as 1.5s`}, {[]string{"capture", noise}, "no channels are found that drive a module"},
		{[]string{"capture", name, "--rate", "fast"}, `--rate: a rate of "fast"; expected one such as`}, {[]string{"capture", name, "--module", "gate"}, "expected --bench"},
	} {
		if _, errs, code := try("", c.args...); code == 0 || !strings.Contains(errs, c.want) {
			t.Errorf("%v: code %d, %q; expected %q", c.args, code, errs, c.want)
		}
	}
}

// TestRecordings writes our own programs and plays as recordings, and reads them again.
func TestRecordings(t *testing.T) {
	for _, kind := range []string{"backpack", "shift", "parallel4", "parallel8"} {
		for _, format := range []string{"changes", "session"} {
			out, errs, code := try("", "sequence", "--link", kind, "--text", "Tide 3.2 m\nHigh 14:05", "--format", format)
			name := filepath.Join(t.TempDir(), "own")
			if err := os.WriteFile(name, []byte(out), 0o644); err != nil || code != 0 {
				t.Fatal(err, code, errs)
			}
			if out, errs, code := try("", "capture", name); code != 0 || !strings.HasSuffix(out, "|Tide 3.2 m      |\n|High 14:05      |\n") {
				t.Errorf("%s as %s: code %d, %s%.300s", kind, format, code, errs, out)
			}
		}
	}
	demo, _, _ := try("", "bench", "--demo")
	file := filepath.Join(t.TempDir(), "demo.json")
	if err := os.WriteFile(file, []byte(demo), 0o644); err != nil {
		t.Fatal(err)
	}
	out, errs, code := try("", "play", file, "--module", "gate", "--format", "session", "--until", "3000")
	name := filepath.Join(t.TempDir(), "play.zip")
	if err := os.WriteFile(name, []byte(out), 0o644); err != nil || code != 0 {
		t.Fatal(err, code, errs)
	}
	if out, errs, code := try("", "capture", name, "--format", "json", "--bench", file, "--module", "gate"); code != 0 || !strings.Contains(out, `"rows": [`) {
		t.Errorf("a play: code %d, %s%.300s", code, errs, out)
	}
}
