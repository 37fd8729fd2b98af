package e2e

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/cdp"
	printing "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/core/text/field"
)

// counted is a bench whose one module shows two screens, a field on the first.
func counted() bench.Bench {
	b := tides()
	b.Name = "Tide board"
	b.Modules[0].Screens[0].Rows = []string{"Tide", "High water 14:05"}
	b.Modules[0].Screens[0].Fields = []field.Field{{Name: "Height", Row: 0, Col: 5, Width: 4, Kind: field.Number, Range: field.Range{Max: 9.9}, Digits: field.Digits{Decimals: 1}, Sample: "3.2"}}
	return b
}

// code is the text of the file that is shown, its own sections as they are typed.
const code = `[...document.querySelectorAll('[role=region] code, [role=region] textarea')].map(e => e.value ?? e.textContent).join("\n")`

// marked is which lines are marked, as "file: first–last".
const marked = `(() => { const l = [...document.querySelectorAll('[role=region] [data-pointed]')].map(e => +e.dataset.line); return l.length + ":" + (l[0] ?? ""); })()`

// downloads lets the page keep files, and returns where.
func (p *page) downloads() string {
	p.t.Helper()
	dir := p.t.TempDir()
	p.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, browser.SetDownloadBehavior, browser.SetDownloadBehaviorParams{Behavior: browser.SetDownloadBehaviorBehaviorAllow, DownloadPath: dir})
		return err
	}))
	return dir
}

// downloaded waits for a file to be downloaded and returns it.
func downloaded(t *testing.T, path string) []byte {
	t.Helper()
	for range 100 {
		if data, err := os.ReadFile(path); err == nil && len(data) > 0 {
			return data
		}
		time.Sleep(50 * time.Millisecond)
	}
	t.Fatalf("%s was not downloaded", filepath.Base(path))
	return nil
}

// TestCode reads the program of a bench, writes an own section into it, changes a field
// on the glass's side, and takes the files home: the section is kept, the field's new name
// is in them, and they compile without a warning.
func TestCode(t *testing.T) {
	t.Parallel()
	server := serve(t)
	id := storeBench(t, server, counted())
	p := open(t, fmt.Sprintf("%s/benches/%d/gate/screens", server.URL, id))
	downloads := p.downloads()
	p.do(chromedp.WaitVisible(`[role="tab"]`), chromedp.Focus(`//nav//a[contains(., "Code")]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(`[role="region"]`))
	until(p, code+`.includes("static inline slate_status gate_board_set_height(int16_t to)")`, true)
	until(p, `document.querySelector('[class*=proven]').innerText.split("\n")[0]`, "Its calls, played: every glass as composed, no limit broken")
	until(p, `/about \d,\d\d\d B/.test(document.querySelector("dl").innerText)`, true)

	p.do(chromedp.Click(`//nav[@aria-label="Files"]//button[contains(., "main.c")] | //aside[@aria-label="Files"]//button[contains(., "example")]`))
	p.do(chromedp.Focus(`textarea[aria-label="Own section: each second"]`))
	p.keys("        mine = mine + 1; /* kept */")
	p.do(chromedp.Focus(`textarea[aria-label="Own section: declarations"]`))
	p.keys("static uint16_t mine;")
	p.settle()

	p.do(chromedp.Focus(`//nav//a[contains(., "Screens")]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(`[role="tab"]`))
	p.toTab("Fields")
	p.do(chromedp.WaitVisible(`[aria-label="Fields"]`), chromedp.Focus(`//section[@aria-label="Fields"]//button[contains(., "Height")]`))
	p.keys(kb.Enter)
	p.do(chromedp.Focus(`//section[@aria-label="Fields"]//label[starts-with(normalize-space(), "Name")]/following-sibling::div/input`))
	p.keys("a", chromedp.KeyModifiers(kb.ModifierCtrl))
	p.keys("Level")
	p.settle()
	p.do(chromedp.Focus(`//nav//a[contains(., "Code")]`))
	p.keys(kb.Enter)
	until(p, code+`.includes("gate_board_set_level(int16_t to)")`, true)
	p.do(chromedp.Click(`//aside[@aria-label="Files"]//button[contains(., "example")]`))
	until(p, code+`.includes("mine = mine + 1; /* kept */") && `+code+`.includes("gate_board_set_level(level)")`, true)

	p.clickText("All as ZIP")
	data := downloaded(t, filepath.Join(downloads, "tide_board-c.zip"))
	dir := unpacked(t, data)
	make := exec.Command("make", "-s", "AVR_CC=avr-gcc -Werror", "atmega328p")
	make.Dir = dir
	if out, err := make.CombinedOutput(); err != nil {
		t.Errorf("what was downloaded does not build: %v\n%s", err, out)
	}
	p.do(chromedp.Click(`//aside[@aria-label="Files"]//button[normalize-space()="main.c"]`))
	if text := string(downloaded(t, filepath.Join(downloads, "main.c"))); !strings.Contains(text, "static uint16_t mine;") {
		t.Errorf("main.c was downloaded without its own section:\n%s", text)
	}
	if b := stored(t, server, id); len(b.Code.Own) != 2 {
		t.Errorf("stored are %+v", b.Code)
	}

	// built by this machine's compiler, by key; a file that was changed elsewhere is taken over, chosen
	// and dropped, and what is wrong in it is said
	built := `document.querySelector('[aria-label="Onto the host"] [role=status] p')?.innerText ?? ""`
	p.do(chromedp.Focus(`//button[contains(., "Build it here")]`))
	p.keys(kb.Enter)
	until(p, built, "Built without a warning")
	until(p, `/^\d,\d{3} of 32,256 B flash, [\d,]+ of 2,048 B RAM$/.test(document.querySelector('[aria-label="Onto the host"] [role=status] p + p').innerText)`, true)
	changed := strings.Replace(string(downloaded(t, filepath.Join(downloads, "main.c"))), "mine = mine + 1; /* kept */", "mine = yours;", 1)
	file := filepath.Join(t.TempDir(), "main.c")
	if err := os.WriteFile(file, []byte(changed), 0o644); err != nil {
		t.Fatal(err)
	}
	over := `document.querySelector('[class*=over] [role=status]')?.innerText ?? ""`
	p.do(chromedp.SetUploadFiles(`input[aria-label="Files with own sections"]`, []string{file}))
	until(p, over, "2 sections were taken over")
	until(p, code+`.includes("mine = yours;")`, true)
	until(p, built, "Built without a warning, before the last change")
	p.clickText("Build it here, with avr-gcc")
	until(p, built, "It does not compile: see what the compiler says")
	until(p, `document.querySelector('[aria-label="What the compiler says"]').innerText.includes("'yours' undeclared")`, true)
	drop := func(name, text string) {
		t.Helper()
		eval[bool](p, fmt.Sprintf(`(() => { const d = new DataTransfer(); d.items.add(new File([%q], %q)); document.querySelector('[class*=view] [aria-label=Files]').dispatchEvent(new DragEvent("drop", {bubbles: true, cancelable: true, dataTransfer: d})); return true; })()`, text, name))
	}
	drop("notes.txt", "rest")
	until(p, over, `notes.txt: "notes.txt" has no own sections; expected a .h, .c, .ino or .py file that was written from a bench`)
	drop("main.c", strings.Replace(changed, "mine = yours;", "mine = 7;", 1))
	until(p, code+`.includes("mine = 7;")`, true)
	p.do(chromedp.Focus(`//button[contains(., "Build it here")]`))
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	until(p, code+`.includes("mine = yours;")`, true)
}

// unpacked unpacks what was downloaded, and returns where.
func unpacked(t *testing.T, data []byte) string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		text, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		if err := os.MkdirAll(filepath.Dir(filepath.Join(dir, f.Name)), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(dir, f.Name), text, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	return dir
}

// TestInputJoined chooses the pin of a button on the drawing of the host's edges, by pointer and by
// key, has the others allotted in one step, finds the button among the wires to lay, and downloads the
// program, which is built and reads it.
func TestInputJoined(t *testing.T) {
	t.Parallel()
	server := serve(t)
	b := bench.New("Pier")
	m := bench.NewModule("gate", "Gate")
	m.Link.Kind = "backpack"
	m.Screens = []bench.Screen{{ID: "day", Name: "Day", Rows: []string{"Day"}}, {ID: "night", Name: "Night", Rows: []string{"Night"}}}
	m.Show = bench.Show{Start: "day",
		Inputs: []bench.Input{{ID: "bell", Name: "Bell", Kind: "button"}, {ID: "tide", Name: "Tide", Kind: "signal"}},
		Scenes: []bench.Scene{{ID: "day", Screen: "day", Ends: []bench.End{{Input: "bell", Next: "night"}}}, {ID: "night", Screen: "night", Ends: []bench.End{{Input: "bell", Next: "day"}}}}}
	b.Modules = []bench.Module{m}
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/gate/scenes", server.URL, id))
	downloads := p.downloads()
	input := func(k int) bench.Input { return stored(t, server, id).Modules[0].Show.Inputs[k] }
	chosen := `document.querySelector('[aria-label="Pins of the host"] [aria-selected=true]')?.dataset.pin ?? ""`
	p.do(chromedp.Click(`//section[@aria-label="Inputs"]//button[.="Bell"]`), chromedp.WaitVisible(`[data-pin="D7"]`), chromedp.Click(`[data-pin="D7"]`))
	until(p, chosen, "D7")
	p.keys(kb.ArrowRight) // towards D0
	p.keys(kb.Enter)
	until(p, chosen, "D6")
	p.settle()
	if in := input(0); in.Pin != "D6" {
		t.Errorf("stored is pin %q", in.Pin)
	}
	p.keys(kb.Delete)
	until(p, chosen, "")
	p.do(chromedp.Focus(`[data-pin="A4"]`))
	until(p, `document.activeElement.getAttribute("aria-label")`, "A4: voltage, pull-up; taken by SDA of the bus")
	p.keys(kb.Enter)
	until(p, `document.querySelector('[data-code="host.pin-twice"]')?.innerText.includes("Pin A4 serves SDA of the bus and input of Bell") ?? false`, true)
	p.do(chromedp.Click(`[data-code="host.pin-twice"] button`))
	until(p, chosen, "D2")
	p.do(chromedp.Click(`//section[@aria-label="Inputs"]//button[.="Tide"]`))
	until(p, `document.querySelector('[data-pin="D7"]')?.getAttribute("aria-disabled")`, "true") // it reads no voltage
	p.do(chromedp.Click(`[data-pin="D7"]`))
	until(p, chosen, "")
	p.clickText("Give all 1 that have none a pin: A0")
	until(p, chosen, "A0")
	scale := func(label, text string) {
		p.do(chromedp.Focus(fmt.Sprintf(`//label[.=%q]/following-sibling::div//input`, label)))
		p.keys("a", chromedp.KeyModifiers(kb.ModifierCtrl))
		p.keys(text + kb.Enter)
	}
	scale("and one of", "800")
	p.settle()
	if in := input(1); in.Pin != "A0" || in.Signal.Scale.To.Reading != 800 {
		t.Errorf("stored is %+v", in)
	}
	p.do(chromedp.Click(`//nav//a[contains(., "Wiring")]`))
	p.clickText("Plan afresh")
	until(p, `document.querySelector('section[aria-label="Order of the work"]')?.innerText.includes("host D2 to") ?? false`, true)
	p.do(chromedp.Click(`//nav//a[contains(., "Code")]`))
	until(p, `document.querySelector('[aria-label="Onto the host"]')?.innerText.includes("make upload PORT=") ?? false`, true)
	p.clickText("All as ZIP")
	dir := unpacked(t, downloaded(t, filepath.Join(downloads, "pier-c.zip")))
	text, err := os.ReadFile(filepath.Join(dir, "inputs.c"))
	if err != nil || !strings.Contains(string(text), "{26, 0, 20}, /* ") || !strings.Contains(string(text), "&gate_stage, GATE_INPUT_BELL") {
		t.Errorf("%v:\n%s", err, text)
	}
	make := exec.Command("make", "-s", "AVR_CC=avr-gcc -Werror", "hex")
	make.Dir = dir
	if out, err := make.CombinedOutput(); err != nil {
		t.Errorf("what was downloaded does not build: %v\n%s", err, out)
	}
	p.clickText("Scanner")
	if text, err := os.ReadFile(filepath.Join(unpacked(t, downloaded(t, filepath.Join(downloads, "scanner.zip"))), "scanner.c")); err != nil || !strings.Contains(string(text), "Found at 0x") {
		t.Errorf("%v:\n%s", err, text)
	}
	p.do(chromedp.Focus(`//button[normalize-space()="First test"]`))
	p.keys(kb.Enter)
	if text, err := os.ReadFile(filepath.Join(unpacked(t, downloaded(t, filepath.Join(downloads, "test.zip"))), "main.c")); err != nil || !strings.Contains(string(text), "gate_light(round != 0)") {
		t.Errorf("%v:\n%s", err, text)
	}
	p.toTab("Sketch")
	until(p, `document.querySelector('[aria-label="Onto the host"]')?.innerText.includes("pier.ino") ?? false`, true)
	p.clickText("All as ZIP")
	dir = unpacked(t, downloaded(t, filepath.Join(downloads, "pier-sketch.zip")))
	if text, err := os.ReadFile(filepath.Join(dir, "pier", "pier.ino")); err != nil || !strings.Contains(string(text), "inputs_read(ms);") {
		t.Errorf("%v:\n%s", err, text)
	}
}

// TestCodeParts points at a screen and sees its lines, and at a line and sees its screen,
// by the keyboard; in MicroPython too.
func TestCodeParts(t *testing.T) {
	t.Parallel()
	server := serve(t)
	p := open(t, fmt.Sprintf("%s/benches/%d/gate/code", server.URL, storeBench(t, server, counted())))
	p.do(chromedp.Click(`[role="region"]`), chromedp.Focus(`//aside[@aria-label="Screens and fields"]//button[contains(., "Height")]`))
	until(p, `+(`+marked+`.split(":")[0]) > 2`, true) // the call that sets it
	p.keys(kb.Enter)
	p.keys(kb.Enter)
	until(p, `document.querySelector('aside [aria-current]').innerText.includes("tables and driver")`, true)
	until(p, `document.querySelector('[role=region] [data-here]').innerText.length > 0`, true)
	line := eval[int](p, `+document.querySelector('[role=region] [data-here]').dataset.line`)

	p.do(chromedp.Focus(`[role="region"]`))
	p.keys(kb.ArrowDown)
	until(p, `+document.querySelector('[role=region] [data-here]').dataset.line`, line+1)
	p.keys(kb.ArrowUp)
	until(p, `document.querySelector('aside li[data-pointed]')?.innerText.includes("Rising") ?? false`, true)
	p.keys(kb.Home)
	until(p, `document.querySelectorAll('aside li[data-pointed]').length`, 0)

	p.toTab("MicroPython")
	until(p, code+`.includes("def gate_board_set_height(to):")`, true)
	p.do(chromedp.Focus(`//aside[@aria-label="Screens and fields"]//button[contains(., "Ebbing")]`))
	p.keys(kb.Enter)
	until(p, `+(`+marked+`.split(":")[0]) >= 3`, true) // its name, and its changes
	until(p, `document.querySelector('[aria-label^="Module"] canvas, canvas')?.dataset.rows`, `["Tide            ","Low 20:21       "]`)
}

// TestCards prints the card of each of the demo's modules on A4: each is one page, and says
// header, addresses, glyphs and the initialisation.
func TestCards(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	for module, says := range map[string][]string{
		"gate": {"Gate board", "0x27 = 39", "A2 open", "host A4", "3C 38", "degree Celsius"},
		"hall": {"Boat hall", "host D2", "Contrast of Boat hall", "row 3", "2.16 ms"},
		"slip": {"Slip", "host D10", "brightness 75 %", "do not touch its back"},
	} {
		p := open(t, "")
		p.do(chromedp.Navigate(fmt.Sprintf("%s/api/benches/1/modules/%s/card", server.URL, module)))
		var data []byte
		p.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
			out, err := cdp.Call(ctx, target, printing.PrintToPDF, printing.PrintToPDFParams{PaperWidth: 8.27, PaperHeight: 11.69, PreferCSSPageSize: ref(true)})
			if err == nil {
				data = out.Data
			}
			return err
		}))
		file := filepath.Join(t.TempDir(), "card.pdf")
		if err := os.WriteFile(file, data, 0o644); err != nil {
			t.Fatal(err)
		}
		text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
		if err != nil {
			t.Fatal(err)
		}
		if pages := bytes.Count(text, []byte{'\f'}); pages != 1 {
			t.Errorf("%s: %d pages", module, pages)
		}
		for _, s := range says {
			if !strings.Contains(string(text), s) {
				t.Errorf("%s: the card does not say %q:\n%s", module, s, text)
			}
		}
	}
}

// TestPartsOfInputs adds a stick by keys and a row of buttons by pointer, each with its pins at once, makes a
// light sensor with the other resistor that suits it, and a radio of another voltage; their parts are in
// the list of the work, and undo takes them away again.
func TestPartsOfInputs(t *testing.T) {
	t.Parallel()
	server := serve(t)
	b := bench.New("Pier")
	m := bench.NewModule("gate", "Gate")
	m.Link.Kind = "backpack"
	m.Screens = []bench.Screen{{ID: "day", Name: "Day", Rows: []string{"Day"}}}
	b.Modules = []bench.Module{m}
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/gate/scenes", server.URL, id))
	inputs := func() []bench.Input { return stored(t, server, id).Modules[0].Show.Inputs }
	add := func(title string) {
		t.Helper()
		p.do(chromedp.Focus(`//button[.="New input…"]`))
		p.keys(kb.Enter)
		until(p, `document.activeElement.getAttribute("role")`, "menuitem")
		for !eval[bool](p, fmt.Sprintf(`document.activeElement.innerText.startsWith(%q)`, title)) {
			p.keys(kb.ArrowDown)
		}
		p.keys(" ")
		until(p, `document.querySelector('section[aria-label="Inputs"]').innerText.includes("Stick left and right")`, true)
		p.settle()
	}
	p.do(chromedp.WaitVisible(`section[aria-label="Inputs"]`))
	add("Stick")
	if in := inputs(); len(in) != 3 || in[0].Pin == "" || in[1].Pin == "" || in[2].Pin == "" || in[0].Part != in[2].Part || in[0].Signal.Start != 511 {
		t.Fatalf("a stick is %+v", in)
	}
	add("Row")
	until(p, `document.querySelector('section[aria-label="Inputs"]').innerText.includes("Button 3 of the row")`, true)
	p.settle()
	if in := inputs(); len(in) != 6 || in[3].Pin != in[5].Pin || !in[4].Button.Ladder {
		t.Fatalf("a row is %+v", in[3:])
	}
	said := `[...document.querySelectorAll('aside p, [class*=sheet] p')].map(e => e.innerText).join("\n")`
	p.do(chromedp.Click(`//section[@aria-label="Inputs"]//button[.="Button 2 of the row"]`))
	until(p, said+`.includes("Behind 4.7 kΩ from the button before it, to ground.")`, true)
	add("Signal")
	until(p, `document.querySelectorAll('[class*=device]').length`, 7)
	p.do(chromedp.Focus(`//label[.="Its voltage comes from"]/following-sibling::*//select`))
	p.keys("a resistor")
	until(p, said+`.includes("With the least and the most that it has")`, true)
	for label, text := range map[string]string{"it has at least, Ω": "500", "and at most, Ω": "80000"} {
		p.do(chromedp.Focus(fmt.Sprintf(`//label[.=%q]/following-sibling::div//input`, label)))
		p.keys(text + kb.Enter)
	}
	until(p, said+`.includes("6.8 kΩ from the pin to the supply")`, true) // √(500·80000) is 6325
	p.clickText("Give all 1 that have none a pin: A3")
	add("Serial")
	until(p, `document.querySelectorAll('[class*=device]').length`, 8)
	p.do(chromedp.Focus(`//label[.="The part that sends is fed with"]/following-sibling::*//select`))
	p.keys("3.3")
	p.do(chromedp.Click(`//label[contains(., "TX is joined to it, too")]//input`))
	until(p, said+`.includes("1 kΩ and 2 kΩ divide what it hears")`, true)
	p.clickText("Give all 1 that have none a pin: D0")
	p.settle()
	p.do(chromedp.Click(`//nav//a[contains(., "Wiring")]`))
	p.clickText("Plan afresh")
	for _, part := range []string{"stick", "Button 3 of the row", "4.7 kΩ", "15 kΩ", "6.8 kΩ", "Serial line", "2 kΩ"} {
		until(p, fmt.Sprintf(`document.body.innerText.includes(%q)`, part), true)
	}
	for range 40 {
		p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	}
	p.settle()
	if in := inputs(); len(in) != 0 {
		t.Errorf("undone, there are %d inputs", len(in))
	}
}

// TestBuildBegun begins with a build of the gallery, sees it play, reads its button on another pin, finds that among
// the wires to lay, and takes its program home, which is built.
func TestBuildBegun(t *testing.T) {
	t.Parallel()
	server := serve(t)
	p := open(t, "")
	downloads := p.downloads()
	p.do(chromedp.Navigate(server.URL+"/benches/new"), chromedp.WaitVisible(`[aria-label="What it shows"]`))
	choose := func(name, title string) {
		t.Helper()
		p.do(chromedp.Click(fmt.Sprintf(`//input[@name=%q]/ancestor::label[contains(., %q)]`, name, title)))
	}
	choose("build", "A meter of two channels")
	choose("size", "40 × 4") // it is composed for others
	until(p, `document.querySelector('[name=build]:checked').closest('label').innerText.includes("Nothing yet")`, true)
	until(p, `[...document.querySelectorAll('[name=build]:disabled')].length`, 10)
	choose("size", "20 × 4")
	choose("host", "ATmega328P board")
	p.do(chromedp.Focus(`//input[@name="build"]`))
	p.keys(kb.ArrowDown + kb.ArrowDown + kb.ArrowDown + kb.ArrowDown) // two states by a button
	p.clickText("Lay the table")
	until(p, address, "/benches/2/module-1/scenes")
	until(p, staged, "/   Slip is clear/   Launch at will/")
	p.do(chromedp.Click(`[aria-label="Play"]`), chromedp.Click(`[aria-label="Press Bell rope"]`))
	until(p, staged, "/    Slip is shut/ Wait for the bell/")
	p.do(chromedp.Click(`//section[@aria-label="Inputs"]//button[.="Bell rope"]`), chromedp.WaitVisible(`[data-pin="D10"]`), chromedp.Click(`[data-pin="D10"]`))
	p.settle()
	p.do(chromedp.Click(`//nav//a[contains(., "Wiring")]`))
	p.clickText("Plan afresh")
	until(p, `document.querySelector('section[aria-label="Order of the work"]')?.innerText.includes("host D10 to") ?? false`, true)
	p.do(chromedp.Click(`//nav//a[contains(., "Code")]`))
	until(p, `document.querySelector('[aria-label="Onto the host"]')?.innerText.includes("make upload PORT=") ?? false`, true)
	p.clickText("All as ZIP")
	dir := unpacked(t, downloaded(t, filepath.Join(downloads, "two_states_by_a_button-c.zip")))
	make := exec.Command("make", "-s", "AVR_CC=avr-gcc -Werror", "hex")
	make.Dir = dir
	if out, err := make.CombinedOutput(); err != nil {
		t.Errorf("what was downloaded does not build: %v\n%s", err, out)
	}
	if text, err := os.ReadFile(filepath.Join(dir, "inputs.c")); err != nil || !strings.Contains(string(text), "{10, 0, 20}, /* ") { // port B, bit 2
		t.Errorf("%v:\n%s", err, text)
	}
}
