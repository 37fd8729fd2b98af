package e2e

import (
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/core/part/charrom"
	"slatebell/core/prove/chart"
	"slatebell/core/prove/photo/phototest"
	"slatebell/core/text/glyph"
)

// chartShots writes photographs of the screens of a 20×4 module's chart, whose ROM is A02 but for the ampersand, which is a block.
func chartShots(t *testing.T) (names []string) {
	t.Helper()
	d, rom := bench.NewModule("hall", "").Display, charrom.A02()
	d.Geometry = "20x4"
	m, err := d.Module()
	if err != nil {
		t.Fatal(err)
	}
	marks := chart.Marks(&m)
	for k, codes := range chart.Screens(&m) {
		p := phototest.Some(rand.New(rand.NewPCG(31, uint64(k))), 20, 4, 8, 24, 20, func(cell, row, col int) bool {
			if slot, ok := rom.Slot(codes[cell]); ok {
				g, _ := marks.In(slot)
				return g.Pattern().Lit(row, col)
			}
			return codes[cell] == '&' || glyph.Of(rom.Dots(codes[cell])).Lit(row, col)
		}).Take()
		names = append(names, kept(t, p, fmt.Sprintf("screen-%d.jpg", k+1)))
	}
	return names
}

// TestLearn learns the ROM of the hall's module from photographs: the screens are shown on the stand-in's glass at a click, photographs of them
// are read in any order, one that shows something else is refused and left out, a dot is set right by eye, and the chart is kept as the
// module's ROM; undo brings the one before back.
func TestLearn(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/hall/module")
	p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.Click(`[aria-label="Connect stand-in"]`))
	p.do(chromedp.WaitVisible(`//div[@id="live"]//p[@role="status"][contains(., "is there")]`))
	p.keys(kb.Escape)
	p.do(chromedp.Focus(`//button[.="Learn its ROM from photographs"]`))
	p.keys(kb.Enter)
	const part = `//section[@aria-label="Learn the ROM"]`
	p.do(chromedp.Click(part + `//ol/li[2]/button`))
	answers(p, `fetch('/api/table/glass/1').then(r => r.json()).then(g => String(g.text.join('').includes('FGHIJKLMNOPQRST')))`, "true")
	p.do(chromedp.Focus(part + `//button[.="Show the composed screen again"]`))
	p.keys(kb.Enter)
	answers(p, `fetch('/api/table/glass/1').then(r => r.json()).then(g => String(g.text.join('').includes('FGHIJKLMNOPQRST')))`, "false")
	saved := p.downloads()
	p.do(chromedp.Click(part + `//button[contains(., "Program that shows them")]`))
	if zip := downloaded(t, filepath.Join(saved, "chart-screens.zip")); !strings.Contains(string(zip), "hall-chart.csv") {
		t.Errorf("the program is %.80q", zip)
	}

	text, rom := fmt.Sprintf("%-20s%-20s%-20s%-20s", "Tide 3.2 m rising", "High water 14:05", "Wind NW 4, gusts 6", "Boats out 3 of 11"), charrom.A00()
	other := kept(t, phototest.Some(rand.New(rand.NewPCG(31, 9)), 20, 4, 8, 24, 20, func(cell, row, col int) bool {
		return glyph.Of(rom.Dots(text[cell])).Lit(row, col)
	}).Take(), "glass.jpg")
	shots, file := chartShots(t), `[aria-label="Photographs of the screens"]`
	says := `(document.querySelector('[aria-label="What the photographs say"]')?.innerText ?? "")`
	p.do(chromedp.SetUploadFiles(file, []string{shots[2], other, shots[0]}, chromedp.NodeReady))
	until(p, `[...document.querySelectorAll('[aria-label="Photographs"] [role=status]')].map(s => s.innerText.slice(0, 8)).join()`, "screen 3,no mark ,screen 1")
	until(p, says+`.includes("Of the 4 screens of the chart there is no photograph of 2 and 4.")`, true)
	p.do(chromedp.Focus(`[aria-label="Leave glass.jpg out"]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitNotPresent(`[aria-label="Leave glass.jpg out"]`))
	p.do(chromedp.Click(part + `//button[.="Back to the charts"]`))
	p.do(chromedp.Click(`//button[.="Learn its ROM from photographs"]`)) // what was read is still there
	p.do(chromedp.SetUploadFiles(file, []string{shots[3], shots[1]}, chromedp.NodeReady))
	until(p, says+`.includes("It is ROM A02 but for 1 code: 0x26.")`, true)

	code := func(hex string) string { return `[aria-label="The chart"] [aria-label^="Code ` + hex + `:"]` }
	p.do(chromedp.Click(code("0x26")))
	dots := `[role=application][aria-label*="code 0x26"]`
	p.do(chromedp.WaitVisible(dots), chromedp.Focus(dots))
	p.keys(kb.ArrowRight)
	p.keys(" ")
	until(p, `JSON.parse(document.querySelector('`+dots+`').dataset.cells)[0][0]`, 0x17)
	p.do(chromedp.Focus(code("0x26")))
	p.keys(kb.ArrowRight)
	p.do(chromedp.WaitVisible(`[role=application][aria-label*="code 0x27"]`))
	p.do(chromedp.WaitEnabled(part+`//button[.="Keep it as this module’s ROM"]`), chromedp.Focus(part+`//button[.="Keep it as this module’s ROM"]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(`//h2[.="Character ROM Boat hall"]`))
	p.settle()
	c := stored(t, server, 1).Modules[1].Display.Controller
	rom, err := c.Table()
	if err != nil || c.ROM != bench.OwnROM {
		t.Fatalf("%v, ROM %q is stored", err, c.ROM)
	}
	if d := rom.Dots('&'); d != (charrom.Dots{0x17, 31, 31, 31, 31, 31, 31, 31}) || rom.Dots('k') != charrom.A02().Dots('k') {
		t.Errorf("& shows %v", d)
	}
	p.do(chromedp.Click(`canvas`))
	p.keys("z", chromedp.KeyModifiers(2))
	p.do(chromedp.WaitVisible(`//h2[.="Character ROM A02"]`))
}
