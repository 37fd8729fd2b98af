package main

import (
	"archive/zip"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"slatebell/server/doctor"
	"slatebell/server/store"
)

// TestRestore goes back to a copy on the command line, and to what was there before that.
func TestRestore(t *testing.T) {
	data, away := t.TempDir(), t.TempDir()
	copied := filepath.Join(away, "copy.db")
	demo, _, _ := try("", "bench", "--demo")
	if _, errs, code := try(demo, "import", "-", "--data", data); code != 0 {
		t.Fatal(errs)
	}
	if _, errs, code := try("", "restore", "--data", data); code != 1 || !strings.Contains(errs, "there are no copies in ") {
		t.Errorf("without a copy: exit %d, %s", code, errs)
	}
	if _, errs, code := try("", "backup", copied, "--data", data); code != 0 {
		t.Fatal(errs)
	}
	try(demo, "import", "-", "--data", data)
	out, errs, code := try("", "restore", copied, "--data", data)
	if code != 0 || !strings.HasPrefix(out, "restored "+copied+": benches: 1 on the shelf, 0 in the bin; entries of their logs: ") || strings.Contains(out, "logs: 0") {
		t.Fatalf("exit %d, %s%s", code, out, errs)
	}
	listed, _, code := try("", "restore", "--data", data)
	kept := strings.Split(listed, "\t")
	if code != 0 || len(kept) != 3 || kept[2] != "before another was put in its place\n" || !strings.Contains(out, "kept as "+kept[1]) {
		t.Fatalf("exit %d, %q", code, listed)
	}
	for file, want := range map[string]int{copied: 1, kept[1]: 2} {
		if _, errs, code := try("", "restore", file, "--data", data); code != 0 {
			t.Fatal(errs)
		}
		if out, _, _ := try("", "benches", "--data", data); strings.Count(out, "Quillfish Landing") != want {
			t.Errorf("%s holds %s", file, out)
		}
	}
	if _, errs, code := try("", "restore", "a", "b", "--data", data); code != 2 || !strings.Contains(errs, "2 arguments") {
		t.Errorf("two copies: exit %d, %s", code, errs)
	}
}

// TestDoctor looks over directories of several conditions, in both forms, and a report of them.
func TestDoctor(t *testing.T) {
	home := t.TempDir()
	t.Setenv("HOME", home)
	data := filepath.Join(home, "bench data")
	look := func(wantExit int) map[string]doctor.Check {
		t.Helper()
		text, _, code := try("", "doctor", "--data", data, "--addr", "127.0.0.1:0")
		if code != wantExit {
			t.Errorf("exit %d, want %d: %s", code, wantExit, text)
		}
		out, _, code := try("", "doctor", "--data", data, "--addr", "127.0.0.1:0", "--format", "json")
		var r doctor.Report
		if err := json.Unmarshal([]byte(out), &r); err != nil || code != wantExit {
			t.Fatalf("exit %d, %v: %s", code, err, out)
		}
		checks := map[string]doctor.Check{}
		for _, c := range r.Checks {
			checks[c.Name] = c
			if !strings.Contains(text, string(c.State)) || !strings.Contains(text, c.Says) || !strings.Contains(text, c.Todo) {
				t.Errorf("the text lacks %+v: %s", c, text)
			}
			if (c.State == doctor.Wrong) && c.Todo == "" {
				t.Errorf("%s is wrong, and nothing says what to do: %s", c.Name, c.Says)
			}
		}
		return checks
	}
	if c := look(0); c["directory"].State != doctor.Note || c["disk"].State == doctor.Wrong || c["address"].State != doctor.OK {
		t.Errorf("before the first start: %+v", c)
	}
	demo, _, _ := try("", "bench", "--demo")
	if _, errs, code := try(demo, "import", "-", "--data", data); code != 0 {
		t.Fatal(errs)
	}
	if c := look(0); c["database"].State != doctor.OK || !strings.Contains(c["database"].Says, "is whole: benches: 1 on the shelf, 0 in the bin; ") || c["copies"].State != doctor.Note {
		t.Errorf("with a bench: %+v", c)
	}
	if entries, err := os.ReadDir(data); err != nil || len(entries) != 1 {
		t.Errorf("the doctor has left %v, %v", entries, err)
	}

	report := filepath.Join(home, "report.zip")
	files := func(args ...string) map[string]string {
		t.Helper()
		os.Remove(report)
		if _, errs, code := try("", append([]string{"report", report, "--data", data}, args...)...); code != 0 {
			t.Fatal(errs)
		}
		z, err := zip.OpenReader(report)
		if err != nil {
			t.Fatal(err)
		}
		defer z.Close()
		out := map[string]string{}
		for _, f := range z.File {
			r, err := f.Open()
			if err != nil {
				t.Fatal(err)
			}
			text, err := io.ReadAll(r)
			if err != nil {
				t.Fatal(err)
			}
			out[f.Name] = string(text)
		}
		return out
	}
	plain := files()
	for name, text := range plain {
		if strings.Contains(text, home) || strings.Contains(text, "Quillfish") {
			t.Errorf("%s tells of the user or of a bench: %s", name, text)
		}
	}
	if !strings.Contains(plain["doctor.txt"], "~/bench data") || len(plain) != 4 {
		t.Errorf("%d files: %s", len(plain), plain["doctor.txt"])
	}
	if added := files("--bench", "1"); !strings.Contains(added["bench-1.json"], "Quillfish Landing") || len(added) != 5 {
		t.Errorf("%d files with a bench", len(added))
	}
	if _, errs, code := try("", "report", report, "--data", data); code != 1 || !strings.Contains(errs, "is there already") {
		t.Errorf("a second report: exit %d, %s", code, errs)
	}
	if _, errs, code := try("", "report", report+"2", "--data", data, "--bench", "7"); code != 1 || !strings.Contains(errs, "bench 7: no such bench") {
		t.Errorf("of no bench: exit %d, %s", code, errs)
	}

	path := filepath.Join(data, store.FileName)
	whole, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	damaged := slices.Clone(whole)
	for i := len(damaged) / 2; i < len(damaged)/2+4096; i++ {
		damaged[i] ^= 0x5A
	}
	os.WriteFile(path, damaged, 0o644)
	if c := look(1); c["database"].State != doctor.Wrong || !strings.Contains(c["database"].Todo, "slatebell restore FILE") {
		t.Errorf("damaged: %+v", c["database"])
	}
	if broken := files(); !strings.Contains(broken["doctor.txt"], "wrong  database") {
		t.Errorf("a report of a damaged database: %s", broken["doctor.txt"])
	}
}
