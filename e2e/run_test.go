package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/part/charrom"
)

// Expressions that read the run view.
const (
	where   = `(document.querySelector('[role=toolbar] output')?.firstChild.textContent ?? "")`
	counter = `(document.querySelector('[aria-label=Registers] h2')?.innerText ?? "")`
)

// choose picks an option of a list.
func (p *page) choose(label, value string) {
	p.t.Helper()
	of := fmt.Sprintf(`(document.querySelector('select[aria-label=%q]') ?? [...document.querySelectorAll('label')].find(l => l.textContent === %q)?.control)`, label, label)
	until(p, fmt.Sprintf(`[...(%s?.options ?? [])].some(o => o.value === %q)`, of, value), true) // some lists are asked for first
	eval[any](p, fmt.Sprintf(`(() => {
		const s = %s;
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(s, %q);
		s.dispatchEvent(new Event("change", {bubbles: true}));
	})()`, of, value))
}

// slide moves a range to a value.
func (p *page) slide(label, value string) {
	p.t.Helper()
	until(p, fmt.Sprintf(`[...document.querySelectorAll('label')].some(l => l.textContent.startsWith(%q)) || document.querySelector('input[type=range][aria-label=%q]') !== null`, label, label), true)
	eval[any](p, fmt.Sprintf(`(() => {
		const s = document.querySelector('input[type=range][aria-label=%q]') ?? [...document.querySelectorAll('label')].find(l => l.textContent.startsWith(%q)).control;
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(s, %q);
		s.dispatchEvent(new Event("input", {bubbles: true}));
	})()`, label, label, value))
}

// by types an operation by hand.
func (p *page) by(hand string) {
	p.t.Helper()
	p.do(chromedp.Focus(`[aria-label="Instruction or characters"]`))
	eval[any](p, `document.activeElement.select()`)
	p.keys(hand + kb.Enter)
}

// darkest reads how strong the strongest difference between two dots of the
// glass is, from the picture itself: 0 where nothing can be told apart.
const contrastSeen = `(() => {
	const c = document.querySelector("canvas"), d = c.getContext("2d").getImageData(0, 0, c.width, c.height).data;
	let low = 255, high = 0;
	for (let i = 0; i < d.length; i += 4) { const v = (d[i] + d[i+1] + d[i+2]) / 3; low = Math.min(low, v); high = Math.max(high, v); }
	return high - low;
})()`

func TestRunView(t *testing.T) {
	t.Parallel()
	p := open(t, serve(t, "--demo").URL+"/benches/1/gate/run")
	until(p, where, "Step 42 of 42")

	// to power-up, a step, and back
	p.do(chromedp.Focus(`[aria-label="Step of the run"]`))
	p.keys(kb.Home)
	until(p, where, "Power-up")
	until(p, counter, "Address counter DDRAM 0x00")
	p.do(chromedp.Click(`[aria-label="Step"]`))
	until(p, where, "Step 1 of 42")
	p.do(chromedp.Click(`[aria-label="Step back"]`))
	until(p, where, "Power-up")

	// a breakpoint on a meaning, then to the end
	stopAt := `[aria-label="Stop at a step, an address or a meaning"]`
	found := `document.querySelector("#stops-found").innerText`
	p.do(chromedp.SendKeys(stopAt, "99"))
	until(p, found, "step 99; this run has steps 1–42")
	p.do(chromedp.Focus(stopAt), chromedp.KeyEvent(kb.Backspace+kb.Backspace+"0x40"))
	until(p, found, "1 stop: the address counter comes to 0x40")
	p.choose("Speed", "1")
	p.do(chromedp.Click(`[aria-label="Play"]`))
	until(p, where, "Step 26 of 42")
	p.glass(16, "QUILLFISH  GATE", "")
	until(p, counter, "Address counter DDRAM 0x40")
	p.do(chromedp.Click(`[aria-label="Play"]`))
	until(p, where, "Step 42 of 42")
	p.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")
	if names := eval[string](p, `[...document.querySelectorAll('figure div span')].map(s => s.textContent).filter(t => /^[A-Z]/.test(t)).join(" ")`); names != "E RS RW D7 D6 D5 D4 BL SDA SCL" {
		t.Errorf("waveforms of %s", names)
	}

	// a stop set at a step's number, and the function keys
	p.do(chromedp.Focus(stopAt), chromedp.KeyEvent(strings.Repeat(kb.Backspace, 4)))
	p.keys(kb.F7)
	until(p, where, "Step 41 of 42")
	p.do(chromedp.Focus(`[aria-label="Step of the run"]`), chromedp.KeyEvent(kb.Home))
	p.do(chromedp.Click(`[aria-label="Stop at step 3"]`))
	p.keys(kb.F8)
	until(p, where, "Step 3 of 42")
	p.keys(kb.F9)
	until(p, where, "Step 4 of 42")

	// memory, glass, step and wave point at each other
	p.do(chromedp.Click(`[aria-label=Memory] [title="DDRAM 0x41 holds 0x20"]`))
	until(p, where, "Step 28 of 42")
	until(p, `document.querySelector('figure button[data-current]')?.innerText ?? ""`, "28 · 0x69")
	until(p, `document.querySelector('[role=row][aria-selected=true]')?.innerText.replace(/\s+/g, " ") ?? ""`, "28 1 69 'i': row 2, column 2")

	// by hand: by name, by number, by characters, by bits, and nonsense
	p.by("shift left")
	p.glass(16, "UILLFISH  GATE", "ide 3.2m →14:05")
	p.by("0x02")
	p.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")
	p.by("'Bell'")
	p.glass(16, "BellLFISH  GATE", "Tide 3.2m →14:05")
	p.by("polish")
	until(p, bodyText+`.includes("“polish” is no instruction") || `+bodyText+`.includes('"polish" is no instruction')`, true)
	p.choose("Instruction", "3") // display on/off
	p.do(chromedp.Click(`[aria-label^="Bit 1: C"]`), chromedp.Click(`[aria-label^="Bit 2: D"]`))
	until(p, bodyText+`.includes("display on, cursor on, blink off")`, true)
	p.clickText("Do 0x0E")
	until(p, `document.querySelector('[aria-label=Registers]')?.innerText.includes("line") ?? false`, true)

	// reads, by hand and by card
	p.by("read status")
	until(p, bodyText+`.includes("Done: Read busy flag and address: ready, 0x04, byte 0x04")`, true)
	p.by("home")
	p.choose("Instruction", "10") // read data
	p.clickText("Read")
	until(p, bodyText+`.includes("Done: Read data: 0x42, byte 0x42")`, true)

	// another link cannot read: what was done by hand is named, and taken back
	p.choose("Link", "parallel4")
	until(p, `document.querySelector('[aria-label=Module] [role=alert]')?.innerText.includes("R/W is not joined to the host") ?? false`, true)
	p.clickText("Take back what was done by hand")
	until(p, `document.querySelector('[aria-label=Module] [role=alert]') === null`, true)
	p.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")
}

// TestFaultsAndKnobs makes mistakes on purpose, and turns the contrast to both
// ends.
func TestFaultsAndKnobs(t *testing.T) {
	t.Parallel()
	p := open(t, serve(t, "--demo").URL+"/benches/1/gate/run")
	until(p, `document.querySelectorAll('[aria-label=Mistake] option').length > 100`, true)
	p.choose("Mistake", "bus.address:0x3F")
	p.glass(16, "", "")
	if seen := eval[float64](p, contrastSeen); seen < 60 {
		t.Errorf("a module that was never initialised shows its blocks; the picture spans %v of 255", seen)
	}
	p.choose("Mistake", "wait.none")
	until(p, findings+`.includes("timing.while-busy")`, true)
	p.choose("Mistake", "wire.short:D4,D5")
	until(p, `!`+rowsShown+`.includes("QUILLFISH")`, true)
	p.choose("Mistake", "nibble.lost:12.1")
	until(p, `!`+rowsShown+`.includes("QUILLFISH")`, true)
	p.choose("Mistake", "nibble.lost:28.1") // the first character of row 2
	until(p, rowsShown+`.includes("QUILLFISH") && !`+rowsShown+`.includes("Tide")`, true)
	until(p, `document.querySelector('[aria-label=Registers]')?.innerText.replace(/\s+/g, " ").includes("Half a byte") ?? false`, true)
	p.choose("Mistake", "")
	p.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")

	p.slide("Contrast", "40")
	until(p, contrastSeen+` < 20`, true) // nothing to be told apart
	until(p, findings, "glass.faint")
	p.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")
	p.slide("Contrast", "100")
	until(p, contrastSeen+` > 60`, true)
	until(p, findings, "glass.shaded") // VO at ground: too dark, yet readable
}

// TestOtherModules opens a 20×4, a VFD at 25 % and a 40×4 with two enables.
func TestOtherModules(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	unwire(t, server, 1) // other modules would not light up on these wires
	p := open(t, server.URL+"/benches/1/gate/module")
	p.pick("Boat hall")
	hall := []string{"② Tide 3.2 m  rising", "① High water   14:05", "  Wind NW 4  gusts 6", "③ Boats out  3 of 11"}
	p.glass(20, slices.Clone(hall)...)
	until(p, `document.querySelector('[title="0x14: row 3, column 1"]') !== null`, true)
	p.choose("Columns × rows", "16x2")
	until(p, `document.querySelector('[title="0x14: not shown"]') !== null`, true)
	p.choose("Columns × rows", "40x4")
	until(p, `document.querySelectorAll('[aria-label=Addresses] [data-row]').length`, 160)
	until(p, bodyText+`.includes("RS, E, E2, D4")`, true)
	p.glass(40, slices.Clone(hall)...)
	until(p, findings, "")
	p.do(chromedp.Click(`[aria-label="Empty slot 0"]`, chromedp.NodeReady))
	until(p, findings, "glyph.empty-slot")
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	until(p, findings, "")

	// by hand to the second controller alone
	p.do(chromedp.Click(`//nav//a[contains(., "Run")]`))
	p.choose("Controllers that take it", "E2")
	p.by("clear")
	p.glass(40, hall[0], hall[1], "", "")
	p.by("row 1")
	p.choose("Controllers that take it", "E")
	p.by("'Ebb'")
	p.glass(40, "Ebbide 3.2 m  rising", hall[1], "", "")
	p.do(chromedp.Click(`//nav//a[contains(., "Module")]`))

	p.pick("Slip")
	p.slide("Brightness", "25")
	until(p, bodyText+`.includes("25 %")`, true)
	p.do(chromedp.Click(`//nav//a[contains(., "Run")]`))
	until(p, `document.querySelector('[aria-label=Registers]')?.innerText.replace(/\s+/g, " ").includes("Brightness 25 %") ?? false`, true)
	p.glass(20, "Slip clear  3 afloat", "Last boat in  18:30")
	p.choose("Instruction", "5") // function set, whose low bits are the brightness here
	p.do(chromedp.Click(`[aria-label^="Bit 4: DL"]`), chromedp.Click(`[aria-label^="Bit 3: N"]`), chromedp.Click(`[aria-label^="Bit 1: BR"]`))
	until(p, bodyText+`.includes("8-bit interface, two lines, brightness 50 %")`, true)
	p.clickText("Do 0x3A")
	until(p, `document.querySelector('[aria-label=Registers]')?.innerText.replace(/\s+/g, " ").includes("Brightness 50 %") ?? false`, true)

	p.do(chromedp.Click(`//nav//a[contains(., "Module")]`), chromedp.SendKeys(`input[type=search]`, "0xDF"))
	until(p, `document.querySelector('[data-found]')?.ariaLabel ?? ""`, "Code 0xDF, halfwidth katakana semi-voiced sound mark")
	p.do(chromedp.Click(`[data-found]`))
	p.glass(20, "ﾟlip clear  3 afloat", "Last boat in  18:30") // at the cursor

	// the chart by keys: two codes on, a row down
	p.do(chromedp.Focus(`[aria-label="Code 0x20, space"]`))
	p.keys(kb.ArrowRight + kb.ArrowRight + kb.ArrowDown + kb.Enter)
	p.glass(20, "ﾟ2ip clear  3 afloat", "Last boat in  18:30")

	p.choose("Columns × rows", "8x1")
	p.choose("Technology", "lcd")
	p.choose("Dots of a cell", "5x10")
	until(p, `Math.round(100 * document.querySelector("canvas").height / document.querySelector("canvas").width)`, 23) // 11 rows of dots by 47 columns
	p.glass(8, "ﾟ2ip cle")
	p.choose("Columns × rows", "20x4")
	until(p, `[...document.querySelectorAll('label')].find(l => l.textContent === "Dots of a cell").control.value`, "5x8")
	p.choose("Dots of a cell", "5x10")
	until(p, bodyText+`.includes("the controller drives them on one line only")`, true)
}

// TestLinkChoices goes through the link's settings: what they cost is shown, and
// what they break is said.
func TestLinkChoices(t *testing.T) {
	t.Parallel()
	p := open(t, serve(t, "--demo").URL+"/benches/1/gate/module")
	until(p, bodyText+`.includes("times as fast as the plain way")`, true)
	way := func(n int) string {
		return fmt.Sprintf(`[...document.querySelectorAll('[aria-label="Ways to toggle E"] button')][%d]`, n)
	}
	until(p, way(0)+`?.getAttribute("aria-pressed") + " " + `+way(0)+`?.innerText.includes("fastest")`, "true true")
	eval[any](p, way(2)+`.click()`) // with E
	until(p, findings, "timing.t-as")
	until(p, way(2)+`.getAttribute("aria-pressed") + " " + `+way(2)+`.innerText.includes("at risk")`, "true true")
	eval[any](p, way(0)+`.click()`)
	until(p, findings, "")
	p.choose("I²C clock of the bus", "400000")
	until(p, findings, "link.fast-clock")
	p.choose("I²C clock of the bus", "100000")
	until(p, findings, "")
	mapping := `[...document.querySelectorAll('label')].find(l => l.textContent.startsWith("Outputs")).control`
	eval[any](p, mapping+`.focus()`)
	eval[any](p, mapping+`.select()`)
	p.keys("RS=4,RW=5,E=6,!BL=7,D4=0,D5=1,D6=2,D7=3" + kb.Enter)
	until(p, mapping+`.value`, "RS=4,RW=5,E=6,!BL=7,D4=0,D5=1,D6=2,D7=3")
	p.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")
	eval[any](p, mapping+`.focus()`)
	eval[any](p, mapping+`.select()`)
	p.keys("RS=0,E=0" + kb.Enter)
	until(p, `document.querySelector('[role=alert]')?.innerText ?? ""`, "mapping: output P0 drives both RS and E; each needs its own output")
	until(p, mapping+`.value`, "RS=0,E=0") // what was typed stays
	p.keys(kb.Escape)
	until(p, mapping+`.value`, "RS=4,RW=5,E=6,!BL=7,D4=0,D5=1,D6=2,D7=3")
	for _, kind := range []string{"shift", "parallel8", "parallel4", "backpack"} {
		p.choose("Link", kind)
		until(p, bodyText+fmt.Sprintf(".includes(%q)", map[string]string{"shift": "data, clock, latch", "parallel8": "10 host pins", "parallel4": "6 host pins", "backpack": "SDA, SCL"}[kind]), true)
		p.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")
	}
	p.choose("Link", "parallel4")
	nanoseconds := `[...document.querySelectorAll('label')].find(l => l.textContent.startsWith("Host moves")).control`
	until(p, bodyText+`.includes("Host moves a pin in")`, true)
	eval[any](p, nanoseconds+`.focus()`)
	eval[any](p, nanoseconds+`.select()`)
	p.keys("100" + kb.Enter) // a host that writes its registers directly
	until(p, findings, "timing.pw-eh timing.t-cyc-e")
}

// TestOwnROM loads ROM charts from files: one that cannot be read is refused with
// its line, and one with another Q is what the module shows, after a reload too.
func TestOwnROM(t *testing.T) {
	t.Parallel()
	p := open(t, serve(t, "--demo").URL+"/benches/1/gate/module")
	load := func(chart string) {
		file := filepath.Join(t.TempDir(), "own.chart")
		if err := os.WriteFile(file, []byte(chart), 0o600); err != nil {
			t.Fatal(err)
		}
		p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{file}, chromedp.NodeReady))
	}
	rom := `[...document.querySelectorAll('label')].find(l => l.textContent === "Character ROM").control.value`
	load("rom Q\n51=Q\n#####\n#...\n")
	until(p, bodyText+`.includes("ROM chart, line 4: cell 51: row \"#...\" has 4 dots, expected 5")`, true)
	until(p, rom, "A00")

	var chart strings.Builder
	if _, err := charrom.A00().WriteTo(&chart); err != nil {
		t.Fatal(err)
	}
	plain := eval[string](p, `document.querySelector('[aria-label^="Code 0x51"] path').getAttribute("d")`)
	at := strings.Index(chart.String(), "51=Q")
	load(chart.String()[:at] + strings.Replace(chart.String()[at:], ".###.", "#####", 1))
	until(p, rom, "own")
	until(p, `(document.querySelector('[aria-label^="Code 0x51"] path')?.getAttribute("d") ?? "M") !== `+fmt.Sprintf("%q", plain), true)
	p.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")
	p.settle()
	p.do(chromedp.Reload(), chromedp.WaitVisible(`canvas`))
	until(p, rom, "own")
	until(p, findings, "")
}

// BenchmarkPlay measures frames while a 40×4 screen of operations plays in slow
// motion.
func BenchmarkPlay(b *testing.B) {
	p := open(b, serve(b, "--demo").URL+"/benches/1/gate/module")
	p.pick("Boat hall")
	p.choose("Columns × rows", "40x4")
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + strings.Repeat("Tide ", 8))
	p.do(chromedp.Click(`//nav//a[contains(., "Run")]`), chromedp.WaitVisible(`[aria-label="Play"]`))
	p.do(chromedp.Click(`[aria-label="Play"]`))
	b.ResetTimer()
	for range b.N {
		eval[int](p, `(() => { window.frames_ = 0; const count = () => { window.frames_++; requestAnimationFrame(count); }; requestAnimationFrame(count); return 0; })()`)
		time.Sleep(time.Second)
		b.ReportMetric(float64(eval[int](p, `window.frames_`)), "frames/s")
		return
	}
}
