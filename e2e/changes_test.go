package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/core/text/field"
)

// tides is a bench whose one module shows two screens, the second shorter.
func tides() bench.Bench {
	b := bench.New("Tides")
	b.Modules[0].ID, b.Modules[0].Name = "gate", "Gate board"
	b.Modules[0].Screens = []bench.Screen{
		{ID: "up", Name: "Rising", Rows: []string{"Tide rising", "High water 14:05"}},
		{ID: "down", Name: "Ebbing", Rows: []string{"Tide", "Low 20:21"}},
	}
	return b
}

// onScreens opens the screens of a bench's gate board, with the keys on the glass.
func onScreens(t *testing.T, b bench.Bench) *page {
	t.Helper()
	server := serve(t)
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/gate/screens", server.URL, id))
	p.do(chromedp.WaitVisible(`[role="tab"]`), chromedp.Focus(`textarea[aria-label^="Type on the glass"]`))
	return p
}

// toTab goes to what stands beside the screen, by keys.
func (p *page) toTab(name string) {
	p.t.Helper()
	p.do(chromedp.Focus(fmt.Sprintf(`//button[@role="tab"][.=%q]`, name)))
	p.keys(kb.Enter)
}

// press goes to a button by its text and presses Enter.
func (p *page) press(text string) {
	p.t.Helper()
	button := fmt.Sprintf(`//button[normalize-space()=%q]`, text)
	for held := false; !held; { // it may just be drawn anew
		p.do(chromedp.Focus(button))
		held = eval[bool](p, fmt.Sprintf(`new Promise((held) => setTimeout(() => held(document.activeElement?.innerText.trim() === %q), 100))`, text))
	}
	p.keys(kb.Enter)
}

// in waits until a part of the page says something.
func (p *page) in(label, text string) {
	p.t.Helper()
	until(p, fmt.Sprintf(`document.querySelector('[aria-label=%q]')?.innerText.includes(%q) ?? false`, label, text), true)
}

// TestLeftovers finds what one screen leaves of another and cures it, by the
// keyboard alone: the finding names it, the glass shows it in another tint, every
// way to change is drawn with its time, and deciding on one settles the finding.
func TestLeftovers(t *testing.T) {
	t.Parallel()
	p := onScreens(t, tides())
	p.do(chromedp.Focus(`[aria-label="Screen 1: Rising"]`))
	p.keys(kb.ArrowRight)
	p.toTab("Changes")
	p.in("Changes", "12 cells keep old characters")
	tinted := `document.querySelectorAll('[aria-label=Changes] [data-kind=left]').length`
	until(p, tinted, 12)
	until(p, `document.querySelector('[aria-label=Changes] canvas[aria-label^="Written over"]').dataset.rows`, `["Tide rising     ","Low 20:21r 14:05"]`)
	ways := `[...document.querySelectorAll('[aria-label="Ways to change the screen"] li')].map(li => li.querySelector("b").textContent + ": " + li.innerText.match(/[\d.]+ ms/)[0] + (li.innerText.includes("blinks") ? " blinks" : "")).join("; ")`
	until(p, ways, "Cheapest: 7.89 ms blinks; Cheapest, no clear: 9.15 ms; What changed: 9.33 ms; Padded: 10.9 ms; Clear and reprint: 8.34 ms blinks")
	p.do(chromedp.Focus(`//button[starts-with(normalize-space(), "Padded")]`))
	p.keys(kb.Enter)
	until(p, `document.querySelector('[aria-label=Changes] [role=grid]').ariaRowCount`, "30")
	p.toTab("All changes")
	p.in("All changes", "Written over “Rising”, “Ebbing” leaves “rising” of it in row 1; cells with old characters: 12.")
	p.press("Write what differs, without a clear")
	p.in("All changes", "None: nothing old is left on the glass")
	p.settle()
	p.toTab("Changes")
	until(p, `document.querySelector('[aria-label="Ways to change the screen"] li [aria-pressed=true].MuiButton-root').textContent`, "In use")
	p.do(chromedp.Focus(`textarea[aria-label^="Type on the glass"]`))
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	p.toTab("All changes")
	p.in("All changes", "leaves “rising” of it")
}

// TestFieldOverflow makes a field of what is selected on the glass, by keys, and
// finds that it overflows at one value only.
func TestFieldOverflow(t *testing.T) {
	t.Parallel()
	b := tides()
	b.Modules[0].Changes = "steady"
	b.Modules[0].Screens[0].Rows[0] = "Tide  9.9 m"
	p := onScreens(t, b)
	p.keys(strings.Repeat(kb.ArrowRight, 5))
	for range 4 {
		p.keys(kb.ArrowRight, chromedp.KeyModifiers(kb.ModifierShift))
	}
	p.keys(kb.F2)
	p.in("Fields", "Number, row 1, column 6, 4 cells")
	until(p, `document.activeElement.value`, "9.9")
	fill := func(label, text string) {
		t.Helper()
		p.do(chromedp.Focus(fmt.Sprintf(`//section[@aria-label="Fields"]//label[starts-with(normalize-space(), %q)]/following-sibling::div/input`, label)))
		p.keys("a", chromedp.KeyModifiers(kb.ModifierCtrl))
		p.keys(text + kb.Enter)
	}
	fill("Greatest", "999")
	until(p, findings, "field.too-long")
	p.settle()
	p.press("Leave the decimals out") // a least value of 0 is not stored: the remedy finds the field all the same
	until(p, findings, "")
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	until(p, findings, "field.too-long")
	fill("Greatest", "9.9")
	fill("Least", "-9.9")
	until(p, findings, "")
	fill("Least", "-10")
	until(p, findings, "field.too-long")
	p.in("Findings", "The field “Tide” does not fit at -10.0: “-10.0” takes 5 cells, it has 4.")
	p.in("Fields", "Does not fit from -10.0 on: -10.0 takes 5 cells. The glass shows #### then.")
	fill("Shows now", "-10")
	p.glass(16, "Tide #### m", "High water 14:05")
	p.settle() // the findings follow the glass
	p.press("Leave the decimals out")
	until(p, findings, "")
	p.glass(16, "Tide  -10 m", "High water 14:05")
	// what is typed on the field is its value, and the row below it stays as it was
	p.do(chromedp.Focus(`textarea[aria-label^="Type on the glass"]`))
	p.keys(kb.Home + strings.Repeat(kb.ArrowRight, 5) + "   7")
	p.glass(16, "Tide    7 m", "High water 14:05")
	p.keys(kb.F2)
	p.settle() // the field of the word behind it opens
	p.do(chromedp.Focus(`[aria-label="Take away Tide"]`))
	p.keys(kb.Enter)
	p.glass(16, "Tide  9.9 m", "High water 14:05")
}

// TestAllChanges reads the matrix of a module, and goes from it to a change.
func TestAllChanges(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/screens")
	p.toTab("All changes")
	cells := `[...document.querySelectorAll('[aria-label="All changes"] tbody tr button')].length`
	until(p, cells, 12)
	p.in("All changes", "High water\tGate\t26 bytes, 2.5 ms\t402 a second")
	p.do(chromedp.Focus(`[data-change="1 3"]`))
	p.in("All changes", "Tides to Boats: ")
	for _, c := range []struct{ key, at string }{{kb.ArrowDown, "2 3"}, {kb.ArrowDown, ""}, {kb.Home, "2 0"}, {kb.ArrowUp, "1 0"}, {kb.ArrowUp, ""}, {kb.End, "1 3"}} {
		p.keys(c.key)
		if c.at != "" { // else there is no further change that way
			until(p, `document.activeElement.dataset.change`, c.at)
		}
	}
	p.keys(kb.Enter)
	until(p, `document.querySelector('[aria-label="Screen 4: Boats"]').ariaPressed`, "true")
	p.in("Changes", "cells differ")
}

// TestManyChanges stops the table of a module of many screens in the middle, has it worked out whole, and goes to its far corner.
func TestManyChanges(t *testing.T) {
	t.Parallel()
	b := bench.New("Tide tables")
	m := &b.Modules[0]
	m.Display.Geometry, m.Screens = "20x4", nil
	for i := range 150 {
		m.Screens = append(m.Screens, bench.Screen{ID: fmt.Sprint("screen-", i+1), Name: fmt.Sprint("Day ", i+1), Rows: []string{fmt.Sprintf("Tide %d.2 m rising", i), "High water 14:05", strings.Repeat("*", i%20), fmt.Sprintf("Boats out %d of 11", i)}})
	}
	server := serve(t)
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/%s/screens", server.URL, id, m.ID))
	p.toTab("All changes")
	p.press("Stop here")
	p.in("All changes", "of 150 screens: the others are not worked out.")
	p.press("Work all out")
	p.in("All changes", "Working changes out…")
	until(p, `document.querySelector('[aria-label="All changes"]').innerText.includes("Working changes out")`, false)
	p.in("All changes", "cells with old characters") // what is judged comes last
	p.do(chromedp.Focus(`[data-change="0 1"]`))
	p.keys(kb.End)
	until(p, `document.activeElement.dataset.change`, "0 149")
	p.in("All changes", "Day 1 to Day 150: ")
	if drawn := eval[int](p, `document.querySelectorAll("[data-change]").length`); drawn > 1500 {
		t.Errorf("%d changes are drawn, of which few are in sight", drawn)
	}
	p.do(chromedp.Click(`[data-change="1 149"]`))
	until(p, `document.querySelector('[aria-label="Screen 150: Day 150"]').ariaPressed`, "true")
}

// TestScrolling lets a row that is too long run through the glass: found, played,
// and gone through step by step.
func TestScrolling(t *testing.T) {
	t.Parallel()
	p := onScreens(t, tides())
	p.keys(kb.End + " to the old quay steps by noon")
	until(p, findings, "screen.row-too-long")
	p.settle()
	p.press("Let it run through the glass")
	until(p, findings, "")
	p.toTab("Scroll")
	p.in("Scroll", "The text of row 1 has 44 characters with its gap; a line of the module's memory holds 40.")
	p.in("Scroll", "Row 2 turns as well: the display shift moves every row.")
	p.in("Scroll", "44 steps a round")
	rows := func(name string) string {
		return fmt.Sprintf(`document.querySelector('[aria-label=Scroll] canvas[aria-label^=%q]').dataset.rows`, name)
	}
	// it moves by itself, and the other row stands still
	until(p, rows("Rewritten"), `["de rising to the","High water 14:05"]`)
	p.do(chromedp.Focus(`[aria-label="Stop Rewritten"]`))
	p.keys(kb.Enter)
	before := eval[string](p, rows("Rewritten"))
	p.do(chromedp.Focus(`[aria-label="One step on: Rewritten"]`))
	p.keys(kb.Enter)
	until(p, fmt.Sprintf(`JSON.parse(%s)[0].slice(0, 15) === JSON.parse(%q)[0].slice(1)`, rows("Rewritten"), before), true)
	p.do(chromedp.Click(`//section[@aria-label="Scroll"]//label[contains(., "Shift, fed")]//input`))
	until(p, `document.querySelector('[aria-label=Scroll] [data-chosen] b').textContent`, "Shift, fed")
	p.press("Let it stand still")
	until(p, findings, "screen.row-too-long")
}

// TestArrange centres, moves, spreads, fills, repeats and boxes by key, leaves the
// cursor on the glass, and counts from 0.
func TestArrange(t *testing.T) {
	t.Parallel()
	p := onScreens(t, tides())
	alt := func(key string) {
		t.Helper()
		p.keys(key, chromedp.KeyModifiers(kb.ModifierAlt))
	}
	p.keys(kb.Home)
	for _, c := range []struct{ key, row string }{{"c", "  Tide rising"}, {"r", "     Tide rising"}, {"l", "Tide rising"}, {"j", "Tide      rising"}} {
		alt(c.key)
		p.glass(16, c.row, "High water 14:05")
	}
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	p.glass(16, "Tide rising", "High water 14:05")
	p.keys(kb.End + "-=" + kb.ArrowLeft + kb.ArrowLeft)
	for range 2 {
		p.keys(kb.ArrowRight, chromedp.KeyModifiers(kb.ModifierShift))
	}
	alt("w")
	p.glass(16, "Tide rising-=-=-", "High water 14:05")
	p.keys(kb.End + kb.ArrowLeft)
	alt("k")
	alt("x")
	p.glass(16, "+--------------+", "+--------------+")
	p.keys(kb.Home + kb.ArrowRight)
	alt("u")
	p.in("Module", "Row 1, column 2")
	p.toTab("Fields")
	p.in("Fields", "at row 1, column 2;")
	p.do(chromedp.Click(`//button[.="counted from 1"]`))
	p.in("Module", "Row 0, column 1")
	p.in("Fields", "at row 0, column 1;")
	p.toTab("Bytes")
	until(p, `[...document.querySelectorAll('[role=row]')].some(r => r.innerText.includes("cursor on") && r.innerText.includes("0E"))`, true)
	until(p, `[...document.querySelectorAll('[role=row]')].some(r => r.innerText.includes("row 0, column 0"))`, true)
	p.do(chromedp.Click(`//nav//a[contains(., "Run")]`), chromedp.WaitVisible(`[aria-label="Stop at a step, an address or a meaning"]`))
	until(p, `document.querySelector("main").innerText.includes("row 0, column 1")`, true)
	until(p, `[...document.querySelectorAll("main [title]")].some(e => /row 2,/.test(e.title))`, false)
	typed := `[aria-label="Instruction or characters"]`
	p.do(chromedp.SendKeys(typed, "row 2, col 4"+kb.Enter), chromedp.WaitVisible(`[aria-label="By hand"] [role=alert]`))
	p.in("By hand", "rows 0–1 of columns 0–15")
	p.do(chromedp.SendKeys(typed, kb.End+strings.Repeat(kb.Backspace, len("row 2, col 4"))), chromedp.SendKeys(typed, "row 1, col 4"+kb.Enter))
	p.in("By hand", "Done: Set DDRAM address")

	// a raw byte to the expander, by pointer and by key, and what its outputs do
	const signals = `document.querySelector('[aria-label="Waveforms"]').innerText.replace(/\s+/g, " ")`
	until(p, signals+`.includes("SDA SCL")`, true)
	until(p, signals+`.includes("P7")`, false)
	p.do(chromedp.SendKeys(typed, "a5"), chromedp.Click(`//button[.="Do it"]`))
	p.in("By hand", "Raw byte 0xA5 to the outputs: P7 P5 P2 P0 high")
	until(p, signals+`.includes("SDA SCL P0 P1 P2 P3 P4 P5 P6 P7")`, true)
	p.do(chromedp.SendKeys(typed, "raw 08"+kb.Enter))
	p.in("By hand", "Raw byte 0x08 to the outputs: P3 high")
}

// TestCursorBehindText leaves a cursor after writing, by pointer and by key: it begins behind
// the text, or in the last cell of a row that is full.
func TestCursorBehindText(t *testing.T) {
	t.Parallel()
	p := onScreens(t, tides())
	p.toTab("Fields")
	p.do(chromedp.Click(`//fieldset[legend="Cursor after writing"]//label[contains(., "underline")]`))
	p.in("Fields", "at row 2, column 16;")
	p.do(chromedp.Click(`[aria-label="Screen 2: Ebbing"]`))
	until(p, `document.querySelector('[aria-label="Screen 2: Ebbing"]').ariaPressed`, "true")
	p.do(chromedp.Focus(`//fieldset[legend="Cursor after writing"]//input[1]`))
	p.keys(kb.ArrowRight)
	p.in("Fields", "at row 2, column 10;")
}

// TestFind finds a text on every screen of the bench, and goes there.
func TestFind(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/screens")
	p.do(chromedp.WaitVisible(`[aria-label="Bytes"]`)) // the view is there, and hears the key
	p.keys("F", chromedp.KeyModifiers(kb.ModifierCtrl|kb.ModifierShift))
	until(p, `document.activeElement.type`, "search")
	p.keys("GUSTS")
	hits := `[...document.querySelectorAll('[aria-label=Find] li')].map(li => li.innerText.replace(/\s*\n\s*/g, " ")).join("; ")`
	until(p, `(`+hits+`).includes("row 2, column 9")`, true)
	until(p, `(`+hits+`).includes("field Gusts")`, true)
	p.do(chromedp.Focus(`//section[@aria-label="Find"]//li[1]/button`))
	p.keys(kb.Enter)
	until(p, `document.querySelector('[aria-label="Screen 3: Weather"]').ariaPressed`, "true")
}

// TestDigitsCut shows 24.99 without decimals, rounded and cut off, by pointer and by key.
func TestDigitsCut(t *testing.T) {
	t.Parallel()
	b := tides()
	b.Modules[0].Screens[0].Rows = []string{"Water"}
	b.Modules[0].Screens[0].Fields = []field.Field{{Name: "Water", Col: 6, Width: 3, Kind: field.Number, Range: field.Range{Max: 40}, Sample: "24.99"}}
	p := onScreens(t, b)
	p.glass(16, "Water  25", "")
	p.toTab("Fields")
	p.clickText("Water")
	p.choose("Further digits", "cut")
	p.glass(16, "Water  24", "")
	p.do(chromedp.Focus(`//label[.="Further digits"]/following::select[1]`))
	p.keys("r")
	p.glass(16, "Water  25", "")
}

// TestRowsToTheirEnd selects a whole row by pointer and by keys, makes a field of each, types on
// from row to row as the module does, and has one text over two rows.
func TestRowsToTheirEnd(t *testing.T) {
	t.Parallel()
	b := tides()
	b.Modules[0].Screens[0].Rows = []string{}
	p := onScreens(t, b)
	p.glass(16, "", "")
	p.settle()
	eval[any](p, `document.fonts.ready`) // what is measured stays where it is
	width := func(row int) string {
		return fmt.Sprintf(`[...document.querySelectorAll('ol li')].filter(l => l.innerText.includes("row %d, column 1, 16 cells")).length`, row)
	}
	canvas := `document.querySelector('canvas[role="img"]').getBoundingClientRect()`
	x0 := eval[float64](p, canvas+`.x + 6`)
	x1 := eval[float64](p, canvas+`.right - 3`)
	y := eval[float64](p, canvas+`.y + 6`)
	p.stroke(x0, y, x1, y, false)
	until(p, `[...document.querySelectorAll("span[class*=selected]")].map(e => parseFloat(e.style.width)).join()`, fmt.Sprint(eval[float64](p, canvas+`.width`)+5))
	p.keys(kb.F2)
	p.toTab("Fields")
	until(p, width(1), 1)
	until(p, `[...document.querySelectorAll('ol li select')][0].value`, "free") // nothing stands there: any text
	p.do(chromedp.Focus(`textarea[aria-label^="Type on the glass"]`))
	p.keys(kb.ArrowDown + kb.Home)
	p.keys(kb.End, chromedp.KeyModifiers(kb.ModifierShift))
	p.keys(kb.F2)
	until(p, width(2), 1)

	// one text over both
	p.do(chromedp.Focus(`[aria-label="Fields"] input[value="field 2"]`))
	p.keys(kb.End + kb.Backspace + kb.Backspace + kb.Tab) // of "field 2"
	p.in("Fields", "one text over 2 places, 32 cells")
}

// TestTypingOn types on behind a row's end: as before beyond the glass, then as the module does,
// from the last row to the first.
func TestTypingOn(t *testing.T) {
	t.Parallel()
	b := tides()
	b.Modules[0].Screens[0].Rows = []string{"", "High water 14:05"}
	p := onScreens(t, b)
	p.keys("Tide is rising now") // two beyond
	p.in("Module", "w")
	p.glass(16, "Tide is rising n", "High water 14:05")
	for range 18 {
		p.keys(kb.Backspace)
	}
	ends := `//label[contains(., "wrap as the module does")]`
	p.do(chromedp.Click(ends), chromedp.Focus(`textarea[aria-label^="Type on the glass"]`))
	p.keys("Tide is rising now, very slowly!Y")
	p.glass(16, "Yide is rising n", "ow, very slowly!")
	p.do(chromedp.Focus(ends + "//input"))
	p.keys(" ")
	p.do(chromedp.Focus(`textarea[aria-label^="Type on the glass"]`))
	p.keys(kb.End + "xy")
	p.glass(16, "Yide is rising n", "ow, very slowly!")
	until(p, bodyText+`.includes("Row 1 goes on")`, true)
}
