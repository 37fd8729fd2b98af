package recording

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/capture/capturetest"
	"slatebell/core/prove/replay"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/link"
	"slatebell/formats/samplecsv"
	"slatebell/formats/sessionzip"
	"slatebell/formats/vcd"
)

// some are levels of four channels, a change each ten microseconds or so.
func some() (list []capture.Change) {
	r := rand.New(rand.NewPCG(27, 2))
	at := time.Duration(0)
	last := uint64(16)
	for range 200 {
		levels := uint64(r.IntN(16))
		if levels != last {
			list = append(list, capture.Change{At: at, Levels: levels})
		}
		last = levels
		at += time.Duration(1+r.IntN(20)) * 10 * time.Microsecond
	}
	return list
}

// samples are the levels at each ten microseconds.
func samples(list []capture.Change) (out []uint64) {
	for i, c := range list {
		for n := int(c.At / (10 * time.Microsecond)); len(out) < n; {
			out = append(out, list[i-1].Levels)
		}
		out = append(out, c.Levels)
	}
	return out
}

// all reads a source to its end.
func all(t testing.TB, s capture.Source) (list []capture.Change, err error) {
	t.Helper()
	for {
		c, err := s.Next()
		if err == io.EOF {
			return list, nil
		}
		if err != nil {
			return list, err
		}
		list = append(list, c)
	}
}

// TestFormats reads the same levels from each format as somebody would write it.
func TestFormats(t *testing.T) {
	list := some()
	bit := func(v uint64, i int) uint64 { return v >> i & 1 }
	var changes, samplesCSV, german, dump strings.Builder
	fmt.Fprint(&changes, "Time [us],E,RS,D4,D5\r\n")
	fmt.Fprint(&german, "\ufeffZeit (ms);E;RS;D4;D5\n")
	fmt.Fprint(&dump, "$date today $end $timescale 10\tus $end $scope module m $end $var wire 1 aa E $end $var wire 3 # rest [2:0] $end $upscope $end $enddefinitions $end\n")
	for _, c := range list {
		us := c.At.Microseconds()
		fmt.Fprintf(&changes, "%d,%d,%d,%d,%d\r\n", us, bit(c.Levels, 0), bit(c.Levels, 1), bit(c.Levels, 2), bit(c.Levels, 3))
		fmt.Fprintf(&german, "%s;%d;%d;%d;%d\n", strings.Replace(fmt.Sprintf("%.2f", float64(us)/1000), ".", ",", 1), bit(c.Levels, 0), bit(c.Levels, 1), bit(c.Levels, 2), bit(c.Levels, 3))
		fmt.Fprintf(&dump, "#%d\n%daa b%b #\n", us/10, bit(c.Levels, 0), c.Levels>>1)
	}
	fmt.Fprint(&samplesCSV, "; Channels (4/4): E, RS, D4, D5\n; Samplerate: 100 kHz\nlogic,logic,logic,logic\n")
	var raw, wide bytes.Buffer
	for _, v := range samples(list) {
		fmt.Fprintf(&samplesCSV, "%d,%d,%d,%d\n", bit(v, 0), bit(v, 1), bit(v, 2), bit(v, 3))
		raw.WriteByte(byte(v))
		wide.Write([]byte{byte(v), 0})
	}
	var session bytes.Buffer
	z := zip.NewWriter(&session)
	half := raw.Len() / 2
	for _, f := range []struct {
		name string
		data []byte
	}{
		{"version", []byte("2")}, {"metadata", []byte("[device 1]\nsamplerate=100 kHz\ntotal probes=4\nprobe1=E\nprobe2=RS\nunitsize=1\ncapturefile=logic-1\n")},
		{"logic-1-2", raw.Bytes()[half:]}, {"logic-1-1", raw.Bytes()[:half]},
	} {
		w, err := z.Create(f.name)
		if err != nil {
			t.Fatal(err)
		}
		w.Write(f.data)
	}
	z.Close()
	for _, c := range []struct {
		name  string
		data  []byte
		o     Options
		names string // the first
	}{
		{"changes", []byte(changes.String()), Options{}, "E,RS"}, {"changes with commas", []byte(german.String()), Options{}, "E,RS"}, {"samples", []byte(samplesCSV.String()), Options{}, "E,RS"},
		{"dump", []byte(dump.String()), Options{}, "E,rest0"}, {"raw", raw.Bytes(), Options{Rate: 100_000}, "D0,D1"}, {"raw of 16", wide.Bytes(), Options{Rate: 100_000, Channels: 16}, "D0,D1"},
		{"session", session.Bytes(), Options{}, "E,RS"},
	} {
		s, err := Open(bytes.NewReader(c.data), int64(len(c.data)), c.o)
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		got, err := all(t, s)
		if names := strings.Join(s.Channels()[:2], ","); err != nil || !slices.Equal(got, list) || names != c.names {
			t.Errorf("%s: %v, %s, %d changes; expected %s, and %d", c.name, err, names, len(got), c.names, len(list))
		}
	}
}

// TestRefused says of bad files what was wrong, with the line, and what would be right.
func TestRefused(t *testing.T) {
	const head = "$timescale 1 ns $end $var wire 1 ! E $end $enddefinitions $end\n"
	for _, c := range []struct{ file, want string }{
		{"", "empty"}, {"\x00\x01\x02", "state their rate"}, {"PK\x03\x04", "damaged"},
		{"$timescale 1 ns $end\n$var wire", "line 2: the file ends within a declaration"}, {"$timescale 3 ns $end\n", `line 1: the timescale is "3ns"; expected 1, 10 or 100`},
		{"$enddefinitions $end", "declares no wire"}, {head + "#10\n1!\n#5\n", "line 4: time 5 comes after 10"}, {head + "#x", "line 2: \"#x\" is no time"}, {head + "#1\n7!", "line 3: a value '7'; expected 0, 1, x or z"},
		{"$var wire 1 ! E $end\nnonsense", `line 2: "nonsense" stands among the declarations`},
		{"a,b\n0,1\n", "line 1: no column is called time"}, {"time,E\n0,1\n1\n", "line 3: 1 values; expected 2"}, {"time,E\n0,1\n1,2\n", "line 3: \"1,2\"; expected levels"}, {"time,E\n1,1\n0,0\n", "line 3: its time lies before"},
	} {
		s, err := Open(strings.NewReader(c.file), int64(len(c.file)), Options{})
		if err == nil {
			_, err = all(t, s)
		}
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%.40q: %v; expected %q", c.file, err, c.want)
		}
	}
}

// TestOthers has sigrok-cli (Debian package sigrok-cli) turn a dump of our own program for a backpack into a session and into comma-separated values,
// both of which are read as the dump is; and holds the bytes that its I²C decoder finds against those of the program.
func TestOthers(t *testing.T) {
	if _, err := exec.LookPath("sigrok-cli"); err != nil {
		t.Fatal("sigrok-cli is not installed: make test installs it")
	}
	m := bench.NewModule("gate", "Gate")
	played, err := run.Do(&testbed.Setup{Display: m.Display, Link: m.Link, Rows: []string{"Tide 3.2 m", "High 14:05"}}, run.Options{})
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	name := func(n string) string { return filepath.Join(dir, n) }
	dump, err := os.Create(name("gate.vcd"))
	if err != nil {
		t.Fatal(err)
	}
	if err := vcd.Write(dump, played.Program); err != nil {
		t.Fatal(err)
	}
	dump.Close()
	sigrok := func(args ...string) string {
		ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
		defer cancel()
		out, err := exec.CommandContext(ctx, "sigrok-cli", args...).CombinedOutput()
		if err != nil {
			t.Fatalf("sigrok-cli %v: %v: %.300s", args, err, out)
		}
		return string(out)
	}
	sigrok("-I", "vcd:downsample=1000", "-i", name("gate.vcd"), "-o", name("gate.sr")) // a sample a microsecond
	sigrok("-i", name("gate.sr"), "-O", "csv", "-o", name("gate.csv"))
	read := func(file string) (capture.Source, []capture.Change) {
		data, err := os.ReadFile(name(file))
		if err != nil {
			t.Fatal(err)
		}
		s, err := Open(bytes.NewReader(data), int64(len(data)), Options{})
		if err != nil {
			t.Fatalf("%s: %v", file, err)
		}
		list, err := all(t, s)
		if err != nil {
			t.Fatalf("%s: %v", file, err)
		}
		return s, list
	}
	_, session := read("gate.sr")
	of, table := read("gate.csv")
	if !slices.Equal(session, table) || len(session) < 500 {
		t.Errorf("%d changes are read from the session, and %d from the table", len(session), len(table))
	}
	var found []byte
	for line := range strings.Lines(sigrok("-i", name("gate.sr"), "-P", "i2c:scl=SCL:sda=SDA", "-A", "i2c=data-write")) {
		var b byte
		if _, err := fmt.Sscanf(line, "i2c-1: Data write: %02X", &b); err == nil {
			found = append(found, b)
		}
	}
	var sent []byte
	for _, w := range played.Program.Words {
		sent = append(sent, byte(w))
	}
	if !slices.Equal(found, sent) {
		t.Errorf("its decoder finds %X; the program sends %X", found, sent)
	}
	lines, err := capture.ParseLines("SDA=SDA,SCL=SCL", of.Channels())
	if err != nil {
		t.Fatal(err)
	}
	what := capture.Identify(session, of.Channels(), lines)
	mod, err := m.Display.Module()
	if err != nil || len(what) == 0 {
		t.Fatal(err, what)
	}
	direct, err := replay.NewReplay(&what[0], mod, session)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range session {
		direct.Take(c)
	}
	decoded := sigrok("-i", name("gate.sr"), "-P", "i2c:scl=SCL:sda=SDA") // line by line, as a list
	listed, err := replay.Open(func() (capture.Source, error) {
		return Open(strings.NewReader(decoded), int64(len(decoded)), Options{})
	})
	if err == nil {
		err = listed.Find(nil)
	}
	if err != nil {
		t.Fatal(err)
	}
	again, err := listed.Play(mod, -1, replay.Watch{})
	if err != nil {
		t.Fatal(err)
	}
	if g, want := again.Glass(), direct.Glass(); !slices.Equal(g.Text(mod.ROM), want.Text(mod.ROM)) {
		t.Errorf("its list of bytes shows %q", g.Text(mod.ROM))
	}
	if direct.Bytes != len(sent) {
		t.Errorf("%d bytes are replayed; expected %d", direct.Bytes, len(sent))
	}
	g := direct.Glass()
	if got := g.Text(mod.ROM); strings.TrimRight(got[0], " ") != "Tide 3.2 m" || strings.TrimRight(got[1], " ") != "High 14:05" {
		t.Errorf("the glass shows %q", got)
	}
}

// TestWritten reads what was written of a recording in each format: the same; and what sigrok-cli makes of our session.
func TestWritten(t *testing.T) {
	m := capturetest.Of20x4(link.ShiftReg)
	list, _ := capturetest.Recorded(t, rand.New(rand.NewPCG(27, 12)), &m, capturetest.Demo, time.Microsecond)
	list = capturetest.Only(list, 1<<capturetest.Channels-1) // a microsecond takes some edges together
	recorded := capture.Memory{Names: []string{"latch", "a", "b", "", "e", "f", "g", "h", "i", "j", "k", "l"}, List: list, Step: time.Microsecond}
	var dump, table, session bytes.Buffer
	for _, err := range []error{vcd.WriteSource(&dump, recorded.Source()), samplecsv.Write(&table, recorded.Source()), sessionzip.Write(&session, recorded.Source(), sessionzip.UsualRate)} {
		if err != nil {
			t.Fatal(err)
		}
	}
	for name, data := range map[string][]byte{"dump": dump.Bytes(), "table": table.Bytes(), "session": session.Bytes()} {
		s, err := Open(bytes.NewReader(data), int64(len(data)), Options{})
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		got, err := all(t, s)
		if name == "session" { // which has whole bytes of channels
			got = capturetest.Only(got, 1<<capturetest.Channels-1)
		}
		if err != nil || !slices.Equal(got, list) || s.Channels()[0] != "latch" || s.Channels()[3] != "D3" {
			t.Errorf("%s: %d changes of %d, %v, %v", name, len(got), len(list), s.Channels(), err)
		}
	}
	name := filepath.Join(t.TempDir(), "ours.sr")
	if err := os.WriteFile(name, session.Bytes(), 0o644); err != nil {
		t.Fatal(err)
	}
	out, err := exec.CommandContext(t.Context(), "sigrok-cli", "-i", name, "-O", "csv").Output()
	if err != nil {
		t.Fatal("sigrok-cli: ", err)
	}
	s, err := Open(bytes.NewReader(out), int64(len(out)), Options{})
	if err != nil {
		t.Fatal(err)
	}
	if got, err := all(t, s); err != nil || !slices.Equal(got, list) {
		t.Errorf("sigrok-cli reads %d changes of %d in our session, %v", len(got), len(list), err)
	}
}

// FuzzOpen reads anything: it ends, and its times are in their order.
func FuzzOpen(f *testing.F) {
	f.Add([]byte("$timescale 1 ns $end $var wire 1 ! E $end $var wire 3 # D [2:0] $end $enddefinitions $end\n#0\n1!\nb101 #\n#5\n0!\n"), 0.0)
	f.Add([]byte("Time [us],E,RS\n0,1,0\n5,0,1\n"), 0.0)
	f.Add([]byte("; Samplerate: 1 MHz\nlogic,logic\n1,0\n"), 0.0)
	f.Add([]byte("i2c-1: Start\ni2c-1: Address write: 27\ni2c-1: ACK\ni2c-1: Data write: 0C\n"), 0.0)
	f.Add([]byte{0, 1, 2, 3}, 1e6)
	f.Fuzz(func(t *testing.T, data []byte, rate float64) {
		s, err := Open(bytes.NewReader(data), int64(len(data)), Options{Rate: rate})
		if err != nil {
			return
		}
		if n := len(s.Channels()); n < 1 || n > capture.MaxChannels {
			t.Fatalf("%d channels", n)
		}
		before := time.Duration(-1)
		for range 100_000 {
			c, err := s.Next()
			if err != nil {
				return
			}
			if c.At < before {
				t.Fatalf("%v after %v", c.At, before)
			}
			before = c.At
		}
	})
}
