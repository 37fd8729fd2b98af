package e2e

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/server/demo"
)

const (
	deskCells = `document.querySelector('[role=application]').dataset.cells`
	deskName  = `document.querySelector('[aria-label="Name of the glyph"]').value`
	rowsText  = `[aria-label="Rows as text, in any form"]`
)

// dot returns where a dot of the desk stands; cells are six dots wide, their gap
// included, and nine high.
func (p *page) dot(col, row int) (x, y float64) {
	p.t.Helper()
	at := eval[[]float64](p, fmt.Sprintf(`(() => { const s = document.querySelector("[role=application]"); s.scrollIntoView({block: "nearest"});
		const m = s.getScreenCTM(); return [m.e + m.a * %d, m.f + m.d * %d] })()`, 10*(col+col/5)+5, 10*(row+row/8)+5))
	return at[0], at[1]
}

// dots returns the cells that the desk shows.
func (p *page) dots() (cells [][]int) {
	p.t.Helper()
	if err := json.Unmarshal([]byte(eval[string](p, deskCells)), &cells); err != nil {
		p.t.Fatal(err)
	}
	return cells
}

// untilDots waits for the dots of the desk.
func untilDots(p *page, want string) {
	p.t.Helper()
	until(p, deskCells, want)
}

// lines writes a text into the box of rows, in place of what stands there.
func (p *page) lines(text string) {
	p.t.Helper()
	p.do(chromedp.Focus(rowsText))
	p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(() => { const t = document.querySelector(%q); t.select(); document.execCommand("insertText", false, %q) })()`, rowsText, text)))
}

// TestGlyphDesk draws a glyph with the mouse, a finger and keys, mirrors it, takes
// that back, puts it on the glass by key, finds it again by a click on the glass,
// and makes the mirrored half of a picture.
func TestGlyphDesk(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/glyphs")
	until(p, deskName, "rising tide")
	p.clickText("New glyph")
	until(p, deskName, "glyph 1")
	untilDots(p, "[[0,0,0,0,0,0,0,0]]")

	// a stroke along the third row, and one down with a finger
	x0, y0 := p.dot(0, 2)
	x1, y1 := p.dot(4, 2)
	p.stroke(x0, y0, x1, y1, false)
	untilDots(p, "[[0,0,31,0,0,0,0,0]]")
	x0, y0 = p.dot(1, 3)
	x1, y1 = p.dot(1, 6)
	p.stroke(x0, y0, x1, y1, true)
	untilDots(p, "[[0,0,31,8,8,8,8,0]]")
	// a stroke that begins on a lit dot darkens
	x0, y0 = p.dot(3, 2)
	p.stroke(x0, y0, x0, y0, false)
	untilDots(p, "[[0,0,29,8,8,8,8,0]]")
	until(p, `document.querySelector('[aria-label="Row 3, hex"]').value`, "1D")
	until(p, `document.querySelector('[aria-label="Row 4, binary"]').value`, "01000")

	// keys: from the last dot to the first row, a dot, mirrored, shifted with wrap, undone
	p.do(chromedp.Focus(`[role=application]`))
	p.keys(kb.ArrowUp + kb.ArrowUp + " ")
	untilDots(p, "[[2,0,29,8,8,8,8,0]]")
	p.keys("m")
	untilDots(p, "[[8,0,23,2,2,2,2,0]]")
	p.keys(kb.ArrowRight, chromedp.KeyModifiers(kb.ModifierShift))
	untilDots(p, "[[4,0,27,1,1,1,1,0]]")
	p.keys("i")
	untilDots(p, "[[27,31,4,30,30,30,30,31]]")
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	untilDots(p, "[[8,0,23,2,2,2,2,0]]")

	// a row typed in decimal; what is no row is kept and marked
	p.do(chromedp.DoubleClick(`[aria-label="Row 8, decimal"]`))
	p.keys("33")
	until(p, `document.querySelector('[aria-label="Row 8, decimal"]').getAttribute("aria-invalid")`, "true")
	p.keys(kb.Backspace + "1")
	untilDots(p, "[[8,0,23,2,2,2,2,31]]")

	// on the glass by key, where it stands among the letters
	p.do(chromedp.Focus(`[role=application]`))
	p.keys(kb.Enter)
	until(p, `document.querySelector('[aria-label="Module"] canvas').dataset.rows.startsWith('["①UILLFISH')`, true)
	until(p, `document.querySelector("[aria-label=\"Among letters\"] canvas").dataset.rows.startsWith('["Ag①8k')`, true)
	p.settle()
	b := stored(t, server, 1)
	key := 0
	for _, d := range b.Glyphs {
		if d.Name == "glyph 1" {
			key = d.Key
		}
	}
	if row := b.Modules[0].Screens[0].Rows[0]; key == 0 || !strings.HasPrefix(row, string(rune(screen.KeyBase+key))+"UILL") {
		t.Errorf("key %d, row %q", key, row)
	}

	// another glyph on the desk, and back by a click on its cell of the glass
	p.do(chromedp.Click(`//button[contains(@title, "boathouse")]`))
	until(p, deskName, "boathouse")
	x, y := p.at(`[aria-label="Module"] canvas`)
	box := eval[[]float64](p, `(() => { const r = document.querySelector('[aria-label="Module"] canvas').getBoundingClientRect(); return [r.x, r.y, r.width, r.height] })()`)
	if x < box[0] || y < box[1] {
		t.Fatal(x, y, box)
	}
	p.do(chromedp.MouseClickXY(box[0]+box[2]/32, box[1]+box[3]/4))
	until(p, deskName, "glyph 1")
	p.keys("i") // keys still go to the glass
	until(p, `document.querySelector('[aria-label="Module"] canvas').dataset.rows.startsWith('["iUILLFISH')`, true)

	// the mirrored half: one cell becomes two
	p.clickText("Mirrored copy")
	untilDots(p, "[[8,0,23,2,2,2,2,31],[2,0,29,8,8,8,8,31]]")
	x0, y0 = p.dot(0, 0)
	x1, y1 = p.dot(9, 0)
	p.stroke(x0, y0, x0, y0, false)
	p.do(chromedp.Focus(`[role=application]`))
	p.keys("y")
	untilDots(p, "[[24,0,23,2,2,2,2,31],[3,0,29,8,8,8,8,31]]")
	if x1 <= x0 || y1 != y0 {
		t.Error("the second cell does not stand beside the first")
	}

	// a slot of its own, drawn and emptied
	p.do(chromedp.Click(`[aria-label="Slot 2: empty, draw in it"]`))
	untilDots(p, "[[0,0,0,0,0,0,0,0]]")
	p.keys(" ")
	untilDots(p, "[[16,0,0,0,0,0,0,0]]")
	p.settle()
	p.do(chromedp.Click(`[aria-label="Empty slot 2"]`))
	untilDots(p, "[[0,0,0,0,0,0,0,0]]")
}

// TestGlyphText pastes a C array with one bad value: it is pointed at, nothing is
// lost, and mended it makes the glyph; other forms are read and written, several
// glyphs go to the library.
func TestGlyphText(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/glyphs")
	until(p, deskName, "rising tide")
	before := eval[string](p, deskCells)
	p.lines("byte bell[8] = {\n  B00100,\n  B0111O,\n  B01110, B01110,\n  B11111, 0, 4, 0\n};")
	until(p, `document.querySelector('[aria-label="Rows as text"] [role=alert]')?.innerText.includes("Line 3, column 3:") ?? false`, true)
	if got := eval[string](p, deskCells); got != before {
		t.Errorf("the dots changed to %s", got)
	}
	if got := eval[string](p, fmt.Sprintf(`document.querySelector(%q).value`, rowsText)); !strings.Contains(got, "B0111O") {
		t.Errorf("what was pasted is now %q", got)
	}
	p.lines("byte bell[8] = {\n  B00100,\n  B01110,\n  B01110, B01110,\n  B11111, 0, 4, 0\n};")
	untilDots(p, "[[4,14,14,14,31,0,4,0]]")
	until(p, bodyText+`.includes("Read as numbers in binary and decimal.")`, true)

	// written in another form, and what is typed there is read in any
	p.clickText("Back to the dots")
	p.do(chromedp.SetValue(`//label[.="Form"]/following::select[1]`, "hex"))
	p.do(chromedp.Evaluate[chromedp.Void](`(() => { const s = [...document.querySelectorAll("select")].find(s => [...s.options].some(o => o.value === "hex")); s.dispatchEvent(new Event("change", {bubbles: true})) })()`))
	until(p, fmt.Sprintf(`document.querySelector(%q).value.trim()`, rowsText), "04 0E 0E 0E 1F 00 04 00")
	p.lines("#...#\n.#.#.\n..#..\n.#.#.\n#...#\n.....\n.....\n.....")
	untilDots(p, "[[17,10,4,10,17,0,0,0]]")

	// two glyphs where the desk has one cell
	p.lines("waves = [[1,2,3,4,5,6,7,8],\n [8,7,6,5,4,3,2,1]]")
	until(p, bodyText+`.includes("2 glyphs, and the desk has 1 cell")`, true)
	p.clickText("Add them to the library")
	until(p, deskName, "waves 1")
	untilDots(p, "[[1,2,3,4,5,6,7,8]]")

	// files: a font in, the library out
	font := filepath.Join(t.TempDir(), "jetty.bdf")
	if err := os.WriteFile(font, []byte("STARTFONT 2.1\nFONTBOUNDINGBOX 5 8 0 -1\nSTARTCHAR jetty_lamp\nENCODING 57344\nBBX 5 8 0 -1\nBITMAP\n20\n70\n70\n20\n20\n20\nF8\n00\nENDCHAR\nENDFONT\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	p.do(chromedp.SetUploadFiles(`input[aria-label^="File of glyphs"]`, []string{font}))
	until(p, deskName, "jetty lamp")
	untilDots(p, "[[4,14,14,4,4,4,31,0]]")
	p.do(chromedp.SetUploadFiles(`input[aria-label^="File of glyphs"]`, []string{os.Args[0]}))
	until(p, `document.querySelector('[aria-label=Library] [role=alert]') !== null`, true)

	// the library as a file: what the page hands over is what it can read
	p.do(chromedp.Evaluate[chromedp.Void](`URL.createObjectURL = (blob) => { blob.text().then((t) => { window.exported = t }); return "blob:none" }`))
	p.do(chromedp.Evaluate[chromedp.Void](`(() => { const s = document.querySelector('[aria-label="Export the library as"]');
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(s, "bdf"); s.dispatchEvent(new Event("change", {bubbles: true})) })()`))
	until(p, `window.exported?.startsWith("STARTFONT 2.1") && window.exported.includes("STARTCHAR jetty_lamp")`, true)

	// searched, and taken from what ships
	p.do(chromedp.SendKeys(`[aria-label="Search the glyphs"]`, "ł"))
	p.do(chromedp.Click(`[aria-label="Take ł"]`))
	until(p, deskName, "LATIN SMALL LETTER L WITH STROKE")
}

// TestTallGlyph draws a glyph of the 5×10 font: eleven rows on the desk, the last
// the cursor's, and all of them on the glass.
func TestTallGlyph(t *testing.T) {
	t.Parallel()
	server := serve(t)
	b := bench.New("Mast")
	b.Modules[0].Display.Geometry, b.Modules[0].Display.Controller.Font = "16x1", "5x10"
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/module-1/glyphs", server.URL, id))
	until(p, `document.querySelectorAll('[aria-label^="Slot "]').length`, 4)
	p.do(chromedp.Focus(`[role=application]`))
	p.keys(strings.Repeat(kb.ArrowDown, 20) + " " + kb.ArrowUp + " ")
	untilDots(p, "[[0,0,0,0,0,0,0,0,0,16,16]]")
	until(p, `document.querySelector('[aria-label="Row 10, binary"]').value`, "10000")
	p.keys(kb.Enter)
	p.settle()
	m := stored(t, server, id).Modules[0]
	if g, ok := m.Glyphs.In(0); !ok || len(g.Rows) != 11 || g.Rows[9] != 16 || m.Screens[0].Rows[0] != "\uE008" {
		t.Errorf("%+v, %q", m.Glyphs, m.Screens[0].Rows)
	}
}

// boat is a PNG of 46 × 34 pixels, twice the dots of 4 × 2 cells with their gaps.
func boat(t *testing.T) []byte {
	t.Helper()
	img := image.NewGray(image.Rect(0, 0, 46, 34))
	for y := range 34 {
		for x := range 46 {
			lit := y > 20 && y < 28 && x > 4+y-20 && x < 42-(y-20) || x/2 == 11 && y < 22 || y < 18 && x > 22 && x-22 < y
			img.SetGray(x, y, color.Gray{Y: map[bool]uint8{true: 0, false: 255}[lit]})
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// TestGlyphPicture drops a PNG, sees what merging changes before it is taken,
// takes it, and finds it on the glass cell by cell.
func TestGlyphPicture(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/slip/glyphs")
	p.do(chromedp.Click(`//button[@role="tab"][.="Picture"]`))
	drop := func(name string, data []byte) {
		p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(() => {
			const data = Uint8Array.from(atob(%q), c => c.charCodeAt(0)), d = new DataTransfer();
			d.items.add(new File([data], %q));
			[...document.querySelectorAll("[aria-label=Picture] > div")][0].dispatchEvent(new DragEvent("drop", {dataTransfer: d, bubbles: true, cancelable: true})) })()`,
			base64.StdEncoding.EncodeToString(data), name)))
	}
	drop("notes.txt", []byte("not a picture"))
	until(p, bodyText+`.includes("neither a PNG nor a PBM picture")`, true)
	drop("skiff.png", boat(t))
	p.do(chromedp.Click(`//label[contains(., "hidden in the gaps")]//input`))
	until(p, bodyText+`.includes("of 8 slots; no dot changes")`, true)
	p.do(chromedp.Evaluate[chromedp.Void](`(() => { const i = [...document.querySelectorAll("[aria-label=Picture] label")].find(l => l.innerText.startsWith("Slots")).querySelector("input");
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(i, "3"); i.dispatchEvent(new Event("input", {bubbles: true})) })()`))
	until(p, bodyText+`.includes("by 3 glyphs and the ROM") && `+bodyText+`.includes("proved to be the fewest")`, true)
	p.clickText("Take it to the desk")
	until(p, deskName, "skiff")
	cells := p.dots()
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home, chromedp.KeyModifiers(kb.ModifierCtrl))
	p.clickText("Put on the glass")
	p.settle()
	b := stored(t, server, 1)
	m := b.Modules[2]
	shown := 0
	for r, row := range m.Screens[0].Rows {
		for col, ch := range []rune(row)[:4] {
			d, ok := glyph.Library(b.Glyphs).Keyed(int(ch) - screen.KeyBase)
			if !ok || d.Part == nil || d.Part.Picture != "skiff" || d.Part.Col != col || d.Part.Row != r || !reflect.DeepEqual(d.Rows, cells[r*4+col]) {
				t.Errorf("row %d, column %d shows %q, %+v", r, col, ch, d)
			}
			shown++
		}
	}
	if shown != 8 {
		t.Errorf("%d cells are shown", shown)
	}
	// on the glass: as many glyphs as were left, and no finding
	until(p, `new Set([...document.querySelector('[aria-label="Module"] canvas').dataset.rows].filter(c => c >= "①" && c <= "⑧")).size`, 3)
	if got := eval[string](p, `document.querySelector('nav a[aria-label^="Glyphs"]').ariaLabel`); got != "Glyphs: done" {
		t.Error(got)
	}
}

// TestNineGlyphs goes round nine screens of a glyph each: the plan is shown, slots
// over screens; a slot that would change on the glass is a finding, settled by its
// remedy.
func TestNineGlyphs(t *testing.T) {
	t.Parallel()
	server := serve(t)
	b := bench.New("Nine marks")
	m := &b.Modules[0]
	m.Screens = nil
	for n := range 9 {
		b.Glyphs = append(b.Glyphs, glyph.Drawing{Key: n + 1, Name: fmt.Sprintf("mark %d", n+1), Rows: []int{n + 1, 0, 31, 17, 17, 31, 0, n + 1}})
		m.Screens = append(m.Screens, bench.Screen{ID: fmt.Sprintf("screen-%d", n+1), Rows: []string{string(rune(screen.KeyBase+n+1)) + " of nine"}})
	}
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/module-1/glyphs", server.URL, id))
	p.do(chromedp.Click(`//button[@role="tab"][.="Banks"]`))
	until(p, bodyText+`.includes("9 glyphs, 8 slots. 9 glyphs are loaded in all, 72 bytes")`, true)
	p.do(chromedp.Click(`//label[contains(., "comes the first")]//input`))
	until(p, bodyText+`.includes("1.29 glyphs are loaded a round on average (it repeats after 7 rounds)")`, true)
	if n := eval[int](p, `document.querySelectorAll("[aria-label=Banks] [data-load]").length`); n < 10 {
		t.Errorf("%d loads are shown", n)
	}
	p.do(chromedp.Click(`[aria-label="Slot 0: mark 1, loaded"]`))
	until(p, deskName, "mark 1")
	p.do(chromedp.Click(`//label[contains(., "while it is on the glass")]//input`))
	until(p, bodyText+`.includes("1.13 glyphs are loaded a round") && `+bodyText+`.includes("glyph stands there")`, true)
	p.clickText("Never load a slot that is on the glass")
	until(p, bodyText+`.includes("1.29 glyphs")`, true)

	// nine at once do not fit, and the screen says so
	p.do(chromedp.Click(`//button[@role="tab"][.="Library"]`), chromedp.Click(`canvas`))
	p.keys(kb.Home)
	for n := range 9 {
		p.do(chromedp.DoubleClick(fmt.Sprintf(`//button[contains(@title, "mark %d:")]`, n+1)))
	}
	until(p, `document.querySelector('nav a[aria-label^="Glyphs"]').ariaLabel`, "Glyphs: findings open")
	p.settle()
	p.do(chromedp.Navigate(fmt.Sprintf("%s/benches/%d/module-1/screens", server.URL, id)))
	until(p, findings, "glyph.too-many")
}

// TestGlyphMakers makes a bar and digits, puts both on the glass, and compares two
// ways to move a sign.
func TestGlyphMakers(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	b := demo.Bench()
	b.Modules[0].Screens, b.Modules[0].Show = []bench.Screen{{ID: "screen-1", Rows: []string{}}}, bench.Show{}
	b.Wiring = bench.Wiring{}
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/gate/glyphs", server.URL, id))
	p.do(chromedp.Click(`//button[@role="tab"][.="Make"]`))
	until(p, bodyText+`.includes("40 steps from 4 glyphs")`, true)
	p.do(chromedp.Click(`//aside//button[.="Put on the glass"]`))
	const row = `JSON.parse(document.querySelector('[aria-label="Module"] canvas').dataset.rows)`
	until(p, row+`[0].slice(0, 8)`, "█████   ") // 62 of 100 are 25 of 40 steps
	p.do(chromedp.Click(`//label[contains(., "peak mark")]//input`))
	until(p, bodyText+`.includes("It needs 14 glyphs, and CGRAM holds 8")`, true)

	p.clickText("Large digits")
	until(p, bodyText+`.includes("nearer to itself than to another")`, true)
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home, chromedp.KeyModifiers(kb.ModifierCtrl))
	p.clickText("Put 32 on the glass")
	until(p, `[...`+row+`.join("")].filter(c => c >= "①" && c <= "⑧").length > 4`, true)
	p.settle()
	if rows := stored(t, server, id).Modules[0].Screens[0].Rows; len(rows) != 2 || len([]rune(rows[0])) < 4 {
		t.Errorf("%q", rows)
	}

	p.clickText("Moving sign")
	until(p, bodyText+`.includes("Writing the cells is cheaper here") || `+bodyText+`.includes("cheap way here")`, true)
	p.do(chromedp.Evaluate[chromedp.Void](`(() => { const i = [...document.querySelectorAll("aside label")].find(l => l.innerText.startsWith("Cells that show")).querySelector("input");
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(i, "8"); i.dispatchEvent(new Event("input", {bubbles: true})) })()`))
	until(p, bodyText+`.includes("Drawing the slot again is the cheap way here")`, true)
}
