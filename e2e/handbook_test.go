package e2e

import (
	"archive/zip"
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/e2e/harness"
	"slatebell/formats/benchjson"
)

// Expressions that read the handbook.
const (
	manualPage = `document.querySelector("[data-page]")?.dataset.page ?? ""`
	manualOpen = `document.querySelector('aside[aria-label^="Handbook"]') !== null`
)

// TestHandbook reads the handbook beside the work, by keys and by pointer: it follows the view, is searched, and leaves the work its keys.
func TestHandbook(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/screens")
	p.keys(kb.F1)
	until(p, manualPage, "screens")
	until(p, `document.querySelector("aside figure canvas")?.dataset.rows.includes("Slip clear") ?? false`, true) // simulated
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "H")
	until(p, rowsShown+`.startsWith('["HUILLFISH')`, true)
	p.do(chromedp.Click(`//nav//a[contains(., "Bus")]`))
	until(p, manualPage, "bus")
	p.do(chromedp.Click(`//aside//a[.="a scan shows nothing"]`))
	until(p, manualPage, "scan-empty")
	p.tabTo(`aside dfn[data-word="pull-up"]`)
	until(p, `document.querySelector('[role="tooltip"]')?.innerText.startsWith("a resistor from a line") ?? false`, true)
	p.clickText("Contents")
	until(p, manualPage, "README")

	p.do(chromedp.Focus(`aside input[type=search]`))
	p.keys("39 hexadecimal")
	until(p, `document.querySelector('[aria-label="Pages found"] a')?.getAttribute("href") ?? ""`, "/handbook/number-base")
	p.keys(kb.Enter)
	until(p, manualPage, "number-base")
	p.do(chromedp.Focus(`aside input[type=search]`))
	p.keys("flicker")
	until(p, `document.querySelectorAll('[aria-label="Pages found"] a').length > 1`, true)
	p.keys(kb.ArrowDown + kb.Enter)
	until(p, manualPage, "flicker")
	p.do(chromedp.Focus(`aside input[type=search]`))
	p.keys("gramophone")
	until(p, `document.querySelector('[aria-label="Pages found"]').innerText`, "No page has this word.")
	p.keys(kb.Escape)
	until(p, manualPage, "flicker")
	p.keys(kb.Escape)
	until(p, manualOpen, false)

	p.do(chromedp.Click(`header [aria-label="Handbook"]`))
	until(p, manualPage, "bus")
	left := `document.querySelector("aside[data-left]") !== null`
	p.do(chromedp.Click(`aside [aria-label="To the other side"]`))
	until(p, left, true)
	p.do(chromedp.EmulateViewport(1500, 800)) // wide enough for both
	until(p, `document.querySelector("main").getBoundingClientRect().right <= document.querySelector('aside[aria-label^="Handbook"]').getBoundingClientRect().left`, true)
	p.do(chromedp.Click(`aside [aria-label="Close the handbook"]`))
	until(p, manualOpen, false)
	p.keys(kb.F1 + kb.F1)
	until(p, manualOpen, false)

	for path, want := range map[string]string{"/benches": "shelf", "/benches/new": "begin", "/program": "program", "/given/1": "given"} {
		p.do(chromedp.Navigate(server.URL+path), chromedp.WaitVisible(`//header//a[.="Handbook"]`))
		p.keys(kb.F1)
		until(p, address, "/handbook/"+want)
		until(p, manualPage, want)
		p.do(chromedp.NavigateBack())
		until(p, address, path)
		p.clickText("Handbook")
		until(p, manualPage, want)
	}
}

// TestHandbookPages draws every page at the desk's width and the hand's: with all of its pictures, nothing wrong in the console, and none too wide.
func TestHandbookPages(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	names, err := filepath.Glob("../docs/handbook/*.md")
	if err != nil || len(names) < 30 {
		t.Fatalf("%d pages, %v", len(names), err)
	}
	p := open(t, "")
	w := watch(p)
	p.do(chromedp.Navigate(server.URL + "/handbook"))
	until(p, manualPage, "README")
	for i, name := range names {
		text, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		name = strings.TrimSuffix(filepath.Base(name), ".md")
		width := []int64{1280, 390}[i%2]
		p.do(chromedp.EmulateViewport(width, 800))
		eval[any](p, fmt.Sprintf(`(history.pushState({}, "", "/handbook/%s"), dispatchEvent(new PopStateEvent("popstate", {state: {}})), 0)`, name)) // as a link does
		until(p, manualPage, name)
		until(p, `document.querySelectorAll("figure canvas, figure svg").length`, strings.Count(string(text), "```picture"))
		title, _, _ := strings.Cut(strings.TrimPrefix(string(text), "# "), "\n")
		if got := eval[string](p, `document.querySelector("article h2").innerText`); got != title {
			t.Errorf("%s is headed %q", name, got)
		}
		if over := eval[float64](p, `Math.max(document.documentElement.scrollWidth - innerWidth, ...[...document.querySelectorAll("article")].map((e) => e.scrollWidth - e.clientWidth))`); over > 0 {
			t.Errorf("%s is %g px too wide at %d", name, over, width)
		}
		if wrong := w.taken(); len(wrong) > 0 {
			t.Errorf("%s: %v", name, wrong)
		}
	}
	p.do(chromedp.EmulateViewport(390, 800), chromedp.Navigate(server.URL+"/benches/1/gate/light"), chromedp.Click(`[popovertarget="more"]`)) // in the hand
	p.do(chromedp.Click(`//div[@id="more"]//a[normalize-space()="Handbook"]`))
	until(p, manualPage, "wiring")
	p.do(chromedp.Navigate(server.URL + "/handbook/nowhere"))
	until(p, `document.querySelector("article h2").innerText`, "There is no such page")
}

// TestProgram looks the program over in the page, by keys and by pointer, and saves reports.
func TestProgram(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "bench data")
	os.MkdirAll(dir, 0o755)
	server, err := harness.Serve(binary, dir, "", "--demo")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { server.Stop() })
	p := open(t, "")
	p.do(chromedp.Navigate(server.URL+"/benches"), chromedp.WaitVisible(`article`))
	p.tabTo(`a[href="/program"]`)
	p.keys(kb.Enter)
	until(p, address, "/program")
	until(p, `document.querySelector('[data-check="database"]')?.innerText.includes("is whole") ?? false`, true)
	until(p, `document.querySelector("h2").innerText`, "All that it stands on is in order")
	until(p, `document.querySelectorAll('[aria-label="Copies of the database"] tr').length`, 1)
	if got := eval[string](p, `document.querySelector('[data-check="directory"]').innerText`); !strings.Contains(got, dir) {
		t.Errorf("the directory is %s", got)
	}
	os.WriteFile(filepath.Join(dir, "copies", "mine.db"), []byte("by hand"), 0o644)
	p.do(chromedp.Focus(`//button[.="Look again"]`))
	p.keys(kb.Enter)
	until(p, `document.querySelectorAll('[aria-label="Copies of the database"] tr').length`, 2)
	os.Remove(filepath.Join(dir, "copies", "mine.db"))
	p.clickText("Look again")
	until(p, `document.querySelectorAll('[aria-label="Copies of the database"] tr').length`, 1)
	eval[bool](p, `(window.copied = "", navigator.clipboard.writeText = async (text) => { window.copied = text; }, true)`)
	p.clickText("Copy the way back")
	until(p, `window.copied.startsWith("slatebell restore ")`, true)
	if got := eval[string](p, `window.copied`); !strings.Contains(got, `copies/nightly-`) || !strings.HasSuffix(got, fmt.Sprintf(`--data "%s"`, dir)) {
		t.Errorf("copied: %s", got)
	}

	to := p.downloads()
	report := func(had int) []string {
		t.Helper()
		for range 100 {
			if files, _ := filepath.Glob(filepath.Join(to, "slatebell-report-*.zip")); len(files) > had {
				z, err := zip.OpenReader(slices.MaxFunc(files, func(a, b string) int { return len(a) - len(b) }))
				if err != nil {
					t.Fatal(err)
				}
				defer z.Close()
				var out []string
				for _, f := range z.File {
					out = append(out, f.Name)
				}
				os.Remove(files[0])
				return out
			}
			time.Sleep(50 * time.Millisecond)
		}
		t.Fatal("no report was saved")
		return nil
	}
	p.clickText("Save the report")
	if got := report(0); !slices.Contains(got, "doctor.txt") || slices.Contains(got, "bench-1.json") {
		t.Errorf("the report holds %v", got)
	}
	p.tabTo(`[aria-label="Report"] input`)
	p.keys(" ")
	p.tabTo(`[aria-label="Report"] a`)
	p.keys(kb.Enter)
	if got := report(0); !slices.Contains(got, "bench-1.json") {
		t.Errorf("with a bench the report holds %v", got)
	}
}

// TestTour begins on an empty machine with the tour: each step marks what it means, the page works beneath it, and it is left and taken up.
func TestTour(t *testing.T) {
	t.Parallel()
	server, err := harness.Serve(binary, t.TempDir(), "")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { server.Stop() })
	p := open(t, "")
	p.do(chromedp.EmulateViewport(1280, 800), chromedp.Navigate(server.URL))
	until(p, address, "/benches/new")
	const still = `//label[contains(., "ATmega328P")]` // the boards have come: nothing moves any more
	p.do(chromedp.WaitReady(still))
	p.clickText("Take the tour, seven steps")
	const card = `document.querySelector('section[aria-label^="Tour"]')`
	step := func(n int, view string) {
		t.Helper()
		until(p, address, "/benches/1/gate/"+view)
		until(p, card+`?.ariaLabel ?? ""`, fmt.Sprintf("Tour, step %d of 7", n))
		until(p, card+`.previousElementSibling?.className.includes("ring") ?? false`, true)
	}
	views := []string{"bench", "wiring", "screens", "glyphs", "scenes", "code", "faults"}
	for i, view := range views[:4] {
		step(i+1, view)
		switch view {
		case "wiring":
			p.do(chromedp.Click(`section[aria-label="Order of the work"] input[type=checkbox]`))
			until(p, `document.querySelector('section[aria-label="Order of the work"] progress').value > 0`, true)
		case "screens":
			p.do(chromedp.Click(`canvas`))
			p.keys(kb.Home + "H")
			until(p, rowsShown+`.startsWith('["HUILLFISH')`, true)
		}
		if i < 3 {
			p.tabTo(`section[aria-label^="Tour"] button`)
			p.keys(kb.Enter)
		}
	}
	p.do(chromedp.Focus(`section[aria-label^="Tour"] button`))
	p.keys(kb.Escape)
	until(p, card+` === null`, true)
	p.settle()
	p.do(chromedp.Reload(), chromedp.WaitVisible(`canvas`))
	p.keys(kb.F1)
	p.clickText("Tour, from step 4")
	until(p, manualOpen, false)
	step(4, "glyphs")
	p.do(chromedp.Click(`//nav//a[contains(., "Log")]`))
	p.clickText("Back to the tour")
	step(4, "glyphs")
	p.clickText("Before")
	step(3, "screens")
	for i := 3; i < 7; i++ {
		p.clickText("Next")
		step(i+1, views[i])
	}
	p.clickText("End the tour")
	until(p, card+` === null`, true)

	// the demo is there already; a file is another bench, and one that is none says so
	p.do(chromedp.Navigate(server.URL+"/benches/new"), chromedp.WaitReady(still))
	p.clickText("Open the demo")
	until(p, address, "/benches/1/gate/screens")
	dir := t.TempDir()
	good, bad := filepath.Join(dir, "slip.bench.json"), filepath.Join(dir, "tides.json")
	b := bench.New("From a file")
	var text bytes.Buffer
	if err := benchjson.Write(&text, &b); err != nil {
		t.Fatal(err)
	}
	os.WriteFile(good, text.Bytes(), 0o644)
	os.WriteFile(bad, []byte(`{"tides": 2}`), 0o644)
	p.do(chromedp.Navigate(server.URL+"/benches/new"), chromedp.WaitReady(still), chromedp.SetUploadFiles(`[aria-label="Other ways to begin"] input`, []string{bad}, chromedp.NodeReady))
	until(p, `document.querySelector('[aria-label="Other ways to begin"] [role=alert]')?.innerText.startsWith("tides.json was not imported: ") ?? false`, true)
	p.do(chromedp.SetUploadFiles(`[aria-label="Other ways to begin"] input`, []string{good}, chromedp.NodeReady))
	until(p, address, "/benches/2/module-1/bench")
}

// TestAxeHandbook holds the handbook, beside the work and alone, the tour and the program's page to axe-core.
func TestAxeHandbook(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	look(t, server, []visit{
		{"/handbook/faults", func(p *page) { until(p, `document.querySelector("figure canvas") !== null`, true) }},
		{"/handbook/schools", nil},
		{"/handbook/glyphs", func(p *page) {
			p.do(chromedp.Focus(`input[type=search]`))
			p.keys("flicker")
			until(p, `document.querySelectorAll('[aria-label="Pages found"] a').length > 1`, true)
		}},
		{"/benches/1/gate/bus", func(p *page) {
			p.keys(kb.F1)
			until(p, manualPage, "bus")
		}},
		{"/benches/1/gate/wiring", func(p *page) {
			eval[any](p, `(localStorage.setItem("slatebell-tour", "2"), window.dispatchEvent(new StorageEvent("storage")), 0)`)
			p.do(chromedp.WaitVisible(`section[aria-label^="Tour"]`))
		}},
		{"/program", func(p *page) { p.do(chromedp.WaitVisible(`[data-check="database"]`)) }},
	})
}
