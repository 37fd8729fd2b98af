package e2e

import (
	"context"
	"encoding/xml"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	printing "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/e2e/harness"
	"slatebell/internal/quantile"
)

// at returns where an element of the page stands, its middle, in CSS pixels.
func (p *page) at(selector string) (x, y float64) {
	p.t.Helper()
	until(p, fmt.Sprintf(`document.querySelector(%q) !== null`, selector), true)
	at := eval[[]float64](p, fmt.Sprintf(`(() => { const e = document.querySelector(%q); e.scrollIntoView({block: "center", inline: "center"}); const b = e.getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2] })()`, selector))
	return at[0], at[1]
}

// pitch is how many CSS pixels lie between two holes.
func (p *page) pitch() float64 {
	p.t.Helper()
	return eval[float64](p, `document.querySelector("svg[aria-label^=Table]").getScreenCTM().a`)
}

// drag draws from a place by so many holes, with the mouse or a finger.
func (p *page) drag(x, y, cols, rows float64, finger bool) {
	p.t.Helper()
	step := p.pitch()
	p.stroke(x, y, x+cols*step, y+rows*step, finger)
}

// stroke draws from one place to another, with the mouse or a finger.
func (p *page) stroke(x0, y0, x1, y1 float64, finger bool) {
	p.t.Helper()
	const steps = 6
	for i := range steps + 1 {
		f := float64(i) / steps
		px, py := x0+(x1-x0)*f, y0+(y1-y0)*f
		if finger {
			kind := input.DispatchTouchEventTypeTouchMove
			if i == 0 {
				kind = input.DispatchTouchEventTypeTouchStart
			}
			p.touch(kind, &input.TouchPoint{X: px, Y: py})
			continue
		}
		kind := chromedp.MouseMoved
		if i == 0 {
			kind = chromedp.MousePressed
		}
		p.do(chromedp.MouseEvent(kind, px, py, func(e *input.DispatchMouseEventParams) {
			e.Button, e.Buttons, e.ClickCount = input.MouseButtonLeft, 1, 1
		}))
	}
	if finger {
		p.touch(input.DispatchTouchEventTypeTouchEnd)
		return
	}
	p.do(chromedp.MouseEvent(chromedp.MouseReleased, x1, y1, func(e *input.DispatchMouseEventParams) { e.Button, e.ClickCount = input.MouseButtonLeft, 1 }))
}

func (p *page) touch(kind input.DispatchTouchEventType, points ...*input.TouchPoint) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		if points == nil {
			points = []*input.TouchPoint{}
		}
		_, err := cdp.Call(ctx, target, input.DispatchTouchEvent, input.DispatchTouchEventParams{Type: kind, TouchPoints: points})
		return err
	}))
}

// wireEnd is the selector of an end, from or to, of a wire.
func wireEnd(number int, end string) string {
	return fmt.Sprintf(`[data-wire="%d"] [data-end=%s]`, number, end)
}

// wireOf returns the number of the wire that begins at a pin.
func wireOf(t testing.TB, b *bench.Bench, from string) int {
	t.Helper()
	i := slices.IndexFunc(b.Wiring.Wires, func(w bench.Wire) bool { return w.From == from })
	if i < 0 {
		t.Fatalf("no wire from %s", from)
	}
	return i + 1
}

const blank = "                "

// TestWiring wires modules from nothing, makes a mistake by dragging a wire, sees it
// on the glass, mends it, ticks work off, and prints: a 4-bit LCD, an 8-bit VFD and a
// 74HC595.
func TestWiring(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ kind, technology string }{{"parallel4", "lcd"}, {"parallel8", "vfd"}, {"shift", "lcd"}} {
		b := bench.New("Wired " + c.kind)
		m := &b.Modules[0]
		m.Name, m.Link.Kind, m.Display.Technology = "Slip", c.kind, c.technology
		m.Screens[0].Rows = []string{"Slip clear", "3 afloat"}
		server := serve(t)
		id := storeBench(t, server, b)
		p := open(t, fmt.Sprintf("%s/benches/%d/module-1/wiring", server.URL, id))
		p.lay()
		p.glass(16, "Slip clear", "3 afloat")
		p.settle()
		laid := stored(t, server, id)
		if len(laid.Wiring.Wires) == 0 {
			t.Fatalf("%s: nothing was laid", c.kind)
		}
		until(p, `document.querySelector('nav a[aria-label^="Wiring"]').ariaLabel`, "Wiring: done")

		// E, or the register's data, one hole aside
		from := map[string]string{"parallel4": "host/D3", "parallel8": "host/D3", "shift": "host/D2"}[c.kind]
		number := wireOf(t, &laid, from)
		x, y := p.at(wireEnd(number, "to"))
		p.drag(x, y, 0, 1, false) // along the strip: nothing changes
		p.settle()
		moved := stored(t, server, id)
		if was, is := laid.Wiring.Wires[number-1].To, moved.Wiring.Wires[number-1].To; was == is {
			t.Errorf("%s: the wire was not dragged from %s", c.kind, was)
		}
		p.glass(16, "Slip clear", "3 afloat")
		x, y = p.at(wireEnd(number, "to"))
		p.drag(x, y, 1, 0, false)
		until(p, `[...document.querySelectorAll('[aria-label=Findings] li')].some(l => /^wiring/.test(l.dataset.code))`, true)
		p.glass(16, blank, blank)
		if n := eval[int](p, `document.querySelectorAll("svg [data-pin] circle[r='0.75']").length`); n == 0 {
			t.Errorf("%s: no pin is pointed at", c.kind)
		}
		p.settle() // what is found is found of the wires as they lie now
		p.do(chromedp.Click(`(//section[@aria-label="Findings"]//li//button)[1]`))
		p.glass(16, "Slip clear", "3 afloat")
		until(p, `document.querySelector('[aria-label=Findings]') === null`, true)

		// by keys: the same end down its strip and aside, and back by undo
		p.do(chromedp.Focus(wireEnd(number, "to")))
		p.keys(kb.ArrowRight)
		p.glass(16, blank, blank)
		p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
		p.glass(16, "Slip clear", "3 afloat")

		// the list: one thing ticked off, kept
		p.clickText("Done, next")
		p.settle()
		if done := stored(t, server, id).Wiring.Done; len(done) != 1 || !strings.HasPrefix(done[0], "solder ") {
			t.Errorf("%s: done is %q", c.kind, done)
		}
		p.printed(ref(stored(t, server, id)))
	}
}

// onPaper prints the page on A4 and returns its words without spaces; nothing reaches
// over the edge of the paper.
func (p *page) onPaper() (all string) {
	p.t.Helper()
	var data []byte
	p.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		out, err := cdp.Call(ctx, target, printing.PrintToPDF, printing.PrintToPDFParams{PaperWidth: 8.27, PaperHeight: 11.69, PrintBackground: ref(true)})
		if err == nil {
			data = out.Data
		}
		return err
	}))
	file := filepath.Join(p.t.TempDir(), "sheet.pdf")
	if err := os.WriteFile(file, data, 0o644); err != nil {
		p.t.Fatal(err)
	}
	words, err := exec.Command("pdftotext", "-bbox", file, "-").Output()
	if err != nil {
		p.t.Fatal(err)
	}
	var sheets struct {
		Pages []struct {
			Width float64 `xml:"width,attr"`
			Words []struct {
				From float64 `xml:"xMin,attr"`
				To   float64 `xml:"xMax,attr"`
				Text string  `xml:",chardata"`
			} `xml:"word"`
		} `xml:"body>doc>page"`
	}
	if err := xml.Unmarshal(words, &sheets); err != nil {
		p.t.Fatal(err)
	}
	for i, sheet := range sheets.Pages {
		for _, word := range sheet.Words {
			if word.From < 0 || word.To > sheet.Width {
				p.t.Fatalf("%q on page %d reaches from %.0f to %.0f of %.0f", word.Text, i+1, word.From, word.To, sheet.Width)
			}
			all += word.Text
		}
	}
	return all
}

// printed checks that every wire's holes stand on paper.
func (p *page) printed(b *bench.Bench) {
	p.t.Helper()
	all := p.onPaper()
	for i, w := range b.Wiring.Wires {
		for _, end := range []string{w.From, w.To} {
			if !strings.Contains(all, end) {
				p.t.Errorf("wire %d: %s is not on paper: %.300q", i+1, end, all)
				return
			}
		}
	}
	for _, word := range []string{"Parts", "resistor220Ω", "Goover"} {
		if word == "resistor220Ω" && b.Modules[0].Display.Technology == "vfd" {
			continue
		}
		if !strings.Contains(all, word) {
			p.t.Errorf("%q is not on paper", word)
		}
	}
}

// lay takes the proposed wiring over, and waits until it lies on the table.
func (p *page) lay() {
	p.t.Helper()
	p.clickText("Lay it so")
	until(p, bodyText+`.includes("Lay it so")`, false)
}

// TestWiringByTouch wires, turns the drawn potentiometer and moves a part on a tablet,
// with a finger.
func TestWiringByTouch(t *testing.T) {
	t.Parallel()
	b := bench.New("Tablet")
	m := &b.Modules[0]
	m.Link.Kind = "parallel4"
	m.Screens[0].Rows = []string{"Bell"}
	server := serve(t)
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/module-1/wiring", server.URL, id))
	p.do(chromedp.EmulateViewport(1024, 768, chromedp.EmulateTouch))
	tap := func(selector string) {
		t.Helper()
		x, y := p.at(selector)
		p.touch(input.DispatchTouchEventTypeTouchStart, &input.TouchPoint{X: x, Y: y})
		p.touch(input.DispatchTouchEventTypeTouchEnd)
	}
	p.lay()
	p.glass(16, "Bell", "")
	p.settle()
	laid := stored(t, server, id)
	number := wireOf(t, &laid, "host/D7")
	x, y := p.at(wireEnd(number, "to"))
	p.drag(x, y, 1, 0, true)
	until(p, `document.querySelector('[aria-label=Findings] li p')?.innerText.includes("New module/D7") ?? false`, true)
	p.settle()
	if to := stored(t, server, id).Wiring.Wires[number-1].To; to == laid.Wiring.Wires[number-1].To {
		t.Errorf("the finger moved nothing: %s", to)
	}
	p.do(chromedp.Click(`[aria-label="Undo"], [title^="Undo"]`))
	until(p, `document.querySelector('[aria-label=Findings]') === null`, true)
	tap(`[data-thing="module-1-pot"] circle`)
	p.do(chromedp.Click(`//button[@role="tab"][.="Part"]`))
	until(p, `document.querySelector('aside section h2').innerText.startsWith("Contrast of")`, true)
	lit := `document.querySelector('[data-thing="module-1"] canvas') !== null`
	until(p, lit, true)
	p.slide("Knob", "1")
	until(p, `document.querySelector('aside output').innerText`, "100 %")
	p.settle()
	if turn := stored(t, server, id).Modules[0].Fitting.Turn; turn == nil || *turn != 1 {
		t.Errorf("the knob stands at %v", turn)
	}
	p.do(chromedp.Click(`//button[@role="tab"][.="First light"]`))
	until(p, `document.querySelectorAll('aside ol > li').length`, 6)
	tap(`aside ol > li:nth-child(1) input`)
	p.settle()
	deadline := time.Now().Add(5 * time.Second)
	for len(stored(t, server, id).Wiring.Lit) == 0 && time.Now().Before(deadline) {
		time.Sleep(50 * time.Millisecond)
	}
	if lit := stored(t, server, id).Wiring.Lit; len(lit) != 1 || lit[0].Step != "short" || lit[0].At == "" {
		t.Errorf("first light: %+v", lit)
	}
	field := func(label, text string) {
		t.Helper()
		eval[any](p, fmt.Sprintf(`[...document.querySelectorAll("aside label")].find(l => l.textContent.startsWith(%q)).control.select()`, label))
		p.keys(text + kb.Enter)
	}
	field("Measured, mV (planned 5000)", "loud")
	until(p, `document.querySelector('aside [role=alert]')?.innerText ?? ""`, "“loud” is no such voltage; expected 2700–5500 mV")
	field("Measured, mV (planned 5000)", "4870")
	until(p, `document.querySelector('aside [role=alert]') === null`, true)
	p.do(chromedp.Click(`//button[@role="tab"][.="Mounting"]`))
	until(p, `document.querySelector('aside img')?.complete && document.querySelector('aside img').naturalWidth > 100`, true)
	field("Window, width, mm", "66.5")

	// the colour of a net, and a part moved by a key
	p.do(chromedp.Focus(wireEnd(number, "to")))
	p.choose("Colour of all wires of data", "violet")
	until(p, fmt.Sprintf(`document.querySelector('[data-wire="%d"]').dataset.colour`, number), "violet")
	p.do(chromedp.Focus(`[data-thing="module-1-pot"] [role=button]`))
	p.keys(kb.ArrowLeft)
	until(p, `document.querySelectorAll('[aria-label=Findings] li').length > 0`, true)
	p.settle()
	at := func(b bench.Bench) string {
		i := slices.IndexFunc(b.Wiring.Placements, func(p bench.Placement) bool { return p.Part == "module-1-pot" })
		return b.Wiring.Placements[i].Hole
	}
	now := stored(t, server, id)
	if m := now.Modules[0].Display; m.Measured.SupplyMV != 4870 || m.Mounting.WindowWidthMM != 66.5 || now.Wiring.Colours["data"] != "violet" || at(now) == at(laid) {
		t.Errorf("%+v, %v, pot at %s", m, now.Wiring.Colours, at(now))
	}
}

// unwire clears the table of a stored bench.
func unwire(t *testing.T, server *harness.Server, id int) {
	t.Helper()
	req, err := http.NewRequest(http.MethodPatch, fmt.Sprintf("%s/api/benches/%d", server.URL, id), strings.NewReader(`[{"op":"remove","path":"/wiring"}]`))
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/json-patch+json")
	req.Header.Set("If-Match", `"1"`)
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		t.Fatalf("clearing the table: %s", res.Status)
	}
}

// TestForeseen moves a wire's end by a key and by the pointer, and cuts the page off from the program: where the end is led on, or to a side,
// the drawing and the glass that it comes to are at hand.
func TestForeseen(t *testing.T) {
	t.Parallel()
	b := bench.New("Foreseen")
	m := &b.Modules[0]
	m.Name, m.Link.Kind = "Slip", "parallel4"
	m.Screens[0].Rows = []string{"Slip clear", "3 afloat"}
	server := serve(t)
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/module-1/wiring", server.URL, id))
	p.lay()
	p.settle()
	laid := stored(t, server, id)
	number := wireOf(t, &laid, "host/D3")
	const cutOff = `(() => { window.fetch = () => new Promise(() => {}); WebSocket.prototype.send = () => {}; })()`
	wrong := `[...document.querySelectorAll('[aria-label=Findings] li')].some(l => /^wiring/.test(l.dataset.code))`

	p.do(chromedp.Focus(wireEnd(number, "to")))
	p.keys(kb.ArrowDown) // along the strip: nothing changes
	p.settle()
	eval[any](p, cutOff)
	p.glass(16, "Slip clear", "3 afloat")
	p.keys(kb.ArrowRight)
	p.glass(16, blank, blank)
	until(p, wrong, true)

	p.do(chromedp.Reload())
	until(p, `!!document.querySelector("header [role=status]")`, true)
	p.settle() // what is found moves the drawing
	x, y := p.at(wireEnd(number, "to"))
	step := p.pitch()
	pointer := func(kind input.DispatchMouseEventType, rows float64) {
		p.do(chromedp.MouseEvent(kind, x, y+rows*step, func(e *input.DispatchMouseEventParams) {
			e.Button, e.Buttons, e.ClickCount = input.MouseButtonLeft, 1, 1
		}))
	}
	pointer(chromedp.MousePressed, 0)
	pointer(chromedp.MouseMoved, 1)
	p.settle()
	way := eval[string](p, fmt.Sprintf(`document.querySelector('[data-wire="%d"] path').getAttribute("d")`, number))
	eval[any](p, cutOff)
	pointer(chromedp.MouseMoved, 2)
	until(p, fmt.Sprintf(`document.querySelector('[data-wire="%d"] path').getAttribute("d") !== %q`, number, way), true)
}

// BenchmarkDrag measures from the event that moves a wire's end to the frame in which it is drawn with the nets, findings and glass that it
// comes to: by an arrow now and then, by one that is held down, by the pointer along a row at twenty holes a second, and by a pointer that
// leaps each time, where nobody can foresee its way. The end goes to and fro along one row after the other, so that it is where it was
// before after many moves only. What is since the browser itself had the event, which it holds back for its frames and while the page is at
// work, is told beside it.
func BenchmarkDrag(b *testing.B) {
	const along = 24
	key := func(p *page, i int) {
		switch {
		case i%along == along-1:
			p.keys([]string{kb.ArrowDown, kb.ArrowUp}[i/along/3%2])
		case i/along%2 == 0:
			p.keys(kb.ArrowRight)
		default:
			p.keys(kb.ArrowLeft)
		}
	}
	var x, y, step float64 // of the end at first, and between two holes
	pointer := func(p *page, cols, rows int) {
		p.do(chromedp.MouseEvent(chromedp.MouseMoved, x+float64(cols)*step, y+float64(rows)*step, func(e *input.DispatchMouseEventParams) {
			e.Button, e.Buttons = input.MouseButtonLeft, 1
		}))
	}
	for _, c := range []struct {
		name  string
		move  func(p *page, i int)
		pause time.Duration
	}{
		{"arrow", key, 150 * time.Millisecond},
		{"held", key, 33 * time.Millisecond},
		{"pointer", func(p *page, i int) {
			col := i % along
			if i/along%2 == 1 {
				col = along - 1 - col
			}
			pointer(p, col+1, i/along%3)
		}, 50 * time.Millisecond},
		{"leaps", func(p *page, i int) { pointer(p, 1+7*i%along, i%5) }, 50 * time.Millisecond},
	} {
		b.Run(c.name, func(b *testing.B) {
			p := open(b, serve(b, "--demo").URL+"/benches/1/hall/wiring")
			p.settle()
			const end = `[aria-label*=", Boat hall/D7: "][data-end="to"]`
			x, y = p.at(end)
			step = p.pitch()
			p.do(chromedp.Focus(end))
			eval[any](p, `(() => {
				window.latencies = [];
				let began = 0, event = 0;
				for (const type of ["keydown", "pointermove"]) addEventListener(type, (e) => { event = e.timeStamp; began = performance.now(); }, true);
				new MutationObserver(() => requestAnimationFrame(() => {
					if (began) window.latencies.push([performance.now() - began, performance.now() - event]);
					began = 0;
				}))
					.observe(document.activeElement.closest("[data-wire]"), { subtree: true, attributeFilter: ["d"] });
			})()`)
			if c.name == "pointer" || c.name == "leaps" {
				p.do(chromedp.MouseEvent(chromedp.MousePressed, x, y, func(e *input.DispatchMouseEventParams) {
					e.Button, e.Buttons, e.ClickCount = input.MouseButtonLeft, 1, 1
				}))
			}
			for i := 0; eval[int](p, `window.latencies.length`) < 4+b.N; i++ { // where something is already, nothing moves
				c.move(p, i)
				time.Sleep(c.pause)
			}
			var took, since []float64
			for _, l := range eval[[][2]float64](p, `window.latencies.slice(4)`) {
				took, since = append(took, l[0]), append(since, l[1])
			}
			b.ReportMetric(quantile.Of(took, .5), "ms/p50")
			b.ReportMetric(quantile.Of(took, .95), "ms/p95")
			b.ReportMetric(quantile.Of(since, .5), "ms/p50/event")
			b.ReportMetric(quantile.Of(since, .95), "ms/p95/event")
		})
	}
}

// TestColoursOfDataLines gives each data line a colour of its own, by pointer and by key, and all
// one again; lists name the parts as the bench does.
func TestColoursOfDataLines(t *testing.T) {
	t.Parallel()
	b := bench.New("Coloured")
	m := &b.Modules[0]
	m.Name, m.Link.Kind = "Boathouse door", "parallel8"
	server := serve(t)
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/module-1/wiring", server.URL, id))
	p.lay()
	p.settle()
	colours := func() int {
		p.settle()
		laid := stored(t, server, id)
		seen := map[string]bool{}
		for _, d := range []string{"D7", "D8", "D9", "D10", "D11", "D12", "D13", "A0", "A1", "A2", "D2", "D3", "D4", "D5", "D6"} {
			i := slices.IndexFunc(laid.Wiring.Wires, func(w bench.Wire) bool { return w.From == "host/"+d })
			if i < 0 {
				continue
			}
			title := eval[string](p, fmt.Sprintf(`document.querySelector('[data-wire="%d"] title').textContent`, i+1))
			if _, colour, _ := strings.Cut(title, ", "); strings.Contains(title, "Boathouse door/D") {
				colour, _, _ = strings.Cut(colour, ",")
				seen[colour] = true
			}
		}
		return len(seen)
	}
	if n := colours(); n != 1 {
		t.Errorf("%d colours of data lines at first", n)
	}
	p.do(chromedp.Click(`//summary[.="Boards, colours"]`))
	each := `//label[contains(., "each data line in a colour of its own")]`
	p.do(chromedp.Click(each))
	if n := colours(); n != 8 {
		t.Errorf("%d colours of data lines with one each", n)
	}
	p.do(chromedp.Focus(each + "//input"))
	p.keys(" ")
	if n := colours(); n != 1 {
		t.Errorf("%d colours of data lines after all", n)
	}
	until(p, `document.querySelector('section[aria-label="Order of the work"]').innerText.includes("Boathouse door D7, pin 14, 3rd from the other end")`, true)
	p.do(chromedp.Focus(`ol button[aria-label="Show wire 1"]`))
	p.keys(kb.Enter)
	p.toTab("Part")
	until(p, `document.querySelector('section[aria-label="Wire 1"]')?.innerText.includes("Boathouse door/") ?? false`, true)
	if all := eval[string](p, `document.querySelector("main").innerText`); strings.Contains(all, "module-1") {
		t.Errorf("an id is shown: %.600s", all)
	}
}

// TestOverTwoEdges says on Bench that a wide host stands in the breadboard, and lays the table: it
// stands over the edges of two boards, the work says how, and the glass shows its text. The upper
// board is moved beside the lower one and back, by key and by pointer.
func TestOverTwoEdges(t *testing.T) {
	t.Parallel()
	b := bench.New("Wide")
	b.Host.Part, b.Modules[0].Link.Kind = "ESP32", "parallel4"
	b.Modules[0].Screens[0].Rows = []string{"Slip clear", "3 afloat"}
	server := serve(t)
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/module-1/bench", server.URL, id))
	p.do(chromedp.Click(`//button[contains(., "ESP32")]`), chromedp.WaitVisible(`[aria-label="Host"]`))
	p.do(chromedp.Focus(`//section[@aria-label="Host"]//label[contains(., "It lies")]/..//select`))
	p.keys(kb.ArrowDown)
	p.settle()
	if !stored(t, server, id).Host.Plugged {
		t.Fatal("the host still lies beside")
	}
	p.do(chromedp.Navigate(fmt.Sprintf("%s/benches/%d/module-1/wiring", server.URL, id)))
	p.lay()
	p.glass(16, "Slip clear", "3 afloat")
	p.settle()
	boards := func() []bench.Breadboard { return stored(t, server, id).Wiring.Boards }
	if w := boards(); len(w) != 2 || w[1].Beyond != "board-1" {
		t.Fatalf("the boards are %+v", w)
	}
	until(p, bodyText+`.includes("Take the lower rails off board-2, and lay it above board-1 so far off that the host stands over both: one row of its pins in row a of board-2, the other in row j of board-1, 25.4 mm apart.")`, true)
	if high := eval[string](p, `[...document.querySelectorAll("svg title")].map(e => e.textContent).filter(s => s.startsWith("board-2")).join()`); !strings.Contains(high, "beyond the upper edge of board-1, its lower rails taken off") {
		t.Errorf("board-2 is drawn as %q", high)
	}
	p.do(chromedp.Click(`//summary[.="Boards, colours"]`), chromedp.Focus(`//label[contains(., "for a wide host")]//input`))
	p.keys(" ")
	until(p, `[...document.querySelectorAll('[aria-label=Findings] li')].some(l => l.dataset.code === "wiring.off-board")`, true)
	p.settle()
	if w := boards(); w[1].Beyond != "" {
		t.Errorf("the upper board lies as %+v", w[1])
	}
	p.do(chromedp.Click(`//label[contains(., "for a wide host")]//input`))
	until(p, `document.querySelector('[aria-label=Findings]') === null`, true)
	p.glass(16, "Slip clear", "3 afloat")
	p.do(chromedp.Click(`(//button[.="Take it away"])[1]`)) // and with the lower one what lies beyond it lies beyond nothing
	p.settle()
	if w := boards(); len(w) != 1 || w[0].Beyond != "" {
		t.Errorf("left are %+v", w)
	}
}
