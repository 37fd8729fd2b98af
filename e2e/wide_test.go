package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// tooWide names the elements that reach beyond the window's right edge without being cut by
// what they lie in.
const tooWide = `document.documentElement.scrollWidth <= innerWidth ? "" : [...document.querySelectorAll("main *")].filter((e) => e.getBoundingClientRect().right > innerWidth).map((e) => e.tagName + "." + e.className + " " + e.getBoundingClientRect().right).slice(0, 6).join("; ") || "the page"`

// cutLists names the lists whose choice is cut: its words take more room than the list has.
const cutLists = `(() => {
	const pen = document.createElement("canvas").getContext("2d");
	return [...document.querySelectorAll("select")].filter((s) => s.checkVisibility()).map((s) => {
		const look = getComputedStyle(s);
		pen.font = look.font;
		const words = s.selectedOptions[0]?.textContent.trim() ?? "";
		const room = s.clientWidth - parseFloat(look.paddingLeft) - parseFloat(look.paddingRight);
		return [words, Math.ceil(pen.measureText(words).width), Math.floor(room), s.ariaLabel ?? s.labels?.[0]?.textContent ?? ""];
	}).filter(([, takes, room]) => takes > room + 1).map((x) => x.join(" ")).join("; ");
})()`

// TestNoViewIsTooWide asks at the widths that people have that no view scrolls sideways and no list
// is cut.
func TestNoViewIsTooWide(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/bench")
	for _, module := range []string{"gate", "hall"} {
		for _, view := range views {
			p.do(chromedp.Navigate(fmt.Sprintf("%s/benches/1/%s/%s", server.URL, module, view)), chromedp.WaitVisible(`canvas[role="img"]`))
			for _, width := range []int64{1024, 1280, 1920} {
				if module == "hall" && width > 1024 {
					continue // its sheets are those of the other one
				}
				p.do(chromedp.EmulateViewport(width, 800))
				until(p, "innerWidth", int(width))
				eval[any](p, `new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r)))`)
				if wide := eval[string](p, tooWide); wide != "" {
					t.Errorf("%s of %s at %d px: %s", view, module, width, wide)
				}
				if cut := eval[string](p, cutLists); cut != "" {
					t.Errorf("%s of %s at %d px: lists are cut: %s", view, module, width, cut)
				}
			}
		}
	}
}

// TestSheetsOfScenes opens what every scene and input of the demo is worked on by: no list is cut,
// and no row of the console.
func TestSheetsOfScenes(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/scenes")
	for _, module := range []string{"gate", "hall", "slip"} {
		for _, width := range []int64{1024, 1280} {
			p.do(chromedp.EmulateViewport(width, 768), chromedp.Navigate(fmt.Sprintf("%s/benches/1/%s/scenes", server.URL, module)), chromedp.WaitVisible(`[aria-label="Inputs"]`))
			const half = `(() => {
				const list = document.querySelector('[aria-label="Inputs"]');
				let over = list;
				while (over && getComputedStyle(over).overflowY === "visible") over = over.parentElement;
				const end = (over ?? document.documentElement).getBoundingClientRect().bottom;
				return [...list.children].map((c) => c.getBoundingClientRect()).filter((r) => r.top < end && r.bottom > end + 1).map((r) => r.top + "–" + r.bottom + " over " + end).join("; ");
			})()`
			if cut := eval[string](p, half); cut != "" {
				t.Errorf("%s at %d px: a row of inputs is cut: %s", module, width, cut)
			}
			const cards = `[...document.querySelectorAll('[aria-label^="Scene "], [aria-label="Inputs"] button[title$="set it up"]')]`
			for i := range eval[int](p, cards+`.length`) {
				name := eval[string](p, fmt.Sprintf(`(() => { const c = %s[%d]; c.focus(); c.dispatchEvent(new MouseEvent("click", {bubbles: true})); return c.ariaLabel ?? c.textContent; })()`, cards, i))
				eval[any](p, `new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r)))`)
				if cut := eval[string](p, cutLists); cut != "" {
					t.Errorf("%s, %s at %d px: lists are cut: %s", module, name, width, cut)
				}
			}
		}
	}
}

// TestRunNarrow goes to the steps of a run by keys on the least width that a desk has, and through them.
func TestRunNarrow(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/run")
	p.do(chromedp.EmulateViewport(900, 800), chromedp.Reload(), chromedp.WaitReady(`[role=grid][aria-label=Steps]`))
	p.tabTo(`[role=grid][aria-label=Steps]`)
	p.keys(kb.Home)
	until(p, where, "Step 1 of 42")
	p.keys(kb.ArrowDown + kb.ArrowDown)
	until(p, where, "Step 3 of 42")
	if seen := eval[bool](p, `(() => { const r = document.querySelector("#step-2").getBoundingClientRect(); return r.right > 60 && r.left < innerWidth && r.top >= 0 && r.bottom <= innerHeight; })()`); !seen {
		t.Errorf("the chosen step is not in sight: %s", eval[string](p, `JSON.stringify(document.querySelector("#step-2")?.getBoundingClientRect())`))
	}
}
