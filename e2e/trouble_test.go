package e2e

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/e2e/harness"
	"slatebell/internal/soak"
	"slatebell/server/store"
)

// typist is one of those who have bench 1 open at once, and types on a module of its own.
type typist struct {
	module, n     int
	revision      int    // that it knows
	stored, asked string // the text that was acknowledged last, and the one that was sent last
}

// types stores one text after the other, as fast as they are answered, until the program does not answer any more. Each first one is told.
func (y *typist) types(url string, first chan<- bool) {
	for {
		y.n++
		y.asked = fmt.Sprintf("%d.%d", y.module, y.n)
		body := fmt.Sprintf(`[{"op": "replace", "path": "/modules/%d/screens/0/rows/0", "value": %q}]`, y.module, y.asked)
		req, err := http.NewRequest("PATCH", url+"/api/benches/1", strings.NewReader(body))
		if err != nil {
			return
		}
		req.Header.Set("Content-Type", "application/json-patch+json")
		req.Header.Set("If-Match", fmt.Sprintf("%q", fmt.Sprint(y.revision)))
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			return
		}
		var answer struct{ Revision int }
		err = json.NewDecoder(res.Body).Decode(&answer)
		res.Body.Close()
		if res.StatusCode != http.StatusOK || err != nil {
			return
		}
		y.stored, y.revision = y.asked, answer.Revision
		select {
		case first <- true:
		default:
		}
	}
}

// TestKills kills the program again and again while eight store one change after the other: no acknowledged change is lost, and none is half
// there.
func TestKills(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	random := rand.New(rand.NewPCG(9, 200))
	begun, err := harness.Serve(binary, dir, "")
	if err != nil {
		t.Fatal(err)
	}
	b := bench.New("Tide board")
	one := b.Modules[0]
	b.Modules = nil
	var all []*typist
	for i := range 8 {
		one.ID, one.Screens = fmt.Sprint("module-", i+1), []bench.Screen{{ID: "screen-1", Rows: []string{"Tide"}}}
		b.Modules = append(b.Modules, one)
		all = append(all, &typist{module: i, stored: "Tide", asked: "Tide"})
	}
	storeBench(t, begun, b)
	if err := begun.Stop(); err != nil {
		t.Fatal(err)
	}
	acknowledged, kills, sent := 1, 0, 0
	for kill := range soak.Rounds(60) {
		server, err := harness.Serve(binary, dir, "")
		if err != nil {
			t.Fatalf("after %d kills: %v", kill, err)
		}
		found, doc := benchOneAt(t, server.URL)
		if found < acknowledged || found > acknowledged+len(all) { // as many more may have been stored and not been answered
			t.Fatalf("after %d kills revision %d is stored, %d was acknowledged", kill, found, acknowledged)
		}
		for _, y := range all {
			if got := rows(doc, y.module); got != y.stored && got != y.asked {
				t.Fatalf("after %d kills %q stands where %q was acknowledged and %q was sent", kill, got, y.stored, y.asked)
			}
			y.revision, y.stored = found, rows(doc, y.module)
		}
		first := make(chan bool, 1)
		var typing sync.WaitGroup
		for _, y := range all {
			typing.Go(func() { y.types(server.URL, first) })
		}
		if kill%2 == 0 { // between changes; else maybe before the first
			<-first
		}
		time.Sleep(time.Duration(random.IntN(80_000)) * time.Microsecond)
		if err := server.Kill(); err != nil {
			t.Fatal(err)
		}
		typing.Wait()
		acknowledged, kills = found, kill+1
		for _, y := range all {
			acknowledged = max(acknowledged, y.revision)
		}
	}
	for _, y := range all {
		sent += y.n
	}
	t.Logf("%d kills, %d changes sent, %d acknowledged", kills, sent, acknowledged-1)
	if acknowledged < 30 {
		t.Errorf("only %d changes were acknowledged between the kills", acknowledged)
	}
}

// smallDisk mounts a file system of 2 MB in memory.
func smallDisk(t *testing.T) (dir string, remount func(options string)) {
	t.Helper()
	if os.Geteuid() != 0 {
		t.Skip("only root may mount a file system")
	}
	dir = filepath.Join(t.TempDir(), "disk")
	if err := os.Mkdir(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	run := func(args ...string) {
		t.Helper()
		if out, err := exec.Command("mount", args...).CombinedOutput(); err != nil {
			t.Fatalf("mount %s: %v, %s", strings.Join(args, " "), err, out)
		}
	}
	run("-t", "tmpfs", "-o", "size=2m", "tmpfs", dir)
	t.Cleanup(func() { exec.Command("umount", "-l", dir).Run() })
	return dir, func(options string) { run("-o", "remount,"+options, dir) }
}

// TestFullDisk fills the disk while text is typed: the page says so and goes on,
// nothing acknowledged is lost, and all is stored once there is room.
func TestFullDisk(t *testing.T) {
	t.Parallel()
	dir, _ := smallDisk(t)
	server, p := composing(t, dir)
	p.keys("Stored")
	p.settle()
	filler := filepath.Join(dir, "tide-tables")
	f, err := os.Create(filler)
	if err != nil {
		t.Fatal(err)
	}
	for block := make([]byte, 512); err == nil; {
		_, err = f.Write(block)
	}
	f.Close()
	for i := range 30 { // what room the write-ahead log had left is used up first
		p.keys(kb.Home + fmt.Sprintf("Full %02d", i))
		time.Sleep(200 * time.Millisecond)
		if eval[bool](p, saved+`.startsWith("Not saved")`) {
			break
		}
	}
	until(p, saved+`.startsWith("Not saved: there is no room left where the database `+filepath.Join(dir, store.FileName)+` lies: make room on that disk; saving goes on by itself")`, true)
	p.keys(kb.Home + "Afloat!")
	p.glass(16, "Afloat!SH  GATE", "Tide 3.2m →14:05")
	if got := rows(stored(t, server, 1), 0); !strings.HasPrefix(got, "Stored") && !strings.HasPrefix(got, "Full") {
		t.Errorf("what was acknowledged is lost: %q", got)
	}
	os.Remove(filler)
	p.settle()
	if got := rows(stored(t, server, 1), 0); got != "Afloat!SH  GATE|Tide 3.2m →14:05" {
		t.Errorf("stored %q", got)
	}
}

// TestReadOnlyDisk starts on a disk that cannot be written: the bench opens, the
// page takes changes, and they are stored once the disk can be written.
func TestReadOnlyDisk(t *testing.T) {
	t.Parallel()
	dir, remount := smallDisk(t)
	server, err := harness.Serve(binary, dir, "", "--demo")
	if err != nil {
		t.Fatal(err)
	}
	if err := server.Stop(); err != nil {
		t.Fatal(err)
	}
	remount("ro")
	if server, err = harness.Serve(binary, dir, ""); err != nil {
		t.Fatal(err)
	}
	defer server.Stop()
	p := open(t, server.URL+"/benches/1/gate/screens")
	p.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "Ebb")
	p.glass(16, "EbbLLFISH  GATE", "Tide 3.2m →14:05")
	until(p, saved+`.startsWith("Not saved: the database `+filepath.Join(dir, store.FileName)+` cannot be written: allow this user to write the file and its directory")`, true)
	p.keys(" tide")
	p.glass(16, "Ebb tideH  GATE", "Tide 3.2m →14:05")
	remount("rw")
	p.settle()
	if got := rows(stored(t, server, 1), 0); got != "Ebb tideH  GATE|Tide 3.2m →14:05" {
		t.Errorf("stored %q", got)
	}
}

// TestLockedDatabase lets another program hold the database while text is typed.
func TestLockedDatabase(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	server, p := composing(t, dir)
	other, err := sql.Open("sqlite", filepath.Join(dir, store.FileName))
	if err != nil {
		t.Fatal(err)
	}
	defer other.Close()
	other.SetMaxOpenConns(1)
	if _, err := other.Exec("BEGIN IMMEDIATE"); err != nil {
		t.Fatal(err)
	}
	p.keys("Moored")
	until(p, saved+`.startsWith("Not saved: another program holds the database")`, true)
	p.keys("?")
	p.glass(16, "Moored?SH  GATE", "Tide 3.2m →14:05")
	if _, err := other.Exec("ROLLBACK"); err != nil {
		t.Fatal(err)
	}
	p.settle()
	if got := rows(stored(t, server, 1), 0); got != "Moored?SH  GATE|Tide 3.2m →14:05" {
		t.Errorf("stored %q", got)
	}
}

// TestDamagedDatabase finds no database where one was: the program says what to
// do, a copy made while it ran takes its place, and the page, open all the
// while, stores what was typed.
func TestDamagedDatabase(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	server, p := composing(t, dir)
	p.keys("Copied")
	p.settle()
	copied := filepath.Join(t.TempDir(), "copy.db")
	command(t, "", "backup", copied, "--data", dir) // while the program runs
	addr := server.Addr()
	if err := server.Kill(); err != nil {
		t.Fatal(err)
	}
	p.keys(" later")
	until(p, saved+`.startsWith("Not saved")`, true)
	file := filepath.Join(dir, store.FileName)
	for _, name := range []string{file + "-wal", file + "-shm"} {
		os.Remove(name)
	}
	if err := os.WriteFile(file, []byte(strings.Repeat("seaweed ", 4000)), 0o644); err != nil {
		t.Fatal(err)
	}
	_, errs, err := harness.Command(context.Background(), binary, "", "serve", "--data", dir, "--addr", addr)
	if want := file + " is no Slate Bell database, or a damaged one: put a copy in its place by “slatebell restore FILE”"; err != nil || !strings.Contains(errs, want) {
		t.Errorf("%v, %q, want %q", err, errs, want)
	}
	data, err := os.ReadFile(copied)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(file, data, 0o644); err != nil {
		t.Fatal(err)
	}
	if server, err = harness.Serve(binary, dir, addr); err != nil {
		t.Fatal(err)
	}
	defer server.Stop()
	p.glass(16, "Copied laterATE", "Tide 3.2m →14:05")
	p.settle()
	if got := rows(stored(t, server, 1), 0); got != "Copied laterATE|Tide 3.2m →14:05" {
		t.Errorf("stored %q", got)
	}
}
