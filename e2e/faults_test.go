package e2e

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/core/table/breadboard"
)

// crossed is a bench on whose table the wires of two lines of a module are exchanged at
// the host.
func crossed(t *testing.T, a, b string) bench.Bench {
	t.Helper()
	doc := bench.New("Jetty")
	m := &doc.Modules[0]
	m.ID, m.Name, m.Link = "hall", "Boat hall", bench.Link{Kind: "parallel4", Pins: map[string]string{"RS": "D2", "E": "D3", "D4": "D4", "D5": "D5", "D6": "D6", "D7": "D7"}}
	m.Screens[0].Rows = []string{"Tide 3.2 m", "High 14:05"}
	var err error
	if doc.Wiring, err = breadboard.Plan(&doc); err != nil {
		t.Fatal(err)
	}
	wires := doc.Wiring.Wires
	at := func(line string) int {
		return slices.IndexFunc(wires, func(w bench.Wire) bool { return w.From == "host/"+line || w.To == "host/"+line })
	}
	i, k := at(a), at(b)
	if i < 0 || k < 0 {
		t.Fatalf("no wires of %s and %s among %v", a, b, wires)
	}
	if (wires[i].From == "host/"+a) != (wires[k].From == "host/"+b) {
		wires[k].From, wires[k].To = wires[k].To, wires[k].From
	}
	if wires[i].From == "host/"+a {
		wires[i].From, wires[k].From = wires[k].From, wires[i].From
	} else {
		wires[i].To, wires[k].To = wires[k].To, wires[i].To
	}
	return doc
}

const firstCause = `document.querySelector('[data-cause]')?.dataset.cause`

// TestFaultFound types garbage that stands on the glass, is led to the two wires that
// are exchanged, mends them on the board, and reads of it in the log.
func TestFaultFound(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	id := storeBench(t, server, crossed(t, "D4", "D5"))
	p := open(t, fmt.Sprintf("%s/benches/%d/hall/faults", server.URL, id))
	var garbage []string
	until(p, rowsShown+`.includes("o")`, true) // what the board as it is drawn shows
	if err := json.Unmarshal([]byte(eval[string](p, rowsShown)), &garbage); err != nil {
		t.Fatal(err)
	}
	p.do(chromedp.Focus(`[aria-label="Type what stands on the glass"]`))
	p.keys(strings.TrimRight(garbage[0], " "))
	until(p, firstCause, "wire.swapped:D4,D5")
	until(p, `document.querySelector('[aria-label="What you typed shows row 1:   o___ ? ? _; row 2: blank"]') !== null`, true)
	until(p, `document.querySelectorAll('[aria-label="The chosen cause"] [data-wire][data-picked]').length`, 2)
	until(p, `document.querySelector('[aria-label="The chosen cause"]').innerText.includes("your board is drawn so")`, true)

	// a character that the module does not have is refused, and nothing that was typed is lost
	p.keys("~")
	until(p, `document.querySelector('[aria-label="What you see"] [role=alert]')?.innerText.startsWith("row 1, column 13") ?? false`, true)
	eval[bool](p, `localStorage.setItem("slatebell-count-from", "0") ?? true`)
	p.keys("~") // asked anew, it counts as the page does
	until(p, `document.querySelector('[aria-label="What you see"] [role=alert]')?.innerText.startsWith("row 0, column 12: '~' is not in this module’s ROM") ?? false`, true)
	eval[bool](p, `localStorage.removeItem("slatebell-count-from") ?? true`)
	p.keys(kb.Backspace)
	p.keys(kb.Backspace)
	until(p, `document.querySelector('[aria-label="What you see"] [role=alert]') === null`, true)
	until(p, firstCause, "wire.swapped:D4,D5")

	// another word for it leaves other causes; what was typed comes back with the view
	p.do(chromedp.Click(`//button[.="Blank"]`))
	until(p, firstCause, "contrast.low")
	p.do(chromedp.Click(`//button[.="Blank"]`))
	until(p, firstCause, "wire.swapped:D4,D5")
	p.clickText("Open the wiring")
	until(p, `location.pathname.endsWith("/wiring")`, true)
	p.do(chromedp.NavigateBack())
	until(p, firstCause, "wire.swapped:D4,D5")

	for range 2 { // each end is put back by itself
		if eval[bool](p, rowsShown+`.includes("Tide 3.2 m")`) {
			break
		}
		p.do(chromedp.Focus(`[aria-label="The chosen cause"] .MuiButton-contained`))
		p.keys(kb.Enter)
		until(p, `document.querySelector('[aria-label="The chosen cause"]') === null`, true) // what one sees is asked anew
		p.do(chromedp.Focus(`[aria-label="Type what stands on the glass"]`))
		p.keys("  o___ ? ? _")
		until(p, firstCause, "wire.swapped:D4,D5")
	}
	p.glass(16, "Tide 3.2 m", "High 14:05")
	p.do(chromedp.Click(`a[aria-label^="Log"]`))
	until(p, `document.querySelectorAll('li[data-kind=found]').length >= 1 && document.querySelectorAll('li[data-kind=changed]').length >= 1`, true)
	until(p, bodyText+`.includes("The wires of D4 and D5 are exchanged.") && `+bodyText+`.includes("wire.swapped")`, true)
	p.do(chromedp.Click(`a[aria-label^="Faults"]`))
	until(p, `document.querySelector('[aria-label="What your log says"]').innerText.includes("wire.swapped × ")`, true)
	p.clickText("Count anew")
	until(p, `document.querySelector('[aria-label="What your log says"]') === null`, true)
}

// TestWorking holds an answer back that takes long, and sees how far it is said to be.
func TestWorking(t *testing.T) {
	t.Parallel()
	server := serve(t)
	id := storeBench(t, server, crossed(t, "D4", "D5"))
	p := open(t, "")
	const holding = `(() => {
		const plain = window.fetch;
		const held = new Promise((go) => (window.letGo = go));
		window.fetch = async (r, more) => {
			if (r.url?.includes("/api/progress/"))
				return Response.json({ doing: "Simulating faults", done: 2600, of: 10400 });
			if (r.url?.endsWith("/api/faults/find")) await held;
			return plain(r, more);
		};
	})()`
	p.onNewDocument(holding)
	p.do(chromedp.Navigate(fmt.Sprintf("%s/benches/%d/hall/faults", server.URL, id)))
	until(p, `document.querySelector('main [role=progressbar]')?.getAttribute("aria-valuenow")`, "25")
	until(p, `document.querySelector('main [role=progressbar]').parentElement.innerText`, "Simulating faults… 2,600 of 10,400")
	eval[bool](p, `window.letGo() ?? true`)
	until(p, `document.querySelector('main [role=progressbar]') === null && `+firstCause+` !== undefined`, true)
}

// TestNextTests says what is seen by a picture, does the tests that are proposed as one
// would in whose module nothing arrives at E, by pointer, keys and a measured voltage,
// until one cause is left; and takes a result back.
func TestNextTests(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/hall/faults")
	p.do(chromedp.Click(`//button[.="A row of blocks"]`))
	until(p, `document.querySelector('[aria-label="Next test"] h2') !== null`, true)
	want := map[string]string{ // what one sees whose E is open
		"Look at the backlight": "lit", "Follow the wire of E": "nothing comes to it",
	}
	for range 12 {
		p.settle() // until then the test before may be in sight
		if eval[bool](p, `document.querySelector('[data-cause]').innerText.match(/^(9\d|100) %/) !== null`) {
			break
		}
		title := eval[string](p, `document.querySelector('[aria-label="Next test"] h2').innerText`)
		shown := eval[[]string](p, `[...document.querySelectorAll('[aria-label="Next test"] li button')].map(b => b.dataset.says ?? "")`)
		pick := "a row of blocks"
		for name, says := range want {
			if strings.HasSuffix(strings.ToLower(title), strings.ToLower(name)) {
				pick = says
			}
		}
		choice := slices.IndexFunc(shown, func(s string) bool { return strings.HasPrefix(s, pick) })
		for _, sound := range []string{"it is sound", "as it ought to be", "pin 1 is in its hole", "both are joined", "none", "5.0 V", "0.7 V", "0.5 V", "about 7.6 s", "no cursor is to be seen", "nothing can be read"} {
			if choice < 0 {
				choice = slices.Index(shown, sound)
			}
		}
		if choice < 0 {
			t.Fatalf("%s: none of %q is what one sees", title, shown)
		}
		eval[bool](p, fmt.Sprintf(`(document.querySelector('[aria-label="Next test"] li:nth-child(%d) button').focus(), true)`, choice+1))
		p.keys(kb.Enter)
		until(p, fmt.Sprintf(`document.querySelector('[aria-label="Next test"] h2').innerText !== %q`, title), true)
	}
	until(p, firstCause, "wire.open:E")
	n := eval[int](p, `document.querySelectorAll('[aria-label="What tests showed"] li').length`)
	p.do(chromedp.Click(`[aria-label="What tests showed"] button`))
	until(p, `document.querySelectorAll('[aria-label="What tests showed"] li').length`, n-1)

	// a cell that is pointed at with keys, and voltages
	p.clickText("Begin again")
	p.do(chromedp.Focus(`button[aria-label="Row 1, column 1 is otherwise"]`))
	p.keys(kb.ArrowRight + kb.Enter)
	until(p, `document.querySelector('button[aria-label="Row 1, column 2 is otherwise"]').getAttribute("aria-pressed")`, "true")
	p.clickText("Begin again")
	p.do(chromedp.SendKeys(`//label[contains(., "VDD measured")]//input`, "3,31"))
	until(p, firstCause, "supply.3v3")
	p.clickText("Begin again")
	p.do(chromedp.Click(`//button[.="Blank"]`))
	until(p, `[...document.querySelectorAll('[aria-label="Next test"] option')].some(o => o.value === "supply" || o.value === "contrast")`, true)
	p.do(chromedp.SetValue(`[aria-label="Next test"] select`, eval[string](p, `[...document.querySelectorAll('[aria-label="Next test"] option')].map(o => o.value).find(v => v === "supply" || v === "contrast")`)))
	eval[bool](p, `document.querySelector('[aria-label="Next test"] select').dispatchEvent(new Event("change", {bubbles: true}))`)
	p.do(chromedp.SendKeys(`[aria-label="Next test"] input`, "0,02"+kb.Enter))
	until(p, `document.querySelector('[aria-label="What tests showed"]').innerText.includes("0.02 V")`, true)

	// tests whose parts are not at hand are not proposed
	p.clickText("Begin again")
	p.do(chromedp.Click(`//button[.="Blank"]`))
	const meters = `[...document.querySelectorAll('[aria-label="Next test"] option')].some(o => o.innerText.startsWith("Measure"))`
	until(p, meters, true)
	p.do(chromedp.Click(`//label[contains(., "a meter")]//input`))
	until(p, meters, false)
}

// tabTo presses Tab until what has the focus matches a selector.
func (p *page) tabTo(selector string) {
	p.t.Helper()
	for range 120 {
		if eval[bool](p, fmt.Sprintf(`document.activeElement?.matches(%q) ?? false`, selector)) {
			return
		}
		p.keys(kb.Tab)
	}
	p.t.Fatalf("Tab does not lead to %s", selector)
}

// TestPracticeRound plays a round by keyboard alone, and finds its result in the log.
func TestPracticeRound(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/faults")
	p.tabTo(`[role=tab][aria-selected=false]`)
	p.keys(kb.Enter)
	p.tabTo(`input[name=level]`)
	p.keys(kb.ArrowDown + kb.ArrowUp)
	p.tabTo(`.MuiButton-contained`)
	p.keys(kb.Enter)
	until(p, `document.querySelectorAll('[aria-label="What you can do"] button').length > 10`, true)
	p.tabTo(`[aria-label="What you can do"] button`)
	p.keys(kb.Enter)
	until(p, `document.querySelectorAll('[aria-label="What you know"] li').length`, 1)
	p.keys(kb.ArrowDown + kb.ArrowDown)
	p.keys(kb.Enter)
	until(p, `document.querySelectorAll('[aria-label="What you know"] li').length`, 2)
	spent := eval[string](p, `document.querySelector('b[role=status]').innerText`)
	p.do(chromedp.Focus(`[aria-label="The glass"] select`))
	p.keys(kb.ArrowDown)
	until(p, `document.querySelector('[aria-label="The glass"] select').value !== ""`, true)
	p.tabTo(`button[type=submit]`)
	p.keys(kb.Enter)
	until(p, `document.querySelector('[aria-label=Verdict]') !== null`, true)
	verdict := eval[string](p, `document.querySelector('[aria-label=Verdict]').innerText`)
	if !strings.Contains(verdict, "Best plan") || !strings.Contains(verdict, strings.TrimSuffix(spent, " min spent")+" min") {
		t.Errorf("after %s the verdict is %q", spent, verdict)
	}
	p.keys(kb.Enter) // another round
	until(p, `document.querySelector('[aria-label="Your rounds"] circle') !== null`, true)
	until(p, `document.querySelectorAll('[aria-label="Your rounds"] circle').length`, 6)
	p.do(chromedp.Click(`a[aria-label^="Log"]`))
	p.do(chromedp.Click(`button[data-kind=practice]`))
	until(p, `document.querySelectorAll('li[data-kind=practice]').length`, 6)
}

// TestLog writes a note with a picture, searches, filters, changes and deletes, and
// keeps the log as files.
func TestLog(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/slip/log")
	until(p, bodyText+`.includes("20 entries")`, true)
	dot := filepath.Join(t.TempDir(), "bell.png")
	png, _ := base64.StdEncoding.DecodeString("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==")
	if err := os.WriteFile(dot, png, 0o644); err != nil {
		t.Fatal(err)
	}
	p.do(chromedp.SendKeys(`[aria-label="What you learnt"]`, "Ferrule on the bell wire"), chromedp.SetUploadFiles(`input[type=file]`, []string{dot}))
	until(p, bodyText+`.includes("bell.png")`, true)
	p.do(chromedp.SendKeys(`[aria-label="What you learnt"]`, "."))
	p.clickText("Write")
	until(p, bodyText+`.includes("21 entries")`, true)
	until(p, `(() => { const i = document.querySelector('img[alt="bell.png"]'); return i?.complete && i.naturalWidth === 1 })()`, true)
	p.do(chromedp.SendKeys(`[type=search]`, "ferrule"))
	until(p, bodyText+`.includes("1 of 21 entries")`, true)
	p.clickText("Edit")
	p.do(chromedp.SendKeys(`[aria-label="Text of the entry"]`, " Crimped."))
	p.clickText("Keep")
	until(p, `document.querySelector('li[data-kind=note]').innerText.includes("Ferrule on the bell wire. Crimped.")`, true)
	for ending, begins := range map[string]string{"csv": "time,kind,module,text", "md": "# Log of Quillfish Landing"} {
		text := eval[string](p, fmt.Sprintf(`fetch([...document.querySelectorAll('a')].find(a => a.href.includes("/log.%s")).href).then(r => r.text())`, ending))
		if !strings.HasPrefix(text, begins) || !strings.Contains(text, "Crimped") || strings.Contains(text, "Garbage") {
			t.Errorf("%s: %.200q", ending, text)
		}
	}
	p.clickText("Delete")
	w := watch(p)
	p.do(chromedp.DoubleClick(`//button[normalize-space()="Really delete"]`)) // it goes once, however often it is pressed
	until(p, bodyText+`.includes("No entry is like that.")`, true)
	until(p, bodyText+`.includes("of 20 entries")`, true)
	if wrong := w.taken(); len(wrong) > 0 {
		t.Errorf("deleted twice: %v", wrong)
	}
	p.do(chromedp.Focus(`[type=search]`))
	p.keys(kb.End + strings.Repeat(kb.Backspace, 8))
	p.do(chromedp.Click(`button[data-kind=found]`))
	until(p, `document.querySelectorAll('li[data-kind]').length`, 3)

	if paper := p.onPaper(); !strings.Contains(paper, "ThewiresofD6andD7areexchanged.") || strings.Contains(paper, "Writeitdown") {
		t.Errorf("printed: %.600s", paper)
	}

	// what a first power-up and a scan find comes in by itself
	p.do(chromedp.Click(`a[aria-label^="Bus"]`))
	p.clickText("My scanner printed")
	p.do(chromedp.SendKeys(`[aria-label="What a scanner printed"]`, "0x27, 0x68"))
	until(p, `document.querySelectorAll('[aria-label^="Addresses that answered"] li').length > 1`, true)
	p.keys(kb.Tab)
	p.do(chromedp.Click(`a[aria-label^="Log"]`))
	until(p, `document.querySelectorAll('li[data-kind=scan]').length`, 2)
}
