package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
)

// tooWide names the elements that reach beyond the window's right edge without being cut by
// what they lie in.
const tooWide = `document.documentElement.scrollWidth <= innerWidth ? "" : [...document.querySelectorAll("main *")].filter((e) => e.getBoundingClientRect().right > innerWidth).map((e) => e.tagName + "." + e.className + " " + e.getBoundingClientRect().right).slice(0, 6).join("; ") || "the page"`

// TestNoView scrolls sideways at the widths that people have, in either theme's layout.
func TestNoViewIsTooWide(t *testing.T) {
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/bench")
	for _, module := range []string{"gate", "hall"} {
		for _, view := range views {
			p.do(chromedp.Navigate(fmt.Sprintf("%s/benches/1/%s/%s", server.URL, module, view)), chromedp.WaitVisible(`canvas[role="img"]`))
			for _, width := range []int64{1024, 1280, 1920} {
				p.do(chromedp.EmulateViewport(width, 800))
				until(p, "innerWidth", int(width))
				eval[any](p, `new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r)))`)
				if wide := eval[string](p, tooWide); wide != "" {
					t.Errorf("%s of %s at %d px: %s", view, module, width, wide)
				}
			}
		}
	}
}
