package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/e2e/harness"
	"slatebell/internal/soak"
	"slatebell/server/api/line"
	"slatebell/server/demo"
)

// views are those of the rail.
var views = []string{"bench", "wiring", "bus", "module", "glyphs", "screens", "scenes", "run", "recording", "code", "faults", "log"}

// watched notes what goes wrong on a page behind everybody's back: answers that fail, and
// errors in the console.
type watched struct {
	mu    sync.Mutex
	wrong []string
}

func watch(p *page) *watched {
	w := &watched{}
	note := func(format string, args ...any) {
		w.mu.Lock()
		defer w.mu.Unlock()
		w.wrong = append(w.wrong, fmt.Sprintf(format, args...))
	}
	chromedp.Listen(p.ctx, func(ev any) {
		switch ev := ev.(type) {
		case *network.EventResponseReceived:
			if ev.Response.Status >= 500 || ev.Response.Status == 404 {
				note("%s answers %d", ev.Response.URL, int(ev.Response.Status))
			}
		case *runtime.EventExceptionThrown:
			note("exception: %s %s", ev.ExceptionDetails.Text, describe(ev.ExceptionDetails.Exception))
		case *runtime.EventConsoleAPICalled:
			if ev.Type == "error" {
				text := ""
				for _, a := range ev.Args {
					text += string(a.Value) + " " + a.Description + " "
				}
				note("console: %.600s", text)
			}
		}
	})
	return w
}

// taken returns what was noted since it was asked last.
func (w *watched) taken() []string {
	w.mu.Lock()
	defer w.mu.Unlock()
	out := w.wrong
	w.wrong = nil
	return out
}

// acts lists what can be acted on in sight, but for what prints, saves, or opens a window of its own, behind which this one would stand still:
// where it stands, what it is, and how it is called.
const acts = `(() => {
	const within = (e) => { const b = e.getBoundingClientRect(); return b.width > 0 && b.height > 0 && b.x >= 0 && b.y >= 0 && b.right <= innerWidth && b.bottom <= innerHeight; };
	const name = (e) => (e.ariaLabel || e.innerText || e.title || e.placeholder || e.id || "").trim().slice(0, 60);
	const open = document.querySelector("[popover]:popover-open");
	const list = [...(open ?? document).querySelectorAll("button, select, input, textarea, summary, [role=button], [tabindex='0'], nav a")];
	return JSON.stringify(list.filter((e) => within(e) && !e.disabled && e.type !== "file" && e.target !== "_blank" && !/^(Print|Card for the wall|Keep|All as ZIP|Slate Bell)/.test(name(e)) && !/CSV|ZIP|\.(c|h|py|md|json)$|Markdown|Export/.test(name(e))).map((e) => {
		const b = e.getBoundingClientRect();
		const kind = e.tagName === "SELECT" ? "select" : e.tagName === "TEXTAREA" || (e.tagName === "INPUT" && !/checkbox|radio|range/.test(e.type)) ? "text" : "press";
		return { kind, name: e.tagName.toLowerCase() + " " + name(e), x: b.x + b.width / 2, y: b.y + b.height / 2, n: list.indexOf(e), options: e.options?.length ?? 0 };
	}));
})()`

type act struct {
	Kind, Name string
	X, Y       float64
	N, Options int
}

// keysPressed are pressed on whatever has the focus.
var keysPressed = []string{kb.Enter, " ", kb.ArrowLeft, kb.ArrowRight, kb.ArrowUp, kb.ArrowDown, kb.Delete, kb.Escape, kb.Tab, kb.Home, kb.End, kb.PageDown, kb.F2, "a", "7", "r", "m", kb.Backspace}

// typed are texts for fields.
var typed = []string{"7", "0", "-1", "", "Tide", "99999", "0x3F", "20x2", "*/", "é\u2028"}

// viewThere waits for a view, for a while: there is none for a moment while another bench is opened.
const viewThere = `new Promise((there) => {
	const until = performance.now() + 10_000;
	const look = () => document.querySelector("main") ? there(true) : performance.now() > until ? there(false) : setTimeout(look, 20);
	look();
})`

// outside are the pages of no bench.
var outside = []string{"/benches", "/benches/new", "/program", "/handbook"}

// TestRandomActs does things at random in every view, by pointer and by keys, dark and light, on the demo
// and on benches of other kinds: no answer fails, nothing goes wrong in the console, no view dies, none
// scrolls sideways. SOAK says for how long; docs/reliability.md has its figures.
func TestRandomActs(t *testing.T) {
	t.Parallel()
	server := serve(t)
	empty := bench.New("Empty")
	many := bench.New("Many")
	for i := range 6 {
		m := bench.NewModule(fmt.Sprintf("m%d", i), fmt.Sprintf("Module %d", i+1))
		m.Link.Outputs.Address = 0x20 + i
		if i%2 == 1 {
			m.Link.Kind = []string{"parallel4", "shift", "parallel8"}[i/2]
		}
		many.Modules = append(many.Modules, m)
	}
	many.Modules = many.Modules[1:]
	each := 15
	if soak.For() > 0 {
		each = 25
	}
	seed := soak.Seed(22)
	r := rand.New(rand.NewPCG(seed, 1))
	p := open(t, "")
	w := watch(p)
	done := map[string]int{}
	rooms := slices.Concat(views, outside)
	for round := range soak.Rounds(1) {
		p.system([]string{"dark", "light"}[round%2])
		var addresses []string // anew each time: what an act threw away is not asked for again
		for _, b := range []bench.Bench{demo.Bench(), empty, many} {
			addresses = append(addresses, fmt.Sprintf("%s/benches/%d/%s/", server.URL, storeBench(t, server, b), b.Modules[r.IntN(len(b.Modules))].ID))
		}
		for i, view := range rooms {
			from := addresses[(i+round)%len(addresses)] + view
			if view[0] == '/' {
				from = server.URL + view
			}
			p.goTo(from)
			var trail []string
			for range each {
				trail = append(trail, p.actAtRandom(r))
				done[view]++
				wrong := w.taken()
				if said := eval[string](p, `[...document.querySelectorAll("[role=alert]")].map((e) => e.innerText).filter((s) => /server failed|This page failed|Cannot read|undefined/.test(s)).join("; ")`); said != "" {
					wrong = append(wrong, said)
				}
				if over := eval[float64](p, `document.documentElement.scrollWidth - innerWidth`); over > 0 {
					wrong = append(wrong, fmt.Sprintf("the page is %g px too wide", over))
				}
				if !eval[bool](p, viewThere) {
					wrong = append(wrong, "there is no view any more")
				}
				if len(wrong) > 0 {
					t.Errorf("seed %d, %s, at %s:\n%s\nafter %s", seed, from, eval[string](p, `location.pathname`), strings.Join(wrong, "\n"), strings.Join(trail[max(0, len(trail)-8):], " · "))
					break
				}
			}
		}
	}
	all := 0
	for _, view := range rooms {
		if done[view] == 0 {
			t.Errorf("nothing was done in %s", view)
		}
		all += done[view]
	}
	t.Logf("%d acts in %d rooms", all, len(rooms))
}

// goTo leads to an address as a maker would who types it, and once more where what an act has begun comes in between. (chromedp's own way waits
// for events of a page that is there already, now and then in vain.)
func (p *page) goTo(address string) {
	p.t.Helper()
	there := fmt.Sprintf(`location.href === %q && document.readyState === "complete" && document.querySelector("main") !== null`, address)
	for range 15 {
		chromedp.Run(p.ctx, chromedp.Evaluate[any](fmt.Sprintf(`void (location.href = %q)`, address))) // its page may go away under it
		for until := time.Now().Add(5 * time.Second); time.Now().Before(until); time.Sleep(20 * time.Millisecond) {
			if is, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](there)); err == nil && is {
				return
			}
		}
	}
	p.t.Fatalf("%s does not open; at %s there is %.300q", address, eval[string](p, `location.href`), eval[string](p, `document.body?.innerText ?? ""`))
}

// actAtRandom does something, and says what it was.
func (p *page) actAtRandom(r *rand.Rand) string {
	p.t.Helper()
	if r.IntN(3) == 0 {
		key := keysPressed[r.IntN(len(keysPressed))]
		p.keys(key)
		return fmt.Sprintf("key %q", key)
	}
	var list []act
	if err := json.Unmarshal([]byte(eval[string](p, acts)), &list); err != nil {
		p.t.Fatal(err)
	}
	list = slices.DeleteFunc(list, func(a act) bool { return strings.HasPrefix(a.Name, "a ") && r.IntN(10) > 0 }) // it stays in its view, mostly
	if len(list) == 0 {
		p.keys(kb.Escape)
		return "escape"
	}
	a := list[r.IntN(len(list))]
	switch a.Kind {
	case "select":
		p.do(chromedp.MouseClickXY(a.X, a.Y))
		p.keys(kb.Escape)
		eval[any](p, fmt.Sprintf(`(() => { const e = document.elementFromPoint(%g, %g)?.closest("select"); if (!e || e.disabled) return; const o = e.options[%d %% e.options.length]; if (!o || o.disabled) return; Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(e, o.value); e.dispatchEvent(new Event("change", { bubbles: true })); })()`, a.X, a.Y, r.IntN(max(a.Options, 1))))
	case "text":
		p.do(chromedp.MouseClickXY(a.X, a.Y))
		if r.IntN(2) == 0 {
			p.keys("a", chromedp.KeyModifiers(2)) // Control
		}
		text := typed[r.IntN(len(typed))]
		p.keys(text + []string{"", kb.Enter, kb.Tab}[r.IntN(3)])
		return fmt.Sprintf("%s: type %q", a.Name, text)
	default:
		p.do(chromedp.MouseClickXY(a.X, a.Y))
	}
	return a.Name
}

// offered lists what a view offers, in sight or to be scrolled to: each with a name that is the same for
// rows and holes that differ in their numbers alone.
const offered = `(() => {
	const open = document.querySelector("[popover]:popover-open");
	window.offered = [...(open ?? document).querySelectorAll("main button, main select, main input, main textarea, main summary, main [role=button], main [tabindex='0'], [popover]:popover-open button, header button, header input")].filter((e) => e.checkVisibility({ visibilityProperty: true }) && !e.disabled && e.type !== "file" && !e.closest("[aria-hidden=true]"));
	const name = (e) => e.tagName.toLowerCase() + " " + (e.ariaLabel || e.labels?.[0]?.textContent || e.innerText || e.title || e.placeholder || e.id || "").trim().replace(/[0-9]+/g, "#").split(/[:,]/)[0].slice(0, 40);
	return JSON.stringify(window.offered.map((e, n) => ({
		n, name: name(e),
		kind: e.tagName === "SELECT" ? "select" : e.type === "checkbox" || e.type === "radio" ? "check" : e.type === "range" ? "range" : e.tagName === "TEXTAREA" || e.tagName === "INPUT" ? "text" : e.role === "tab" ? "tab" : "press",
	})).filter((a) => !/ (Print|Card for the wall|Keep|All as ZIP)/.test(a.name) && !/CSV|ZIP|\.(c|h|py|md|json)$|Markdown|Export/.test(a.name)));
})()`

// TestEveryAct does what each view offers once by pointer and once by key, on a bench of its own: no
// answer fails, nothing goes wrong in the console, no view dies. What an act brings is acted on as well,
// as far as a view's share of acts goes.
func TestEveryAct(t *testing.T) {
	t.Parallel()
	server := serve(t)
	for _, view := range views {
		t.Run(view, func(t *testing.T) {
			t.Parallel()
			everyAct(t, server, view, false)
		})
	}
	for _, view := range handViews {
		t.Run("hand "+view, func(t *testing.T) {
			t.Parallel()
			everyAct(t, server, view, true)
		})
	}
}

// everyAct does what one view offers, at the desk or in the hand.
func everyAct(t *testing.T, server *harness.Server, view string, inHand bool) {
	share, least := 200, 15
	p := open(t, "")
	if inHand {
		share, least = 40, 2 // what a view shares with the desk’s was gone through there
		p.do(chromedp.EmulateViewport(390, 844))
	}
	w := watch(p)
	id := storeBench(t, server, demo.Bench())
	home := fmt.Sprintf("%s/benches/%d/gate/%s", server.URL, id, view)
	offered := offered
	if view != "wiring" { // the bar above is the same in all of them
		offered = strings.Replace(offered, ", header button, header input", "", 1)
	}
	const begun = `main :is(section, figure, [role=grid], form) :is(button, select, input, [tabindex="0"])`
	p.do(chromedp.Navigate(home), chromedp.WaitReady(begun))
	done := map[string]bool{}
	acted := map[string]int{}
	for range share {
		var list []act
		if err := json.Unmarshal([]byte(eval[string](p, offered)), &list); err != nil {
			t.Fatal(err)
		}
		var next *act
		how := ""
		for i := range list {
			for _, way := range []string{"pointer", "key"} {
				if next == nil && !done[way+" "+list[i].Name] {
					next, how = &list[i], way
				}
			}
		}
		if next == nil {
			if eval[bool](p, `document.querySelector("[popover]:popover-open") === null`) {
				break
			}
			p.keys(kb.Escape) // what was opened has been gone through
			continue
		}
		done[how+" "+next.Name] = true
		acted[how]++
		p.actOn(next, how)
		if wrong := w.taken(); len(wrong) > 0 {
			t.Errorf("%s, %s by %s: %s", view, next.Name, how, strings.Join(wrong, "\n"))
		}
		if eval[bool](p, fmt.Sprintf(`!location.href.startsWith(%q) || document.querySelector("main") === null || /This page failed/.test(document.body.innerText)`, home)) {
			if !eval[bool](p, `document.querySelector("main") !== null`) {
				t.Errorf("%s, %s by %s: there is no view any more", view, next.Name, how)
			}
			p.do(chromedp.Navigate(home), chromedp.WaitReady(begun))
		}
	}
	if acted["pointer"] < least || acted["key"] < least {
		t.Errorf("%s: %v acts", view, acted)
	}
	t.Logf("%s: %v", view, acted)
}

// actOn acts on something that is offered, by pointer or by key.
func (p *page) actOn(a *act, how string) {
	p.t.Helper()
	at := eval[[]float64](p, fmt.Sprintf(`(() => { const e = window.offered[%d]; e.scrollIntoView({ block: "center", inline: "center" }); const b = e.getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2]; })()`, a.N))
	if how == "pointer" {
		p.do(chromedp.MouseClickXY(at[0], at[1]))
	} else {
		eval[any](p, fmt.Sprintf(`window.offered[%d].focus()`, a.N))
	}
	switch {
	case a.Kind == "text":
		p.keys("7" + map[bool]string{false: kb.Enter, true: kb.Tab}[how == "pointer"])
	case a.Kind == "select" && how == "pointer":
		p.keys(kb.ArrowDown + kb.Enter)
	case how == "pointer":
	case a.Kind == "select":
		p.keys(kb.ArrowDown)
	case a.Kind == "range":
		p.keys(kb.ArrowRight)
	case a.Kind == "check":
		p.keys(" ")
	default:
		p.keys(kb.Enter)
	}
}

// TestFailedAnswers lets the program fail to answer, view by view, while a bench is changed:
// what was worked out last stays in sight with the reason, and undo, trying again, planning
// afresh and earlier states lead out of it. A page that was opened on it has the same ways.
func TestFailedAnswers(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	var failing, tried atomic.Value // paths
	var answered atomic.Int64
	failing.Store("")
	proxied := between(t, server, func(w http.ResponseWriter, r *http.Request, forward http.Handler) {
		if r.URL.Path == line.Path { // what is asked on a line has no path here: the page posts it
			http.NotFound(w, r)
			return
		}
		if path := failing.Load().(string); path != "" && r.URL.Path == path {
			w.Header().Set("Content-Type", "application/problem+json")
			w.WriteHeader(http.StatusInternalServerError)
			fmt.Fprint(w, `{"title":"Internal Server Error","status":500,"detail":"the server failed on this request"}`)
			return
		}
		forward.ServeHTTP(w, r)
		if r.URL.Path == tried.Load() {
			answered.Add(1)
		}
	})
	const (
		alert = `[...document.querySelectorAll("main [role=alert]")].some((e) => /could not be worked out: the server failed on this request/.test(e.innerText))`
		quiet = `![...document.querySelectorAll("[role=alert]")].some((e) => /could not be worked out/.test(e.innerText))`
	)
	for _, c := range []struct{ view, path, keeps string }{
		{"wiring", "/api/wiring", `svg[aria-label^="Table with"]`},
		{"bus", "/api/plan", `[aria-label="Parts on the bus"] li`},
		{"bench", "/api/plan", `[aria-label="The table"] button`},
		{"code", "/api/code", `[aria-label=Files] li`},
	} {
		failing.Store("")
		p := open(t, proxied+"/benches/1/gate/"+c.view)
		inSight := fmt.Sprintf(`document.querySelector(%q) !== null`, c.keeps)
		until(p, inSight, true)
		pin := 3
		change := func() {
			failing.Store(c.path)
			if c.view == "wiring" {
				p.do(chromedp.Focus(wireEnd(wireOf(t, ref(demo.Bench()), fmt.Sprint("host/D", pin)), "to")))
				p.keys(kb.ArrowDown)
				pin++ // where the same wire may go next is foreseen
			} else {
				p.do(chromedp.Click(`input[aria-label="Name of the bench"]`))
				p.keys("!" + kb.Enter)
			}
			until(p, alert, true)
			until(p, inSight, true)
			failing.Store("")
		}
		change()
		tried.Store(c.path)
		before := answered.Load()
		p.clickText("Try again")
		for wait := 0; answered.Load() == before && wait < 200; wait++ { // it is quiet while it is tried, too
			time.Sleep(50 * time.Millisecond)
		}
		until(p, quiet, true)
		change()
		p.clickText("Undo the last change")
		until(p, quiet, true)
		until(p, inSight, true)

		failing.Store(c.path) // opened on it, with nothing worked out before
		p.do(chromedp.Reload())
		until(p, alert, true)
		p.clickText("Earlier states")
		until(p, `document.querySelectorAll("#states ol li").length > 1`, true)
		p.keys(kb.Escape)
		if c.view == "wiring" {
			until(p, `[...document.querySelectorAll("main button")].some((b) => b.innerText === "Plan afresh")`, true)
		}
		failing.Store("")
		p.clickText("Try again")
		until(p, inSight, true)
	}
}

func describe(o *runtime.RemoteObject) string {
	if o == nil {
		return ""
	}
	return fmt.Sprintf("%.600s", o.Description)
}

// TestStates looks at earlier states of a bench and takes it back to one, by pointer and by
// keys; and undoes, after a reload, what was done before it.
func TestStates(t *testing.T) {
	t.Parallel()
	_, p := composing(t, t.TempDir())
	const noted = `[...document.querySelectorAll("#states ol li button")].map((b) => b.innerText.split("\n")[0]).join("|")`
	for _, text := range []string{"One", "Two", "Three"} {
		p.keys(kb.Home)
		p.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error { // at once: keys one by one may be parted on a busy machine
			_, err := cdp.Call(ctx, target, input.InsertText, input.InsertTextParams{Text: text})
			return err
		}))
		p.settle()
		time.Sleep(time.Second) // what is typed together is undone together
	}
	p.glass(16, "ThreeFISH  GATE", "Tide 3.2m →14:05")
	p.do(chromedp.Reload(), chromedp.WaitVisible(`canvas[role="img"]`))
	p.do(chromedp.Click(`[aria-label="Earlier states"]`))
	until(p, noted, "screen Gate of Gate board|screen Gate of Gate board|screen Gate of Gate board|begun")
	p.do(chromedp.Click(`#states ol li:nth-child(3) button`))
	until(p, `document.querySelector("#states [aria-label^=Revision] p").innerText`, "Differs from now in: screen Gate of Gate board.")
	until(p, `document.querySelector("#states canvas").dataset.rows`, `["OneLLFISH  GATE ","Tide 3.2m →14:05"]`)
	p.clickText("Take the bench back to this")
	p.glass(16, "OneLLFISH  GATE", "Tide 3.2m →14:05")
	p.settle()
	p.keys("z", chromedp.KeyModifiers(2)) // it is a change like any other
	p.glass(16, "ThreeFISH  GATE", "Tide 3.2m →14:05")
	p.settle()

	p.do(chromedp.Reload(), chromedp.WaitVisible(`canvas[role="img"]`))
	p.glass(16, "ThreeFISH  GATE", "Tide 3.2m →14:05")
	p.keys("z", chromedp.KeyModifiers(2)) // beyond the reload
	p.glass(16, "OneLLFISH  GATE", "Tide 3.2m →14:05")
	p.keys("z", chromedp.KeyModifiers(2))
	p.glass(16, "ThreeFISH  GATE", "Tide 3.2m →14:05")
	p.keys("z", chromedp.KeyModifiers(2))
	p.glass(16, "TwoLLFISH  GATE", "Tide 3.2m →14:05")
	p.keys("Z", chromedp.KeyModifiers(2|8)) // and back
	p.glass(16, "ThreeFISH  GATE", "Tide 3.2m →14:05")
	p.settle()

	// by keys alone, in a second tab
	q := p.tab()
	q.do(chromedp.Focus(`[aria-label="Earlier states"]`))
	q.keys(kb.Enter)
	until(q, `document.querySelectorAll("#states ol li").length > 4`, true)
	q.do(chromedp.Focus(`#states ol li:last-child button`))
	q.keys(kb.Enter)
	until(q, `document.querySelector("#states canvas")?.dataset.rows`, `["QUILLFISH  GATE ","Tide 3.2m →14:05"]`)
	q.do(chromedp.Focus(`#states section button`))
	q.keys(kb.Enter)
	q.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")
}
