package main

import (
	"archive/tar"
	"archive/zip"
	"bufio"
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"debug/elf"
	"debug/macho"
	"debug/pe"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"
)

// dist is what make release has written, whose absolute path it names; without it there is nothing to look at.
func dist(t *testing.T) string {
	t.Helper()
	dir := os.Getenv("DIST")
	if dir == "" {
		t.Skip("make release runs this, on what it has built")
	}
	return dir
}

// unpacked returns the files of an archive, by their names.
func unpacked(t *testing.T, name string) map[string][]byte {
	t.Helper()
	out := map[string][]byte{}
	read := func(name string, r io.Reader) {
		data, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		out[name] = data
	}
	if strings.HasSuffix(name, ".zip") {
		z, err := zip.OpenReader(name)
		if err != nil {
			t.Fatal(err)
		}
		defer z.Close()
		for _, f := range z.File {
			r, err := f.Open()
			if err != nil {
				t.Fatal(err)
			}
			read(f.Name, r)
		}
		return out
	}
	f, err := os.Open(name)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	z, err := gzip.NewReader(f)
	if err != nil {
		t.Fatal(err)
	}
	for r := tar.NewReader(z); ; {
		h, err := r.Next()
		if err == io.EOF {
			return out
		}
		if err != nil {
			t.Fatal(err)
		}
		read(h.Name, r)
	}
}

// machine says what a binary is for, as its own header has it.
func machine(data []byte) string {
	r := bytes.NewReader(data)
	if f, err := elf.NewFile(r); err == nil {
		if libs, _ := f.ImportedLibraries(); len(libs) > 0 || f.Section(".interp") != nil {
			return "linked with libraries"
		}
		return map[elf.Machine]string{elf.EM_X86_64: "linux-amd64", elf.EM_AARCH64: "linux-arm64", elf.EM_ARM: "linux-armv6"}[f.Machine]
	}
	if f, err := pe.NewFile(r); err == nil {
		return map[uint16]string{pe.IMAGE_FILE_MACHINE_AMD64: "windows-amd64", pe.IMAGE_FILE_MACHINE_ARM64: "windows-arm64"}[f.Machine]
	}
	if f, err := macho.NewFile(r); err == nil {
		return map[macho.Cpu]string{macho.CpuAmd64: "darwin-amd64", macho.CpuArm64: "darwin-arm64"}[f.Cpu]
	}
	return "nothing"
}

// TestHandedOut looks at all that was built: checksums, what is in each archive, for which machine, how large.
func TestHandedOut(t *testing.T) {
	dir := dist(t)
	sums, err := os.ReadFile(filepath.Join(dir, sums))
	if err != nil {
		t.Fatal(err)
	}
	lines := strings.Split(strings.TrimSpace(string(sums)), "\n")
	for _, l := range lines {
		want, name, _ := strings.Cut(l, "  ")
		data, err := os.ReadFile(filepath.Join(dir, name))
		if err != nil || fmt.Sprintf("%x", sha256.Sum256(data)) != want {
			t.Errorf("%s is not what its checksum says, %v", name, err)
		}
	}
	if want := len(targets) + 3 + 1; len(lines) != want {
		t.Errorf("%d files are handed out, want %d", len(lines), want)
	}
	for _, target := range targets {
		names, _ := filepath.Glob(filepath.Join(dir, "slatebell-*-"+target.String()+".*"))
		if len(names) != 1 {
			t.Errorf("%s: %v", target, names)
			continue
		}
		files := unpacked(t, names[0])
		program := files["slatebell/"+target.binary()]
		if got := machine(program); got != target.String() || len(program) > mostBytes {
			t.Errorf("%s: the binary is for %s, and has %d bytes", target, got, len(program))
		}
		for _, name := range []string{"README.md", "NOTICES.txt", "man/man1/slatebell.1", "man/man1/slatebell-serve.1", "completion/slatebell.bash"} {
			if len(files["slatebell/"+name]) == 0 {
				t.Errorf("%s lacks %s", target, name)
			}
		}
	}
	bills, _ := filepath.Glob(filepath.Join(dir, "*.cdx.json"))
	data, err := os.ReadFile(bills[0])
	var bill struct {
		BomFormat  string
		Components []struct{ Name string }
	}
	if err != nil || json.Unmarshal(data, &bill) != nil || bill.BomFormat != "CycloneDX" || !slices.Contains(bill.Components, struct{ Name string }{"github.com/gin-gonic/gin"}) || !slices.Contains(bill.Components, struct{ Name string }{"react"}) {
		t.Errorf("the bill of materials is %.200s, %v", data, err)
	}
}

// TestAgain builds this machine's archive and package once more: they have the same bytes.
func TestAgain(t *testing.T) {
	dir := dist(t)
	again := t.TempDir()
	cmd := exec.Command("go", append([]string{"run", "./internal/release", "-out", again, "-only", here().String()}, strings.Fields(os.Getenv("RELEASE_FLAGS"))...)...)
	cmd.Dir = "../.."
	if err := run(cmd); err != nil {
		t.Fatal(err)
	}
	for _, pattern := range []string{"slatebell-*-" + here().String() + ".*", "*_amd64.deb", "*.cdx.json"} {
		first, _ := filepath.Glob(filepath.Join(dir, pattern))
		second, _ := filepath.Glob(filepath.Join(again, pattern))
		if len(first) != 1 || len(second) != 1 {
			t.Fatalf("%s: %v, %v", pattern, first, second)
		}
		a, _ := os.ReadFile(first[0])
		b, _ := os.ReadFile(second[0])
		if !bytes.Equal(a, b) {
			t.Errorf("%s differs when it is built again", filepath.Base(first[0]))
		}
	}
}

// TestFresh starts programs in a directory that has nothing else: they open, work, take the database of the first program over, and go away
// with the directory. Those of other processors run on Debian's emulators, where they are here.
func TestFresh(t *testing.T) {
	dir := dist(t)
	for name, emulator := range map[string]string{here().String(): "", "linux-arm64": "qemu-aarch64-static", "linux-armv6": "qemu-arm-static"} {
		if emulator != "" {
			if _, err := exec.LookPath(emulator); err != nil || runtime.GOOS != "linux" {
				t.Logf("%s was not started: there is no %s", name, emulator)
				continue
			}
		}
		archives, _ := filepath.Glob(filepath.Join(dir, "slatebell-*-"+name+".tar.gz"))
		fresh := t.TempDir()
		program := filepath.Join(fresh, "slatebell")
		if err := os.WriteFile(program, unpacked(t, archives[0])["slatebell/slatebell"], 0o755); err != nil {
			t.Fatal(err)
		}
		start := func(args ...string) *exec.Cmd {
			line := append([]string{program}, args...)
			if emulator != "" {
				line = append([]string{emulator}, line...)
			}
			cmd := exec.Command(line[0], line[1:]...)
			cmd.Env = []string{"HOME=" + fresh}
			return cmd
		}
		if out, err := start("--version").Output(); err != nil || !strings.Contains(string(out), ", commit ") || !strings.Contains(string(out), ", of 20") {
			t.Errorf("%s says it is %s, %v", name, out, err)
		}
		serve := func(do func(url string)) {
			cmd := start("serve", "--addr", "127.0.0.1:0")
			out, err := cmd.StdoutPipe()
			if err != nil {
				t.Fatal(err)
			}
			if err := cmd.Start(); err != nil {
				t.Fatal(err)
			}
			said := bufio.NewScanner(out)
			said.Scan()
			_, url, _ := strings.Cut(said.Text(), "Slate Bell is at ")
			url, _, _ = strings.Cut(url, "/ ")
			do(url)
			cmd.Process.Signal(os.Interrupt)
			if err := cmd.Wait(); err != nil {
				t.Errorf("%s ends with %v", name, err)
			}
		}
		get := func(method, url string) (string, int) {
			req, _ := http.NewRequest(method, url, nil)
			res, err := (&http.Client{Timeout: time.Minute}).Do(req)
			if err != nil {
				t.Fatal(err)
			}
			defer res.Body.Close()
			text, _ := io.ReadAll(res.Body)
			return string(text), res.StatusCode
		}
		serve(func(url string) {
			if page, code := get("GET", url+"/"); code != 200 || !strings.Contains(page, "<title>Slate Bell") {
				t.Errorf("%s: the page is %d, %.200s", name, code, page)
			}
			if _, code := get("POST", url+"/api/benches/demo"); code != 200 {
				t.Errorf("%s: the demo: %d", name, code)
			}
			if found, code := get("GET", url+"/api/benches/1/findings"); code != 200 || strings.TrimSpace(found) != "[]" {
				t.Errorf("%s: findings: %d, %s", name, code, found)
			}
		})
		data := filepath.Join(fresh, ".config", "slatebell", "slatebell.db")
		old, err := os.Open("../../server/store/testdata/schema-1.db.gz")
		if err != nil {
			t.Fatal(err)
		}
		z, err := gzip.NewReader(old)
		if err != nil {
			t.Fatal(err)
		}
		first, _ := io.ReadAll(z)
		old.Close()
		if err := os.WriteFile(data, first, 0o644); err != nil {
			t.Fatal(err)
		}
		serve(func(url string) {
			if list, code := get("GET", url+"/api/benches"); code != 200 || !strings.Contains(list, "Quillfish Landing") {
				t.Errorf("%s: of the first program's database: %d, %s", name, code, list)
			}
		})
		if out, err := start("doctor").CombinedOutput(); err != nil {
			t.Errorf("%s: the doctor says %s, %v", name, out, err)
		}
	}
}

// TestInstalled installs the package, starts it by its unit's command line, removes it, and purges it. It changes this machine, so that it has to be
// asked for.
func TestInstalled(t *testing.T) {
	dir := dist(t)
	if os.Getenv("INSTALL") == "" {
		t.Skip("INSTALL=1 has the package installed on this machine, and taken off again")
	}
	packages, _ := filepath.Glob(filepath.Join(dir, "*_amd64.deb"))
	sh := func(script string) string {
		t.Helper()
		out, err := exec.Command("sh", "-ec", script).CombinedOutput()
		if err != nil {
			t.Fatalf("%s: %v\n%s", script, err, out)
		}
		return string(out)
	}
	sh("dpkg -i " + packages[0])
	if out := sh("systemd-analyze verify /usr/lib/systemd/system/slatebell.service 2>&1; test -f /usr/share/applications/slatebell.desktop; man -w slatebell"); !strings.Contains(out, "man1/slatebell.1") {
		t.Errorf("installed: %s", out)
	}
	line := sh("sed -n 's/^ExecStart=//p' /usr/lib/systemd/system/slatebell.service")
	served := sh(`su -s /bin/sh slatebell -c '` + strings.TrimSpace(line) + ` --demo --addr 127.0.0.1:8499' & sleep 3; curl -sf http://127.0.0.1:8499/api/benches; pkill -INT -u slatebell; wait`)
	if !strings.Contains(served, "Quillfish Landing") {
		t.Errorf("its unit's command line: %s", served)
	}
	sh("dpkg -r slatebell")
	if left := sh("ls -d /usr/bin/slatebell /usr/share/doc/slatebell /usr/share/man/man1/slatebell* /var/lib/slatebell 2>/dev/null || true"); left != "/var/lib/slatebell\n" {
		t.Errorf("once it is removed there is %s", left)
	}
	sh("dpkg -P slatebell")
	if left := sh("ls -d /var/lib/slatebell 2>/dev/null || true; getent passwd slatebell || true"); left != "" {
		t.Errorf("once it is purged there is %s", left)
	}
}

// TestVersions orders versions as Debian does.
func TestVersions(t *testing.T) {
	at := time.Date(2026, 11, 30, 0, 0, 0, 0, time.UTC)
	for version, want := range map[string]string{"v1.2.0": "1.2.0", "v1.2.0-3-gabcdef0": "1.2.0+3+gabcdef0", "60ebf29": "0~20261130+60ebf29", "6e0bf29": "0~20261130+6e0bf29"} {
		if got := (&release{version: version, at: at}).debianVersion(); got != want {
			t.Errorf("%s is %s, want %s", version, got, want)
		}
	}
}
