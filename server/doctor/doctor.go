// Package doctor looks over what the program stands on: its directory, the database, the disk, the address, serial ports, the
// tools that it calls, the browser. It changes nothing, opens no serial port, and says what to do where something is wrong.
//
// It stands above server/store and server/compile; the command line and the API print what it finds.
package doctor

import (
	"errors"
	"fmt"
	"io/fs"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"time"

	"slatebell/live/ports"
	"slatebell/server/browse"
	"slatebell/server/compile"
	"slatebell/server/journal"
	"slatebell/server/store"
)

// State is how something stands.
type State string

// States, from good to bad.
const (
	OK    State = "ok"
	Note  State = "note"  // it works, and something is missing that some need
	Wrong State = "wrong" // something does not work, or soon will not
)

// Check is one thing that was looked at.
type Check struct {
	Name  string `json:"name" enum:"directory,database,copies,disk,log,address,serial,compile,upload,browser"`
	State State  `json:"state" enum:"ok,note,wrong"`
	Says  string `json:"says" doc:"what was found"`
	Todo  string `json:"todo,omitempty" doc:"what to do about it"`
}

// Program says which program looked.
type Program struct {
	Version string `json:"version"`
	Commit  string `json:"commit,omitempty"`
	Date    string `json:"date,omitempty" doc:"of the commit"`
	System  string `json:"system" doc:"operating system and processor, as Go calls them"` // Examine fills it in
}

// Report is all that was looked at.
type Report struct {
	Program Program   `json:"program"`
	At      time.Time `json:"at"`
	Checks  []Check   `json:"checks" nullable:"false"`
}

// State returns the worst of all.
func (r *Report) State() State {
	worst := OK
	for _, c := range r.Checks {
		if c.State == Wrong || c.State == Note && worst == OK {
			worst = c.State
		}
	}
	return worst
}

// Options say what to look at.
type Options struct {
	Program Program
	Dir     string   // of the database
	Addr    string   // that the program listens on; "" where it listens already
	Ports   []string // serial ports that were named beside those that the computer lists
}

// Room on the disk, in bytes, below which something is said: a copy of a large database, with the pictures of its log, has some hundred MB.
const (
	scarce = 500 << 20
	none   = 50 << 20
)

// Examine looks at everything. It reads the whole database once.
func Examine(o Options) Report {
	o.Program.System = runtime.GOOS + "/" + runtime.GOARCH
	r := Report{Program: o.Program, At: time.Now().UTC().Truncate(time.Second)}
	add := func(name string, state State, says, todo string) {
		r.Checks = append(r.Checks, Check{name, state, says, todo})
	}
	exists := directory(o.Dir, add)
	if exists {
		database(o.Dir, add)
		copies(o.Dir, add)
	}
	disk(o.Dir, add)
	logFile(o.Dir, add)
	if o.Addr != "" {
		address(o.Addr, add)
	}
	serial(o.Ports, add)
	tools(add)
	if err := browse.Found(); err != nil {
		add("browser", Note, err.Error(), "open the address that the program prints by yourself")
	} else {
		add("browser", OK, "the page opens by itself", "")
	}
	return r
}

type adder func(name string, state State, says, todo string)

// directory looks at the data directory, and reports whether it is there.
func directory(dir string, add adder) bool {
	info, err := os.Stat(dir)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		add("directory", Note, dir+" is not there yet", "the program makes it when it is first started")
		return false
	case err != nil:
		add("directory", Wrong, err.Error(), "allow this user to read it, or name another one with --data")
		return false
	case !info.IsDir():
		add("directory", Wrong, dir+" is a file", "name a directory with --data")
		return false
	}
	trial, err := os.CreateTemp(dir, ".doctor-")
	if err != nil {
		add("directory", Wrong, fmt.Sprintf("%s cannot be written: %v", dir, err), "allow this user to write it, or name another one with --data")
		return true
	}
	trial.Close()
	os.Remove(trial.Name())
	add("directory", OK, dir, "")
	return true
}

func database(dir string, add adder) {
	path := filepath.Join(dir, store.FileName)
	c, err := store.Examine(path)
	var trouble *store.Trouble
	switch {
	case errors.Is(err, fs.ErrNotExist):
		add("database", Note, path+" is not there yet", "the program makes it when it is first started")
	case errors.As(err, &trouble):
		add("database", Wrong, trouble.What(), trouble.Todo())
	case err != nil:
		add("database", Wrong, err.Error(), "")
	case len(c.Damage) > 0:
		damaged := store.Trouble{Kind: store.Corrupt, Path: path}
		add("database", Wrong, path+" is damaged: "+strings.Join(c.Damage, "; "), damaged.Todo())
	default:
		says := fmt.Sprintf("%s is whole: %s, schema %d, %s", path, Held(c), c.Schema, size(uint64(c.Bytes)))
		if !c.Current() {
			add("database", Note, says, "it is brought up to date when the program is started, after a copy was kept")
			return
		}
		add("database", OK, says, "")
	}
}

// Held says what a database holds.
func Held(c store.Condition) string {
	return fmt.Sprintf("benches: %d on the shelf, %d in the bin; entries of their logs: %d", c.Benches, c.Binned, c.Entries)
}

func copies(dir string, add adder) {
	list, err := store.Copies(dir)
	if err != nil {
		add("copies", Wrong, err.Error(), "allow this user to read and write the directory")
		return
	}
	if len(list) == 0 {
		add("copies", Note, "no copy of the database was made yet", "the program makes one a day while it runs; slatebell backup FILE makes one anywhere")
		return
	}
	add("copies", OK, fmt.Sprintf("%d in %s, the latest of %s", len(list), filepath.Dir(list[0].Path), list[0].At.Format("2006-01-02 15:04")), "")
}

// disk looks at the room where the directory lies, or will lie.
func disk(dir string, add adder) {
	for {
		if _, err := os.Stat(dir); err == nil || filepath.Dir(dir) == dir {
			break
		}
		dir = filepath.Dir(dir)
	}
	free, err := free(dir)
	switch {
	case err != nil:
		add("disk", Note, fmt.Sprintf("how much room there is cannot be told: %v", err), "")
	case free < none:
		add("disk", Wrong, size(free)+" are free", "make room: below 50 MB changes may not be saved")
	case free < scarce:
		add("disk", Note, size(free)+" are free", "make room: copies of the database may soon find none")
	default:
		add("disk", OK, size(free)+" are free", "")
	}
}

func logFile(dir string, add adder) {
	path := filepath.Join(dir, journal.FileName)
	info, err := os.Stat(path)
	if err != nil {
		add("log", Note, path+" is not there yet", "the program writes it when it is first started")
		return
	}
	add("log", OK, fmt.Sprintf("%s, %s", path, size(uint64(info.Size()))), "")
}

// address looks whether the program could listen.
func address(addr string, add adder) {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		add("address", Note, fmt.Sprintf("%s is taken: %v", addr, err), "it may be this program that runs already: open http://"+addr+"/; else choose another address with --addr")
		return
	}
	l.Close()
	add("address", OK, addr+" is free", "")
}

func serial(named []string, add adder) {
	list, err := ports.List(named...)
	var real, shut []string
	for _, p := range list {
		if ports.Simulated(p.Name) {
			continue
		}
		if usable(p.Name) != nil {
			shut = append(shut, p.Name)
		}
		if p.What != "" {
			p.Name += " (" + p.What + ")"
		}
		real = append(real, p.Name)
	}
	switch {
	case err != nil:
		add("serial", Note, err.Error(), "the stand-in is there all the same")
	case len(shut) > 0:
		add("serial", Wrong, "this user may not open "+strings.Join(shut, ", "), "add the user to the group that owns it (on Debian: sudo usermod -aG dialout NAME, and log in again)")
	case len(real) == 0:
		add("serial", Note, "no board is at a serial port", "plug one in: some cables only charge; the stand-in is there all the same")
	default:
		add("serial", OK, strings.Join(real, ", "), "")
	}
}

// tools looks for what compiles and uploads.
func tools(add adder) {
	const want = "only who compiles here needs it; the exported program is compiled anywhere"
	if _, err := compile.Find(); err != nil {
		add("compile", Note, err.Error(), want)
	} else {
		add("compile", OK, firstLine("avr-gcc", "--version"), "")
	}
	if _, err := compile.FindUploader(); err != nil {
		add("upload", Note, err.Error(), "only who uploads from the page needs it")
	} else {
		add("upload", OK, "avr-objcopy and avrdude are there", "")
	}
}

// firstLine returns the first line that a tool says.
func firstLine(tool string, args ...string) string {
	out, err := exec.Command(tool, args...).Output()
	if err != nil {
		return fmt.Sprintf("%s is there, and failed: %v", tool, err)
	}
	line, _, _ := strings.Cut(string(out), "\n")
	return strings.TrimSpace(line)
}

// size returns a number of bytes in a unit that people read.
func size(n uint64) string {
	switch {
	case n < 1000:
		return fmt.Sprintf("%d B", n)
	case n < 1e6:
		return fmt.Sprintf("%.1f kB", float64(n)/1e3)
	case n < 1e9:
		return fmt.Sprintf("%.1f MB", float64(n)/1e6)
	}
	return fmt.Sprintf("%.1f GB", float64(n)/1e9)
}
