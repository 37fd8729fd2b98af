package api

import (
	"archive/zip"
	"bytes"
	"context"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/gin-gonic/gin"

	"slatebell/core/bench"
	"slatebell/server/api/about"
	"slatebell/server/doctor"
	"slatebell/server/journal"
	"slatebell/server/store"
)

// TestCondition asks how the program is, with a copy of the night, and for reports; what fails is in the log, and nothing of a bench.
func TestCondition(t *testing.T) {
	dir := t.TempDir()
	db, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Create(bench.New("Otter crew")); err != nil {
		t.Fatal(err)
	}
	log, file := journal.Open(dir)
	defer file.Close()
	s := httptest.NewServer(New(Options{Store: db, Log: log, About: doctor.Options{Program: doctor.Program{Version: "v9"}, Dir: dir}}))
	defer s.Close()
	made := make(chan string, 1)
	ctx, cancel := context.WithCancel(t.Context())
	go db.CopyNightly(ctx, time.Hour, func(name string, err error) { made <- name })
	name := <-made
	cancel()

	var c about.Condition
	if res := ask(t, "GET", s.URL+"/api/condition", nil, &c); res.StatusCode != http.StatusOK {
		t.Fatalf("condition: %s", res.Status)
	}
	if c.Program.Version != "v9" || c.Data != dir || c.State == doctor.Wrong || len(c.Copies) != 1 || c.Copies[0].Path != name || c.Copies[0].Bytes == 0 {
		t.Errorf("%+v", c)
	}
	for _, check := range c.Checks {
		if check.Name == "address" {
			t.Error("the address that the program listens on is looked at")
		}
	}
	report := func(query string) map[string]bool {
		t.Helper()
		var text string
		ask(t, "GET", s.URL+"/api/report"+query, nil, &text)
		z, err := zip.NewReader(strings.NewReader(text), int64(len(text)))
		if err != nil {
			t.Fatal(err)
		}
		out := map[string]bool{}
		for _, f := range z.File {
			out[f.Name] = true
		}
		return out
	}
	if files := report(""); !files["doctor.json"] || !files["slatebell.log"] || len(files) != 4 {
		t.Errorf("%v", files)
	}
	if files := report("?bench=1"); !files["bench-1.json"] {
		t.Errorf("with a bench: %v", files)
	}
	if res := ask(t, "GET", s.URL+"/api/report?bench=7", nil, nil); res.StatusCode != http.StatusNotFound {
		t.Errorf("of no bench: %s", res.Status)
	}

	db.Close()
	if res := ask(t, "GET", s.URL+"/api/benches/1", nil, nil); res.StatusCode < 500 {
		t.Fatalf("from a closed database: %s", res.Status)
	}
	text, err := journal.Last(dir, 1<<20)
	if err != nil || !bytes.Contains(text, []byte("level=ERROR msg=failed method=GET path=/api/benches/:id status=5")) || bytes.Contains(text, []byte("Otter")) {
		t.Errorf("the log says %s, %v", text, err)
	}
	if short, err := journal.Last(dir, 40); err != nil || len(short) >= 40 || !bytes.HasSuffix(text, short) {
		t.Errorf("the end of it is %q, %v", short, err)
	}
	if matches, _ := filepath.Glob(filepath.Join(dir, "*")); len(matches) < 2 {
		t.Errorf("beside the database: %v", matches)
	}
}

// TestPanics has the log hear where the program panicked, and what it panicked with only where Go's runtime said it.
func TestPanics(t *testing.T) {
	var said bytes.Buffer
	log := slog.New(slog.NewTextHandler(&said, nil))
	engine := gin.New()
	engine.Use(journaled(log), gin.CustomRecoveryWithWriter(nil, recovered(log)))
	engine.GET("/index", func(*gin.Context) { var none []int; none[len(none)]++ })
	engine.GET("/words", func(*gin.Context) { panic("Otter crew") })
	for path, want := range map[string]string{"/index": "index out of range", "/words": "why=string"} {
		said.Reset()
		w := httptest.NewRecorder()
		engine.ServeHTTP(w, httptest.NewRequest("GET", path, nil))
		text := said.String()
		if w.Code != http.StatusInternalServerError || !strings.Contains(w.Body.String(), "the server failed on this request") {
			t.Errorf("%s is answered with %d, %s", path, w.Code, w.Body)
		}
		if !strings.Contains(text, want) || !strings.Contains(text, "condition_test.go") || strings.Contains(text, "Otter") {
			t.Errorf("%s: %s", path, text)
		}
	}
}
