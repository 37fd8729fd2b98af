package e2e

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/core/prove/testbed"
	"slatebell/e2e/harness"
	"slatebell/internal/quantile"
)

// TestTypeAndKeep types a screen, reads glass and steps, switches the link,
// reloads, restarts the program, and finds everything again.
func TestTypeAndKeep(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	server, err := harness.Serve(binary, dir, "")
	if err != nil {
		t.Fatal(err)
	}
	if err := server.Begin(); err != nil {
		t.Fatal(err)
	}
	p := open(t, server.URL)
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "Tide 3.2 m" + kb.Enter + "High 14:05")
	p.glass(16, "Tide 3.2 m", "High 14:05")
	if got := eval[string](p, `document.querySelector('canvas').ariaLabel`); !strings.Contains(got, "row 1: Tide 3.2 m; row 2: High 14:05") {
		t.Errorf("screen readers are told %q", got)
	}
	// the backpack's bytes for 'T' after the address: RS set up, then two nibbles
	until(p, bodyText+`.includes("59 5D 59 4D 49")`, true)
	p.settle() // the steps follow the glass
	backpack := p.stepCount()

	p.choose("Link", "parallel4")
	until(p, bodyText+`.includes("R/W to ground; host pins RS, E, D4, D5, D6, D7")`, true)
	p.glass(16, "Tide 3.2 m", "High 14:05")
	p.settle() // its steps are those of before until the answer is there
	if got := p.stepCount(); got != backpack-1 {
		t.Errorf("%d steps in parallel, %d on the backpack, which parks its outputs first", got, backpack)
	}
	p.do(chromedp.Click(`[aria-label="Name of the module"]`), chromedp.SendKeys(`[aria-label="Name of the module"]`, kb.End+" two"+kb.Enter))
	p.settle()
	p.do(chromedp.Reload(), chromedp.WaitVisible(`canvas`))
	p.glass(16, "Tide 3.2 m", "High 14:05")

	addr := server.Addr()
	if err := server.Stop(); err != nil {
		t.Errorf("SIGTERM: %v", err)
	}
	if server, err = harness.Serve(binary, dir, addr); err != nil {
		t.Fatal(err)
	}
	defer server.Stop()
	p.do(chromedp.Reload(), chromedp.WaitVisible(`canvas`))
	p.glass(16, "Tide 3.2 m", "High 14:05")
	if got := eval[string](p, `document.querySelector('[aria-label="Name of the module"]').value + " " + document.querySelector('section[aria-label=Module] select').value`); got != "New module two parallel4" {
		t.Errorf("kept %q", got)
	}
}

// TestEditing goes through the keys of the glass.
func TestEditing(t *testing.T) {
	t.Parallel()
	p := open(t, serve(t).URL)
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "abcdef")
	p.keys(kb.ArrowLeft + kb.ArrowLeft + "X") // overtype
	p.glass(16, "abcdXf", "")
	p.keys(kb.Insert + "Y") // insert
	p.glass(16, "abcdXYf", "")
	p.keys(kb.Backspace + kb.Home + kb.Delete)
	p.glass(16, "bcdXf", "")
	p.keys(kb.ArrowRight, chromedp.KeyModifiers(kb.ModifierShift))
	p.keys(kb.ArrowRight, chromedp.KeyModifiers(kb.ModifierShift))
	p.keys(kb.Delete)
	p.glass(16, "dXf", "")
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	p.glass(16, "bcdXf", "")
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl|kb.ModifierShift))
	p.glass(16, "dXf", "")
	p.keys("a", chromedp.KeyModifiers(kb.ModifierCtrl))
	p.keys(kb.Delete)
	p.glass(16, "", "")
	p.keys(kb.Home + `\xFF`)
	p.glass(16, "█", "")

	eval[any](p, `document.querySelector('textarea').dispatchEvent(Object.assign(
		new ClipboardEvent('paste', {bubbles: true, cancelable: true, clipboardData: (() => { const d = new DataTransfer(); d.setData('text/plain', 'Boats out 3\nWind 4 NW'); return d })()})))`)
	until(p, rowsShown+`.includes("Wind 4 NW")`, true)

	p.keys(kb.Home)
	until(p, `document.querySelector('#cell-at-cursor').innerText.replace(/\s+/g, " ")`, "Character W Code 0x57 87 Binary 0101 0111 DDRAM 0x40")
}

// TestNothingIsDropped types beyond the row and outside the ROM.
func TestNothingIsDropped(t *testing.T) {
	t.Parallel()
	p := open(t, serve(t).URL)
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "Café at the landing")
	until(p, findings, "rom.missing-character screen.row-too-long")
	until(p, bodyText+`.includes("Row 1 is 3 characters too long: “ing” is not shown.")`, true)
	p.glass(16, "Caf  at the land", "")
	p.clickText("Write 'e'")
	p.glass(16, "Cafe at the land", "")
	p.clickText("Move “ing” to row 2")
	p.glass(16, "Cafe at the land", "ing")
	until(p, findings, "")
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl)) // a remedy is one undo
	until(p, findings, "screen.row-too-long")
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	until(p, findings, "rom.missing-character screen.row-too-long")
	p.clickText("Draw 'é' as a glyph in slot 0")
	p.glass(16, "Caf① at the land", "")
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + strings.Repeat(kb.ArrowRight, 3))
	until(p, `document.querySelector('#cell-at-cursor').innerText.replace(/\s+/g, " ")`, "Character 'é', slot 0 Code 0x08 8 Binary 0000 1000 DDRAM 0x03")
}

// TestSteps walks the list by mouse and keys; the glass follows.
func TestSteps(t *testing.T) {
	t.Parallel()
	p := open(t, serve(t, "--demo").URL+"/benches/1/gate/screens")
	p.do(chromedp.Click(`[role="row"][aria-rowindex="13"]`)) // the first character
	p.glass(16, "Q", "")
	p.do(chromedp.Focus(`[role=grid]`))
	p.keys(kb.ArrowDown)
	p.glass(16, "QU", "")
	p.keys(kb.Home)
	p.glass(16, "", "")
	p.keys(kb.Escape)
	p.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")
	if href := eval[string](p, `document.querySelector('a[download]').href`); !strings.Contains(eval[string](p, `(() => { const r = new XMLHttpRequest(); r.open("GET", "`+href+`", false); r.send(); return r.responseText })()`), "wait_us,meaning\r\n1,0,,,,40000,") {
		t.Error("the CSV is not the steps")
	}
}

// heldWrites keeps the changes of the page on their way to the program until window.letGo is called.
const heldWrites = `{ const send = fetch;
	window.hold = () => { window.gate = new Promise((open) => window.letGo = () => open(window.gate = undefined)); };
	window.hold();
	window.fetch = async (...a) => {
		if (a[1]?.method === "PATCH") await window.gate;
		return send(...a);
	}; 0 }`

// TestStaleWrite edits the same row in two tabs at once: the later write is refused, both texts are
// kept, and the maker chooses. What only one of them changed stands.
func TestStaleWrite(t *testing.T) {
	t.Parallel()
	p := open(t, serve(t).URL)
	q := p.tab()
	eval[any](q, heldWrites)
	q.do(chromedp.Click(`canvas`))
	q.keys(kb.Home + "second")
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "first" + kb.ArrowDown + kb.Home + "below")
	p.settle()
	eval[any](q, `window.letGo() ?? 0`)
	until(q, `document.querySelector('[role=alert]')?.innerText.includes("first") ?? false`, true)
	q.glass(16, "second", "")
	q.clickText("Take theirs")
	q.glass(16, "first", "below")
	q.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl)) // mine is an undo away
	q.glass(16, "second", "below")
	q.settle()
	p.glass(16, "second", "below")
	eval[any](q, `window.hold() ?? 0`)
	q.do(chromedp.Click(`canvas`))
	q.keys(kb.Home + "S")
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "L")
	p.settle()
	eval[any](q, `window.letGo() ?? 0`)
	until(q, `document.querySelector('[role=alert]') !== null`, true)
	q.clickText("Keep mine")
	q.settle()
	mine := eval[string](q, `document.querySelector("canvas").getAttribute("aria-label")`)
	p.do(chromedp.Reload(), chromedp.WaitVisible(`canvas`))
	until(p, `document.querySelector("canvas").getAttribute("aria-label")`, mine)
	p.glass(16, "Second", "below")
}

// TestReopenedAtOnce closes a bench while a change is still on its slow way to
// the program, and opens it again: it comes back changed, and is no conflict.
func TestReopenedAtOnce(t *testing.T) {
	t.Parallel()
	_, p := composing(t, t.TempDir())
	eval[any](p, `{ const send = fetch;
		window.fetch = async (...a) => {
			if (a[1]?.method === "PATCH") await new Promise(done => setTimeout(done, 800));
			return send(...a);
		}; 0 }`)
	p.keys("Moored")
	until(p, saved, "Saving…")
	p.do(chromedp.Click(`[title="All benches"]`), chromedp.Click(`[aria-label="Open Quillfish Landing"]`), chromedp.WaitVisible(`canvas`))
	p.glass(16, "MooredISH  GATE", "Tide 3.2m →14:05")
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "Afloat")
	p.settle()
	p.glass(16, "AfloatISH  GATE", "Tide 3.2m →14:05")
}

// TestNothingFromElsewhere loads every address the page asks for, in both
// themes, and checks that all are the program's own and none is refused.
func TestNothingFromElsewhere(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, "")
	var asked, refused []string
	chromedp.Listen(p.ctx, func(ev any) {
		switch ev := ev.(type) {
		case *network.EventRequestWillBeSent:
			asked = append(asked, ev.Request.URL)
		case *network.EventLoadingFailed:
			if ev.BlockedReason != "" {
				refused = append(refused, string(ev.BlockedReason))
			}
		}
	})
	p.do(chromedp.Navigate(server.URL), chromedp.WaitVisible(`canvas[role="img"]`), chromedp.Sleep(300*time.Millisecond))
	foreign := slices.DeleteFunc(slices.Clone(asked), func(u string) bool { return strings.HasPrefix(u, server.URL+"/") || strings.HasPrefix(u, "data:") })
	if len(asked) < 5 || len(foreign) > 0 || len(refused) > 0 {
		t.Errorf("%d requests, foreign %q, refused %q", len(asked), foreign, refused)
	}
	if ground := eval[string](p, `getComputedStyle(document.body).backgroundColor`); ground != "rgb(26, 32, 35)" {
		t.Errorf("the dark theme's ground is %s: its rules were refused", ground)
	}
	script := 0
	for _, u := range asked {
		if strings.HasSuffix(u, ".js") {
			script += gzipped(t, u)
		}
	}
	if script == 0 || script > 260_000 {
		t.Errorf("first load has %d bytes of script, gzip; at most 260 kB are allowed", script)
	}
}

// BenchmarkKeystroke measures from a key's event until the glass shows its simulated result (painted), and to the animation frame after it
// (p50, p95), in headless Chromium. Keys come one at a time, 100 ms apart, as a fast typist's do; ten go before those that count, for the
// browser to compile the page's script. On the bare page nothing is asked for and next to nothing drawn: what it takes is the wait for the
// frame, which no page can be without.
func BenchmarkKeystroke(b *testing.B) {
	for _, view := range []string{"screens", "module", "wiring"} { // the view of the job, and those that draw most
		b.Run(view, func(b *testing.B) {
			p := open(b, serve(b, "--demo").URL+"/benches/1/gate/"+view)
			p.do(chromedp.Click(`canvas`))
			keystrokes(b, p)
		})
	}
	b.Run("bare", func(b *testing.B) {
		p := open(b, `data:text/html,<canvas role="img"></canvas>`)
		eval[any](p, `void addEventListener("keydown", (e) => document.querySelector("canvas").setAttribute("data-rows", performance.now()))`)
		keystrokes(b, p)
	})
}

func keystrokes(b *testing.B, p *page) {
	eval[any](p, `(() => {
		window.latencies = [];
		let began = 0, painted = 0;
		addEventListener("keydown", () => { began = performance.now(); painted = 0; }, true);
		new MutationObserver(() => {
			painted ||= performance.now() - began;
			requestAnimationFrame(() => { if (began) window.latencies.push({ painted, framed: performance.now() - began }); began = 0; });
		}).observe(document.querySelector("canvas"), { attributeFilter: ["data-rows"] });
	})()`)
	const before = 10
	key := func(i int) {
		if i%12 == 0 {
			p.keys(kb.Home)
			time.Sleep(60 * time.Millisecond) // it is a key as well
		}
		time.Sleep(40 * time.Millisecond)
		p.strike(string(rune('!' + i%59))) // for 59 keys never the same text twice, so no answer is at hand
		time.Sleep(60 * time.Millisecond)  // asking the page sooner would delay what is measured
		until(p, fmt.Sprintf("window.latencies.length > %d", i), true)
	}
	for i := range before {
		key(i)
	}
	b.ResetTimer()
	for i := range b.N {
		key(before + i)
	}
	b.StopTimer()
	for name, of := range map[string]string{"": "framed", "/painted": "painted"} {
		took := eval[[]float64](p, fmt.Sprintf(`window.latencies.slice(%d).map((l) => l.%s)`, before, of))
		b.ReportMetric(quantile.Of(took, .5), "ms/p50"+name)
		b.ReportMetric(quantile.Of(took, .95), "ms/p95"+name)
	}
}

// strike presses a key as a keyboard does: the browser has its text together with the key.
func (p *page) strike(text string) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, input.DispatchKeyEvent, input.DispatchKeyEventParams{Type: input.DispatchKeyEventTypeKeyDown, Key: text, Text: text})
		if err == nil {
			_, err = cdp.Call(ctx, target, input.DispatchKeyEvent, input.DispatchKeyEventParams{Type: input.DispatchKeyEventTypeKeyUp, Key: text})
		}
		return err
	}))
}

// BenchmarkFirstAnswer measures from the start of the process to its first HTTP
// answer, which lists 50 benches of 8 modules, and the resident memory after
// every module of one has run.
func BenchmarkFirstAnswer(b *testing.B) {
	dir := b.TempDir()
	full := bench.New("Fifty boathouses")
	m := full.Modules[0]
	full.Modules = nil
	for i := range 8 {
		m.ID, m.Display.Geometry = fmt.Sprintf("module-%d", i), "20x4"
		m.Screens = []bench.Screen{{ID: "screen-1", Rows: []string{"Tide  3.2 m  rising", "High water   14:05", fmt.Sprintf("Boathouse %d", i)}}}
		full.Modules = append(full.Modules, m)
	}
	post := func(url string, body any) {
		data, err := json.Marshal(body)
		if err != nil {
			b.Fatal(err)
		}
		res, err := http.Post(url, "application/json", bytes.NewReader(data))
		if err != nil || res.StatusCode > 299 {
			b.Fatal(res, err)
		}
		res.Body.Close()
	}
	for i := range b.N {
		began := time.Now()
		server, err := harness.Serve(binary, dir, "")
		if err != nil {
			b.Fatal(err)
		}
		res, err := http.Get(server.URL + "/api/benches")
		if err != nil {
			b.Fatal(err)
		}
		took := time.Since(began)
		res.Body.Close()
		if i == 0 {
			for range 50 {
				post(server.URL+"/api/benches", full)
			}
		}
		for m := range full.Modules {
			setup, err := testbed.Of(&full, testbed.At{Module: m})
			if err != nil {
				b.Fatal(err)
			}
			post(server.URL+"/api/runs", setup)
		}
		b.ReportMetric(float64(took.Microseconds())/1000, "ms/first")
		b.ReportMetric(server.Resident(), "MB/resident")
		if err := server.Stop(); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkViews opens each view of a bench of 16 modules with 50 screens each, from another view, until the page asks for nothing any more:
// how long that takes, and how many questions.
func BenchmarkViews(b *testing.B) {
	large := bench.New("Sixteen landings")
	large.Host.Part = "ATmega2560"
	m := large.Modules[0]
	large.Modules = nil
	for i := range 16 {
		m.ID, m.Name, m.Display.Geometry, m.Screens = fmt.Sprint("landing-", i+1), fmt.Sprint("Landing ", i+1), "20x4", nil
		m.Link.Outputs.Address = 0x20 + i%8
		for n := range 50 {
			m.Screens = append(m.Screens, bench.Screen{ID: fmt.Sprint("screen-", n+1), Rows: []string{fmt.Sprintf("Tide %d.%d m rising", i, n), "High water 14:05", strings.Repeat("*", n%20), fmt.Sprintf("Boats out %d of 50", n)}})
		}
		large.Modules = append(large.Modules, m)
	}
	server := serve(b)
	data, err := json.Marshal(large)
	if err != nil {
		b.Fatal(err)
	}
	res, err := http.Post(server.URL+"/api/benches", "application/json", bytes.NewReader(data))
	if err != nil || res.StatusCode > 299 {
		b.Fatal(res, err)
	}
	res.Body.Close()
	for _, view := range []string{"bench", "wiring", "bus", "module", "glyphs", "screens", "scenes", "run", "recording", "code", "faults", "log"} {
		b.Run(view, func(b *testing.B) {
			var took, asked float64
			for range b.N {
				p := open(b, server.URL+"/benches/2/landing-1/"+map[bool]string{true: "log", false: "bus"}[view != "log"])
				p.settle()
				took += eval[float64](p, fmt.Sprintf(`new Promise((opened) => {
					window.asked = 0;
					const began = performance.now();
					let rested = 0, quiet = 0;
					document.querySelector('nav a[href$="/%s"]').click();
					const look = () => {
						if (window.underway > 0) quiet = 0;
						else if (quiet++ === 0) rested = performance.now();
						if (quiet > 60) opened(rested - began);
						else requestAnimationFrame(look);
					};
					requestAnimationFrame(look);
				})`, view))
				asked += eval[float64](p, `window.asked`)
			}
			b.ReportMetric(took/float64(b.N), "ms/open")
			b.ReportMetric(asked/float64(b.N), "questions")
		})
	}
}

// BenchmarkMemory lets 16 clients run 3,200 different screens, and reports the
// program's resident memory at its highest, just after, and once it has rested.
func BenchmarkMemory(b *testing.B) {
	for range b.N {
		server := serve(b)
		var clients sync.WaitGroup
		for c := range 16 {
			clients.Go(func() {
				for i := range 200 {
					m := bench.NewModule("gate", "Gate")
					m.Display.Geometry = "20x4"
					setup := testbed.Setup{Display: m.Display, Link: m.Link, Rows: []string{fmt.Sprintf("Client %d", c), fmt.Sprintf("Screen %d", i), "Wind NW 4  gusts 6", "Boats out  3 of 11"}}
					data, _ := json.Marshal(setup)
					res, err := http.Post(server.URL+"/api/runs", "application/json", bytes.NewReader(data))
					if err != nil {
						b.Error(err)
						return
					}
					io.Copy(io.Discard, res.Body)
					res.Body.Close()
				}
			})
		}
		clients.Wait()
		b.ReportMetric(server.Resident(), "MB/after")
		time.Sleep(time.Minute)
		b.ReportMetric(server.Resident(), "MB/rested")
		b.ReportMetric(server.Peak(), "MB/peak")
	}
}

// gzipped returns the size of what a URL serves, compressed.
func gzipped(t testing.TB, url string) int {
	t.Helper()
	req, _ := http.NewRequestWithContext(context.Background(), "GET", url, nil)
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	n, err := harness.Gzipped(res.Body)
	if err != nil {
		t.Fatal(fmt.Errorf("reading %s: %w", url, err))
	}
	return n
}

// system has the computer prefer a dark or a light scheme.
func (p *page) system(scheme string) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: scheme}}})
		return err
	}))
}

// TestNeverBlank opens a bench from the shelf, and one view after the other for the first time: in no frame is the page empty, and a view stays
// until the next is there.
func TestNeverBlank(t *testing.T) {
	t.Parallel()
	p := open(t, serve(t, "--demo").URL+"/benches")
	p.do(chromedp.WaitVisible(`a[href^="/benches/1"]`))
	eval[any](p, `(() => {
		window.blank = [];
		const look = () => {
			const text = document.querySelector("main")?.innerText.trim() ?? "";
			if (text === "" || (location.pathname.split("/").length > 4 && /^Opening…$/m.test(text) && document.querySelector("nav"))) window.blank.push(location.pathname + ": " + text);
			requestAnimationFrame(look);
		};
		look();
	})()`)
	p.do(chromedp.Click(`a[href^="/benches/1"]`), chromedp.WaitVisible(`nav a[href$="/screens"]`))
	for _, view := range views {
		p.do(chromedp.Click(fmt.Sprintf(`nav a[href$="/%s"]`, view)))
		until(p, `location.pathname.split("/")[4] + " " + (document.querySelector("main h1")?.textContent.split(":")[0].toLowerCase() ?? "")`, view+" "+view)
	}
	if blank := eval[[]string](p, `window.blank`); len(blank) > 0 {
		t.Errorf("%d frames were empty: %v", len(blank), blank[:min(5, len(blank))])
	}
}

// TestViewLoadedAgain opens a view that cannot be loaded: the page says so, the rest of it works on, and what it offers loads the view.
func TestViewLoadedAgain(t *testing.T) {
	t.Parallel()
	p := open(t, serve(t, "--demo").URL+"/benches/1/gate/screens")
	block := func(patterns ...*network.BlockPattern) {
		t.Helper()
		p.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
			_, err := cdp.Call(ctx, target, network.SetBlockedURLs, network.SetBlockedURLsParams{URLPatterns: patterns})
			return err
		}))
	}
	block(&network.BlockPattern{URLPattern: "*://*:*/assets/LogView*", Block: true})
	p.do(chromedp.Click(`nav a[href$="/log"]`), chromedp.WaitVisible(`main [role=alert]`))
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "Slip 2")
	p.glass(16, "Slip 2ISH  GATE", "Tide 3.2m →14:05")
	block()
	until(p, `(() => {
		const again = [...document.querySelectorAll("main [role=alert] button")].find((b) => b.innerText === "Try again");
		again?.click();
		return document.querySelector("main h1")?.innerText ?? "";
	})()`, "Log: Gate board")
}

// TestThemes follows the system until a theme is chosen: as the system, the page follows it when it
// changes; the choice stays when the page is loaded again.
func TestThemes(t *testing.T) {
	t.Parallel()
	p := open(t, serve(t).URL)
	const ground = `getComputedStyle(document.body).backgroundColor`
	const dark, light = "rgb(26, 32, 35)", "rgb(230, 226, 214)"
	until(p, `document.querySelector('[aria-label="Theme"]').value`, "system") // until another is chosen
	p.system("light")
	until(p, ground, light)
	p.system("dark")
	until(p, ground, dark)
	p.choose("Theme", "light")
	until(p, ground, light)
	p.choose("Theme", "system")
	until(p, ground, dark)
	p.do(chromedp.Reload(), chromedp.WaitVisible(`canvas`))
	until(p, `document.querySelector('[aria-label="Theme"]').value`, "system")
	until(p, ground, dark)
	p.system("light")
	until(p, ground, light)
}

// TestScreens gives a module a second screen: it is composed, named, put first,
// copied and taken away, each with its own glass in the strip; undo brings all back,
// and the banks see what follows what.
func TestScreens(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/hall/screens")
	names := `[...document.querySelectorAll('[aria-label="Screens of the module"] ol button')].map(b => b.ariaLabel + (b.ariaPressed === "true" ? "*" : "")).join()`
	until(p, names, "Screen 1: unnamed*")
	p.do(chromedp.Focus(`//button[.="New screen"]`))
	p.keys(kb.Enter)
	until(p, names, "Screen 1: unnamed,Screen 2: unnamed*")
	p.glass(20, "", "", "", "")
	p.keys("Regatta") // the glass has the keys, and its caret stands in the first cell
	p.glass(20, "Regatta", "", "", "")
	p.do(chromedp.SendKeys(`[aria-label="Name of the screen"]`, "Sunday"+kb.Enter))
	until(p, names, "Screen 1: unnamed,Screen 2: Sunday*")
	// each has its own glass: the first is as it was
	strip := `[...document.querySelectorAll('[aria-label="Screens of the module"] canvas')].map(c => JSON.parse(c.dataset.rows)[0].trim()).join("|")`
	until(p, strip, "② Tide 3.2 m  rising|Regatta")
	// what is typed just before the order changes is not lost
	p.do(chromedp.Focus(`textarea[aria-label^="Type on the glass"]`))
	p.keys("!")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[aria-label="Put it one earlier"]').click()`))
	until(p, names, "Screen 1: Sunday*,Screen 2: unnamed")
	// by keys along the strip
	p.do(chromedp.Focus(`[aria-label="Screen 1: Sunday"]`))
	p.keys(kb.ArrowRight)
	until(p, names, "Screen 1: Sunday,Screen 2: unnamed*")
	p.glass(20, "② Tide 3.2 m  rising", "① High water   14:05", "  Wind NW 4  gusts 6", "③ Boats out  3 of 11")
	p.do(chromedp.Click(`[aria-label="Copy it"]`))
	until(p, names, "Screen 1: Sunday,Screen 2: unnamed,Screen 3: unnamed*")
	p.do(chromedp.Click(`[aria-label="Take it away"]`))
	until(p, names, "Screen 1: Sunday,Screen 2: unnamed*")
	p.settle()
	if s := stored(t, server, 1).Modules[1].Screens; len(s) != 2 || s[0].Name != "Sunday" || s[0].Rows[0] != "Regatta!" {
		t.Errorf("%+v", s)
	}
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	until(p, names, "Screen 1: Sunday,Screen 2: unnamed*,Screen 3: unnamed")
}
