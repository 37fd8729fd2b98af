package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/core/table/breadboard"
	"slatebell/e2e/harness"
)

// TestAxe runs axe-core (WCAG 2.2 AA and its best practices) over every view, in
// the dark theme and, less wide, in the light one, as it is, with findings open, and with the dock
// folded or the list of modules open: no violation of any impact.
func TestAxe(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	wrong := func(p *page) {
		p.do(chromedp.Click(`canvas`))
		p.keys(kb.Home + "Café and more letters")
		until(p, `document.querySelector('[aria-label="Module"] canvas').dataset.rows.includes("and mo")`, true)
	}
	visits := []visit{
		{"/benches", nil},
		{"/benches/1/gate/bench", nil},
		{"/benches/1/gate/bus", nil},
		{"/benches/1/gate/bus", func(p *page) {
			p.do(chromedp.Click(`//summary[contains(., "which expander")]`))
			p.choose("What is on it", "wrong-pads")
			until(p, bodyText+`.includes("missing")`, true)
		}},
		{"/benches/1/gate/bench", func(p *page) { p.do(chromedp.Click(`//button[contains(., "ATmega328P")]`)) }},
		{"/benches/1/gate/bench", func(p *page) { p.do(chromedp.Click(`article[aria-label="Boathouse clock"] button`)) }},
		{"/benches/new", nil},
		{"/benches/1/hall/module", nil},
		{"/benches/1/slip/module", nil},
		{"/benches/1/gate/screens", nil},
		{"/benches/1/hall/run", nil},
		{"/benches/1/gate/screens", func(p *page) { p.do(chromedp.Click(`[popovertarget="modules"]`)) }},
		{"/benches/1/gate/screens", func(p *page) { p.do(chromedp.Click(`[popovertarget="keys"]`)) }},
		{"/benches/1/gate/screens", func(p *page) {
			eval[any](p, `fetch("/api/table/disconnect", {method: "POST"}).then(() => 0)`)
			p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.WaitVisible(`[aria-label="Connect stand-in"]`))
		}},
		{"/benches/1/gate/bus", func(p *page) {
			p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.WaitVisible(`#live h2`))
			until(p, `document.querySelector('[aria-label="Connect stand-in"]')?.click(), document.querySelector('[aria-label="Read memory of Gate board"]') !== null`, true)
		}},
		{"/benches/1/gate/run", func(p *page) { p.do(chromedp.Click(`[aria-expanded="true"]`)) }},
		{"/benches/1/gate/screens", wrong},
		{"/benches/1/gate/bench", nil}, // now with findings
		{"/benches/1/gate/run", nil},
		{"/benches/1/gate/bench", func(p *page) {
			p.do(chromedp.Click(`//button[contains(., "Other part")]`), chromedp.WaitVisible(`[aria-label="Part of your own"]`))
		}},
		{"/benches/99", nil},
		{"/benches", func(p *page) {
			p.do(chromedp.Click(`//button[normalize-space()="Copy"]`))
			until(p, `document.querySelectorAll("article").length > 1`, true)
			p.do(chromedp.Click(`article [title="Put it into the bin"]`))
			until(p, bodyText+`.includes("In the bin")`, true)
		}},
	}
	look(t, server, visits)
}

// TestAxeGlyphs does the same with the glyph desk: a slot, a picture, a text that
// cannot be read.
func TestAxeGlyphs(t *testing.T) {
	t.Parallel()
	look(t, serve(t, "--demo"), []visit{
		{"/benches/1/hall/glyphs", func(p *page) {
			p.do(chromedp.Click(`[aria-label="Rows as text, in any form"]`))
			p.keys("0b01, zwei")
			until(p, `document.querySelector('[aria-label="Rows as text"] [role=alert]') !== null`, true)
		}},
		{"/benches/1/slip/glyphs", func(p *page) {
			p.do(chromedp.Click(`//button[contains(@title, "boathouse")]`), chromedp.Click(`//summary[contains(., "tide")]`))
		}},
	})
}

// TestAxeCode does the same with the program, of a module and of the whole bench, once it is
// written.
func TestAxeCode(t *testing.T) {
	t.Parallel()
	look(t, serve(t, "--demo"), []visit{
		{"/benches/1/gate/code", nil},
		{"/benches/1/slip/code", func(p *page) {
			p.do(chromedp.Click(`//button[@role="tab"][.="Whole bench"]`), chromedp.Click(`//button[@role="tab"][.="MicroPython"]`))
			until(p, bodyText+`.includes("quillfish_landing.py") && document.querySelector("[data-old]") === null`, true)
		}},
	})
}

// TestAxeScenes does the same with shows: played, an input and what was found looked at, the stick,
// no scenes yet.
func TestAxeScenes(t *testing.T) {
	t.Parallel()
	tab := func(name string) func(p *page) {
		return func(p *page) {
			p.do(chromedp.Click(`[aria-label="To the next change"]`), chromedp.Click(fmt.Sprintf(`//button[@role="tab"][.=%q]`, name)))
		}
	}
	server := serve(t, "--demo")
	id := storeBench(t, server, bench.New("empty"))
	look(t, server, []visit{
		{"/benches/1/gate/scenes", nil}, {"/benches/1/slip/scenes", tab("Input")}, {"/benches/1/slip/scenes", tab("Findings")},
		{"/benches/1/slip/scenes", func(p *page) { p.do(chromedp.Click(`[data-scene="alarm"]`)) }},
		{"/benches/1/hall/scenes", func(p *page) {
			p.do(chromedp.Click(`//label[contains(., "all modules")]`), chromedp.Click(`//button[.="Wind"]`))
		}},
		{fmt.Sprintf("/benches/%d/module-1/scenes", id), nil},
	})
}

// TestAxeRecording does the same with recordings: none yet, samples whose rate is asked for, one with broken limits, one that was not read, and what
// stands beside one.
func TestAxeRecording(t *testing.T) {
	t.Parallel()
	own := func(p *page) {
		p.choose("Its program", "wait.none")
		p.do(chromedp.Click(`//button[.="Record it"]`), chromedp.WaitVisible(lanes))
	}
	tab := func(name, there string) func(p *page) {
		return func(p *page) {
			own(p)
			p.do(chromedp.Click(fmt.Sprintf(`//button[@role="tab"][.=%q]`, name)), chromedp.WaitVisible(there))
		}
	}
	written := func(name, data string) func(p *page) {
		name = filepath.Join(t.TempDir(), name)
		if err := os.WriteFile(name, []byte(data), 0o644); err != nil {
			t.Fatal(err)
		}
		return func(p *page) { p.dropFile(dropHere, name) }
	}
	look(t, serve(t, "--demo"), []visit{
		{"/benches/1/gate/recording", nil},
		{"/benches/1/gate/recording", func(p *page) {
			own(p)
			p.do(chromedp.Focus(lanes))
			for _, key := range []string{"+", "+", "+", "+", "a", "0", "b"} {
				p.keys(key)
			}
			p.do(chromedp.Click(`//button[.="Save as"]`))
		}},
		{"/benches/1/gate/recording", tab("Operations", `[role=list] button`)},
		{"/benches/1/slip/recording", tab("Memory", `[aria-label=Memory]`)},
		{"/benches/1/gate/recording", tab("Cheaper", `[aria-label="What a better program takes"]`)},
		{"/benches/1/gate/recording", tab("Bench", `[aria-label="What explains the difference"] li`)},
		{"/benches/1/gate/recording", func(p *page) {
			written("samples.bin", "\x00\x01")(p)
			p.do(chromedp.WaitVisible(dropHere + ` form`))
		}},
		{"/benches/1/gate/recording", func(p *page) {
			written("still.csv", "time,A,B\n0,0,1\n0.1,1,1\n")(p)
			p.do(chromedp.WaitVisible(lanes))
		}},
	})
}

// TestAxeFaults does the same with faults, a round of practice, and the log.
func TestAxeFaults(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	id := storeBench(t, server, bench.New("empty"))
	seen := func(p *page) {
		p.do(chromedp.Click(`//button[.="A row of blocks"]`))
		until(p, `document.querySelector('[aria-label="The chosen cause"]') !== null`, true)
	}
	practise := func(p *page) { p.do(chromedp.Click(`//button[@role="tab"][.="Practise"]`)) }
	look(t, server, []visit{
		{"/benches/1/hall/faults", seen}, {"/benches/1/gate/faults", seen}, {"/benches/1/hall/faults", practise},
		{"/benches/1/slip/faults", func(p *page) {
			practise(p)
			p.do(chromedp.Click(`//button[.="Hide a fault"]`))
			p.do(chromedp.Click(`//button[contains(., "Switch off and on")]`))
			until(p, `document.querySelectorAll('[aria-label="What you know"] li').length`, 1)
		}},
		{"/benches/1/hall/log", nil}, {fmt.Sprintf("/benches/%d/module-1/log", id), nil},
	})
}

// TestAxePanels does the same with what stands beside the desk.
func TestAxePanels(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	tab := func(name, shows string) func(p *page) {
		return func(p *page) {
			p.do(chromedp.Click(fmt.Sprintf(`//button[@role="tab"][.=%q]`, name)))
			until(p, fmt.Sprintf(`document.querySelector("aside").innerText.includes(%q)`, shows), true)
		}
	}
	look(t, server, []visit{
		{"/benches/1/gate/glyphs", tab("Picture", "Threshold")},
		{"/benches/1/gate/glyphs", tab("Make", "40 steps")},
		{"/benches/1/gate/glyphs", func(p *page) {
			tab("Make", "40 steps")(p)
			p.clickText("Large digits")
			until(p, bodyText+`.includes("nearer to itself")`, true)
		}},
		{"/benches/1/gate/glyphs", func(p *page) {
			tab("Make", "40 steps")(p)
			p.clickText("Moving sign")
			until(p, bodyText+`.includes("Words on the wire")`, true)
		}},
		{"/benches/1/gate/glyphs", tab("Banks", "12 glyphs, 8 slots")},
	})
}

// TestAxeChanges does the same with what stands beside a screen.
func TestAxeChanges(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	tab := func(name, label, shows string) func(p *page) {
		return func(p *page) {
			p.do(chromedp.Click(fmt.Sprintf(`//button[@role="tab"][.=%q]`, name)))
			p.in(label, shows)
		}
	}
	look(t, server, []visit{
		{"/benches/1/hall/screens", func(p *page) {
			tab("Fields", "Fields", "longest")(p)
			p.do(chromedp.Click(`//section[@aria-label="Fields"]//li[2]//button[1]`))
			p.in("Fields", "Texts, one a line")
		}},
		{"/benches/1/gate/screens", tab("Changes", "Changes", "cells differ")},
		{"/benches/1/gate/screens", tab("All changes", "All changes", "a second")},
		{"/benches/1/gate/screens", tab("Scroll", "Scroll", "steps a round")},
		{"/benches/1/gate/screens", func(p *page) {
			tab("Find", "Find", "Find on all screens")(p)
			p.keys("tide")
			p.in("Find", "places")
		}},
	})
}

// TestAxeWiring does the same with the table of a small bench, whose drawing has fewer
// pins to look at: as it lies, with a part picked, in each panel, and with a wire one
// hole aside.
func TestAxeWiring(t *testing.T) {
	t.Parallel()
	b := bench.New("Slip")
	b.Modules[0].Link.Kind, b.Modules[0].Display.Geometry = "parallel4", "8x1"
	b.Modules[0].Screens[0].Rows = []string{"3 afloat"}
	var err error
	if b.Wiring, err = breadboard.Plan(&b); err != nil {
		t.Fatal(err)
	}
	server := serve(t)
	view := fmt.Sprintf("/benches/%d/module-1/wiring", storeBench(t, server, b))
	look(t, server, []visit{
		{view, nil},
		{view, func(p *page) {
			p.do(chromedp.Click(`//button[@role="tab"][.="Part"]`), chromedp.Focus(`[data-thing="module-1"] [role=button]`))
			until(p, bodyText+`.includes("useful turn") && document.body.innerText.includes("Backlight resistor")`, true)
		}},
		{view, func(p *page) {
			p.do(chromedp.Click(`//button[@role="tab"][.="First light"]`))
			until(p, `document.querySelectorAll("aside details").length > 2`, true)
			p.do(chromedp.Click(`(//aside//summary)[last()]`))
		}},
		{view, func(p *page) {
			p.do(chromedp.Click(`//button[@role="tab"][.="Mounting"]`), chromedp.Focus(wireEnd(wireOf(p.t, &b, "host/D7"), "to")))
			p.keys(kb.ArrowRight)
			until(p, bodyText+`.includes("not as the netlist asks")`, true)
		}},
	})
}

// visit is a view to look at.
type visit struct {
	path string
	do   func(p *page) // what it is looked at after
}

// look runs axe-core over views in the dark theme at 1280 px with all of its rules, and in the light
// one at 1024 with those whose answer depends on colours and room.
func look(t *testing.T, server *harness.Server, visits []visit) {
	t.Helper()
	lookIn(t, server, visits, [2]frame{
		{"dark", 1280, 800, `["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice", "experimental"]`},
		{"light", 1024, 800, `{ type: "rule", values: ["color-contrast", "link-in-text-block", "target-size", "scrollable-region-focusable"] }`},
	}, nil)
}

// frame is how a page is looked at, and which rules it is held to.
type frame struct {
	theme         string
	width, height int64
	rules         string
}

// lookIn does what look does in two frames, of which the second is a change of the first; also looks at each once it is drawn.
func lookIn(t *testing.T, server *harness.Server, visits []visit, frames [2]frame, also func(p *page, at string)) {
	t.Helper()
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	if err != nil {
		t.Fatalf("%v: run make test, which installs it", err)
	}
	p := open(t, "")
	p.do(chromedp.Navigate(server.URL + "/benches"))
	seen := map[string]bool{}
	for i, v := range visits {
		p.do(chromedp.EmulateViewport(frames[0].width, frames[0].height))
		eval[any](p, `(() => { localStorage.clear(); sessionStorage.clear(); localStorage.setItem("mui-mode", "dark"); return 0 })()`)
		p.do(chromedp.Navigate(server.URL+v.path), chromedp.WaitVisible(`h1, [role="alert"]`, chromedp.NodeReady))
		if strings.Count(v.path, "/") > 3 && also == nil {
			p.do(chromedp.WaitVisible(`canvas[role="img"]`))
		}
		until(p, `document.querySelector("main") !== null && !document.body.innerText.includes("Opening…")`, true)
		if v.do != nil {
			v.do(p)
		}
		eval[any](p, `document.querySelectorAll("[data-line]:nth-child(n+100)").forEach((l) => l.remove()) ?? 0`) // of a listing's thousands all are alike
		eval[any](p, string(axe)+"; 0")
		for _, setting := range frames {
			if setting.theme == "light" { // the same page, as one who chooses it sees it once the colours have faded over
				p.do(chromedp.EmulateViewport(setting.width, setting.height))
				eval[any](p, `(() => {
					const still = new CSSStyleSheet();
					still.replaceSync("* { transition: none !important }");
					document.adoptedStyleSheets = [...document.adoptedStyleSheets, still];
					document.documentElement.dataset.theme = "light";
					return new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(() => drawn(0))));
				})()`)
			}
			found := eval[[]string](p, fmt.Sprintf(`(async () => {
					await document.fonts.ready;
					const r = await axe.run(document, { resultTypes: ["violations"], runOnly: %s });
					return r.violations.map((v) => v.impact + " " + v.id + ": " + v.nodes.slice(0, 3).map((n) => n.target + " — " + n.any.concat(n.all, n.none).map((c) => c.message).join("; ")).join(" | "));
				})()`, setting.rules))
			if also != nil {
				also(p, fmt.Sprintf("%s (visit %d), %d px", v.path, i, setting.width))
			}
			for _, f := range found {
				if !seen[f] {
					seen[f] = true
					t.Errorf("%s (visit %d), %s, %d px: %s", v.path, i, setting.theme, setting.width, f)
				}
			}
		}
	}
}
