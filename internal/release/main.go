// Command release builds all that is handed out into a directory: binaries for every system in archives with
// man pages, completions and notices, a Debian package for each kind of processor, a bill of materials, and checksums. The same commit gives
// the same bytes. It is run by make release, in the repository's root.
package main

import (
	"flag"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"time"
)

// target is a system that binaries are built for.
type target struct {
	os, arch, arm string
	deb           string // Debian's name of the processor; "" where no package is built
}

var targets = []target{
	{"linux", "amd64", "", "amd64"},
	{"linux", "arm64", "", "arm64"},
	{"linux", "arm", "6", "armhf"},
	{"windows", "amd64", "", ""},
	{"windows", "arm64", "", ""},
	{"darwin", "amd64", "", ""},
	{"darwin", "arm64", "", ""},
}

func (t target) String() string {
	name := t.os + "-" + t.arch
	if t.arm != "" {
		name += "v" + t.arm
	}
	return name
}

// binary is the name of the program in an archive.
func (t target) binary() string {
	if t.os == "windows" {
		return "slatebell.exe"
	}
	return "slatebell"
}

// release is what is built, and from what.
type release struct {
	version, commit string
	at              time.Time // of the commit: the time of every file
	out, work       string
	tags            string
}

// mostBytes is how large a binary may be.
const mostBytes = 32 << 20

func main() {
	log.SetFlags(0)
	r := release{}
	only := ""
	flag.StringVar(&r.version, "version", "", "version, as git describe has it")
	flag.StringVar(&r.commit, "commit", "", "commit")
	flag.StringVar(&r.out, "out", "dist", "directory to write to; what is in it goes")
	flag.StringVar(&r.tags, "tags", "", "build tags")
	flag.StringVar(&only, "only", "", "name of the only target, such as linux-amd64")
	epoch := flag.Int64("time", 0, "time of the commit, in seconds since 1970")
	flag.Parse()
	r.at = time.Unix(*epoch, 0).UTC()
	if err := r.build(only); err != nil {
		log.Fatal(err)
	}
}

func (r *release) build(only string) error {
	if err := os.RemoveAll(r.out); err != nil {
		return err
	}
	work, err := os.MkdirTemp("", "slatebell-release")
	if err != nil {
		return err
	}
	defer os.RemoveAll(work)
	r.work = work
	if err := os.MkdirAll(r.out, 0o755); err != nil {
		return err
	}
	extras, err := r.extras()
	if err != nil {
		return err
	}
	built := false
	for _, t := range targets {
		if only != "" && t.String() != only {
			continue
		}
		built = true
		if err := r.one(t, extras); err != nil {
			return fmt.Errorf("%s: %w", t, err)
		}
	}
	if !built {
		return fmt.Errorf("no target is called %q; expected one of %v", only, targets)
	}
	if err := r.materials(); err != nil {
		return fmt.Errorf("bill of materials: %w", err)
	}
	return checksums(r.out)
}

// one builds the archive and the package of a target.
func (r *release) one(t target, extras []file) error {
	path := filepath.Join(r.work, t.String(), t.binary())
	if err := r.compile(path, t); err != nil {
		return err
	}
	info, err := os.Stat(path)
	if err != nil {
		return err
	}
	if info.Size() > mostBytes {
		return fmt.Errorf("the binary has %d bytes; expected at most %d", info.Size(), mostBytes)
	}
	log.Printf("%-16s %5.1f MB", t, float64(info.Size())/1e6)
	files := append([]file{{t.binary(), path, 0o755}}, extras...)
	name := filepath.Join(r.out, fmt.Sprintf("slatebell-%s-%s", r.version, t))
	if t.os == "windows" {
		err = zipped(name+".zip", files, r.at)
	} else {
		err = tarred(name+".tar.gz", files, r.at)
	}
	if err == nil && t.deb != "" {
		err = r.debian(t, path, extras)
	}
	return err
}

// compile builds the program for a target; tags are further ones.
func (r *release) compile(path string, t target, tags ...string) error {
	all := strings.Join(append(strings.Fields(r.tags), tags...), ",")
	flags := fmt.Sprintf("-s -w -buildid= -X main.version=%s -X main.commit=%s -X main.date=%s", r.version, r.commit, r.at.Format(time.DateOnly))
	cmd := exec.Command("go", "build", "-trimpath", "-buildvcs=false", "-tags", all, "-ldflags", flags, "-o", path, "./cmd/slatebell")
	cmd.Env = append(os.Environ(), "CGO_ENABLED=0", "GOFLAGS=", "GOOS="+t.os, "GOARCH="+t.arch, "GOARM="+t.arm)
	return run(cmd)
}

// here is the target that this machine runs.
func here() target { return target{os: runtime.GOOS, arch: runtime.GOARCH} }

func run(cmd *exec.Cmd) error {
	if text, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("%s: %w\n%s", strings.Join(cmd.Args, " "), err, text)
	}
	return nil
}
