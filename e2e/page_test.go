// Package e2e drives the real program in headless Chromium, by real keys and
// clicks.
package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	document "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/e2e/harness"
	"slatebell/internal/soak"
	"slatebell/web"
)

var binary string

func TestMain(m *testing.M) {
	os.Exit(func() int {
		if _, built := web.Files(); !built {
			fmt.Fprintln(os.Stderr, "the front end is not built: run make build, or make test for everything")
			return 1
		}
		dir, err := os.MkdirTemp("", "slatebell-e2e")
		if err != nil {
			panic(err)
		}
		defer os.RemoveAll(dir)
		if binary, err = harness.Build(dir); err != nil {
			fmt.Fprintln(os.Stderr, err)
			return 1
		}
		return m.Run()
	}())
}

// page is an open page of the application in a browser of its own.
type page struct {
	t   testing.TB
	ctx context.Context
	url string
}

// serve starts the program on a fresh directory, with the demo or with a bench that was begun.
func serve(t testing.TB, args ...string) *harness.Server {
	t.Helper()
	s, err := harness.Serve(binary, t.TempDir(), "", args...)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Stop() })
	if !slices.Contains(args, "--demo") {
		if err := s.Begin(); err != nil {
			t.Fatal(err)
		}
	}
	return s
}

// between stands between a browser and the program: what the browser asks for goes through handle, which may pass it on. It returns its URL,
// without a slash at its end.
func between(t testing.TB, server *harness.Server, handle func(w http.ResponseWriter, r *http.Request, forward http.Handler)) string {
	t.Helper()
	to, err := url.Parse(server.URL)
	if err != nil {
		t.Fatal(err)
	}
	forward := &httputil.ReverseProxy{Rewrite: func(r *httputil.ProxyRequest) {
		r.SetURL(to)
		r.Out.Host = r.In.Host
	}}
	proxy := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { handle(w, r, forward) }))
	t.Cleanup(func() {
		proxy.CloseClientConnections() // the page is told of the real table over one that would not end
		proxy.Close()
	})
	return proxy.URL
}

// open opens a view in a new browser, with further flags; with no URL, an empty page.
func open(t testing.TB, url string, more ...chromedp.ExecAllocatorOption) *page {
	t.Helper()
	ctx, cancel := harness.Browser(context.Background(), filepath.Join(t.TempDir(), "profile"), 1280, 800, more...)
	t.Cleanup(cancel)
	ctx, cancelTime := context.WithTimeout(ctx, 6*time.Minute+soak.For())
	t.Cleanup(cancelTime)
	p := &page{t, ctx, url}
	p.begin()
	p.onNewDocument(counting)
	p.do(chromedp.EmulateViewport(1280, 800))
	if url != "" {
		p.do(chromedp.Navigate(url), chromedp.WaitVisible(`canvas[role="img"]`))
	}
	return p
}

// composing starts the program with the demo on a directory, and opens a page
// with the caret at the start of the gate board's screen.
func composing(t testing.TB, dir string) (*harness.Server, *page) {
	t.Helper()
	server, err := harness.Serve(binary, dir, "", "--demo")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { server.Stop() })
	p := open(t, server.URL+"/benches/1/gate/screens")
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home)
	return server, p
}

// tab opens another tab of the same browser.
func (p *page) tab() *page {
	p.t.Helper()
	ctx, cancel := chromedp.NewContext(p.ctx)
	p.t.Cleanup(cancel)
	q := &page{p.t, ctx, p.url}
	q.begin()
	q.onNewDocument(counting)
	q.do(chromedp.Navigate(p.url), chromedp.WaitVisible(`canvas[role="img"]`))
	return q
}

// begin starts the browser, or opens the tab, which live as long as the context that they are begun with.
func (p *page) begin() {
	p.t.Helper()
	if err := chromedp.Do(p.ctx); err != nil {
		p.t.Fatal(err)
	}
}

// do carries steps out, one of which may wait for what is not there: two minutes for all of them.
func (p *page) do(steps ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	ctx, cancel := context.WithTimeout(p.ctx, 2*time.Minute)
	defer cancel()
	if err := chromedp.Do(ctx, steps...); err != nil {
		p.t.Fatal(err)
	}
}

// onNewDocument runs a script in each document that the page opens, before all of its own.
func (p *page) onNewDocument(script string) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, document.AddScriptToEvaluateOnNewDocument, document.AddScriptToEvaluateOnNewDocumentParams{Source: script})
		return err
	}))
}

// keys types, one key after the other, as a person's keyboard would.
func (p *page) keys(keys string, options ...chromedp.KeyOption) {
	p.t.Helper()
	p.do(chromedp.KeyEvent(keys, options...))
}

// clickText clicks the button, link or option with an exact text.
func (p *page) clickText(text string) {
	p.t.Helper()
	p.do(chromedp.Click(fmt.Sprintf(`//*[self::button or self::a or self::label][normalize-space()=%q]`, text), chromedp.NodeVisible))
}

// pick puts a module on the dock.
func (p *page) pick(name string) {
	p.t.Helper()
	p.do(chromedp.Click(`[popovertarget="modules"]`), chromedp.Click(fmt.Sprintf(`//div[@id="modules"]/button[contains(., %q)]`, name)))
}

// dropFile drops a file onto an element of the page, by the browser's own events.
func (p *page) dropFile(selector, name string) {
	p.t.Helper()
	x, y := p.at(selector)
	for _, kind := range []input.DispatchDragEventType{"dragEnter", "dragOver", "drop"} {
		p.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
			_, err := cdp.Call(ctx, target, input.DispatchDragEvent, input.DispatchDragEventParams{Type: kind, X: x, Y: y, Data: &input.DragData{Items: []*input.DragDataItem{}, Files: []string{name}, DragOperationsMask: 1}})
			return err
		}))
	}
}

// eval evaluates an expression; of a promise, what it settles with.
func eval[T any](p *page, expression string) T {
	p.t.Helper()
	v, err := chromedp.Run(p.ctx, chromedp.Evaluate[T](expression, chromedp.EvalAwaitPromise))
	if err != nil {
		p.t.Fatalf("%.2000s: %v", expression, err)
	}
	return v
}

// until waits until an expression has a value; one that fails has none yet.
func until[T comparable](p *page, expression string, want T) {
	p.t.Helper()
	var got T
	var err error
	for deadline := time.Now().Add(45 * time.Second); time.Now().Before(deadline); time.Sleep(20 * time.Millisecond) {
		if got, err = chromedp.Run(p.ctx, chromedp.Evaluate[T](expression)); err == nil && got == want {
			return
		}
	}
	p.t.Fatalf("%s is %v, want %v (%v)", expression, got, want, err)
}

// counting counts the questions to the program that are under way, and all that were asked: requests, and messages of the open line.
const counting = `(() => {
	window.underway = window.asked = 0;
	const begin = () => (window.underway++, window.asked++);
	const ask = window.fetch;
	window.fetch = (...a) => {
		const answer = ask(...a);
		const done = () => window.underway--;
		begin();
		answer.then(done, done);
		return answer;
	};
	window.WebSocket = class extends WebSocket {
		open = new Set();
		constructor(...a) {
			super(...a);
			this.addEventListener("message", ({ data }) => this.ended(data));
			this.addEventListener("close", () => ((window.underway -= this.open.size), this.open.clear()));
		}
		send(message) {
			super.send(message);
			if (message.includes('"drop":true')) return this.ended(message);
			this.open.add(JSON.parse(message.split("\n", 1)[0]).id);
			begin();
		}
		ended(message) {
			if (this.open.delete(JSON.parse(message.split("\n", 1)[0]).id)) window.underway--;
		}
	};
})()`

// settle waits until the page asks for nothing any more and all that was changed is stored: for three
// frames in a row, since one answer may lead to the next question.
func (p *page) settle() {
	p.t.Helper()
	if !eval[bool](p, `new Promise((settled) => {
		let quiet = 0;
		const look = () => {
			const still = window.underway === 0 && !document.documentElement.hasAttribute("data-unsaved") && `+saved+`.startsWith("Saved");
			quiet = still ? quiet + 1 : 0;
			if (quiet > 3) settled(true);
			else requestAnimationFrame(look);
		};
		look();
		setTimeout(() => settled(false), 45_000);
	})`) {
		p.t.Fatalf("the page does not come to rest: %s, %d questions under way", eval[string](p, saved), eval[int](p, `window.underway`))
	}
}

// Expressions that read the page.
const (
	rowsShown = `document.querySelector('canvas[role="img"]').dataset.rows`
	saved     = `document.querySelector('header [role=status]').textContent`
	findings  = `[...document.querySelectorAll('[aria-label=Findings] li')].map(x => x.dataset.code).join(' ')`
	bodyText  = `document.body.innerText`
)

// glass waits until the glass shows rows, each padded to its width.
func (p *page) glass(width int, rows ...string) {
	p.t.Helper()
	for i, r := range rows {
		rows[i] = fmt.Sprintf("%-*s", width, r)
	}
	want, _ := json.Marshal(rows)
	until(p, rowsShown, string(want))
}

// stepCount is how many steps the list has.
func (p *page) stepCount() int {
	p.t.Helper()
	return eval[int](p, `+document.querySelector('[role=grid]').ariaRowCount`) - 1
}

// TestTerms comes to every dotted word of every view by keys, and points at one of each: it says what
// docs/glossary.md has of it.
func TestTerms(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("../docs/glossary.md")
	if err != nil {
		t.Fatal(err)
	}
	server := serve(t, "--demo")
	p := open(t, "")
	met := map[string]bool{}
	for _, view := range views {
		p.do(chromedp.Navigate(fmt.Sprintf("%s/benches/1/gate/%s", server.URL, view)), chromedp.WaitVisible(`canvas[role="img"]`))
		p.settle()
		for i := range eval[int](p, `document.querySelectorAll("dfn").length`) {
			word := eval[string](p, fmt.Sprintf(`(() => { const d = document.querySelectorAll("dfn")[%d]; d.scrollIntoView({ block: "center" }); d.focus(); return d.innerText; })()`, i))
			const said = `(document.querySelector("[role=tooltip]")?.innerText ?? "")`
			until(p, said+` !== ""`, true)
			means := eval[string](p, said)
			own := eval[string](p, fmt.Sprintf(`document.querySelectorAll("dfn")[%d].dataset.word`, i)) == ""
			if !own && !strings.Contains(strings.ReplaceAll(string(text), "`", ""), "| "+means+" |") {
				t.Errorf("%s: %s is said to be %q, which the glossary does not say", view, word, means)
			}
			eval[any](p, `document.activeElement.blur()`)
			until(p, said, "")
			if met[means] {
				continue
			}
			met[means] = true
			at := eval[[]float64](p, fmt.Sprintf(`(() => { const b = document.querySelectorAll("dfn")[%d].getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2]; })()`, i))
			p.do(chromedp.MouseEvent("mouseMoved", at[0], at[1]))
			until(p, said, means)
			p.do(chromedp.MouseEvent("mouseMoved", 1, 799))
			until(p, said, "")
		}
	}
	if len(met) < 14 {
		t.Errorf("%d words are explained", len(met))
	}
}
