package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/core/table/breadboard"
	"slatebell/e2e/harness"
	"slatebell/formats/benchjson"
)

// stored reads a bench as the program has it.
func stored(t testing.TB, server *harness.Server, id int) bench.Bench {
	t.Helper()
	res, err := http.Get(fmt.Sprintf("%s/api/benches/%d/bench.json", server.URL, id))
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	b, err := benchjson.Read(res.Body)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// rows returns what a module's first screen says.
func rows(b bench.Bench, module int) string {
	return strings.Join(b.Modules[module].Screens[0].Rows, "|")
}

const address = `location.pathname`

// TestShelf begins, copies, renames and takes away benches, and brings them
// back; takes files in, of which one cannot be read; and comes back to the same
// place by reload, by back and in a second tab.
func TestShelf(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL)
	until(p, address, "/benches/1/gate/screens")
	p.pick("Slip")
	until(p, address, "/benches/1/slip/screens")
	p.do(chromedp.Click(`//nav//a[contains(@href, "/slip/")][contains(., "Run")]`)) // once the rail leads there
	until(p, address, "/benches/1/slip/run")
	p.do(chromedp.Reload(), chromedp.WaitVisible(`canvas`))
	p.glass(20, "Slip clear  3 afloat", "Last boat in  18:30")
	until(p, address, "/benches/1/slip/run")
	q := p.tab()
	q.do(chromedp.Navigate(server.URL+"/benches/1/hall/module"), chromedp.WaitVisible(`canvas`))
	until(q, rowsShown+`.includes("High water")`, true)
	p.do(chromedp.NavigateBack())
	until(p, address, "/benches/1/slip/screens")
	p.do(chromedp.NavigateBack())
	until(p, address, "/benches/1/gate/screens")
	p.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")

	// the shelf: copy, rename, bin and back, each with its undo
	p.do(chromedp.Click(`[title="All benches"]`))
	names := `[...document.querySelectorAll("article")].map(a => a.ariaLabel).join("|")`
	until(p, names, "Quillfish Landing")
	until(p, `document.querySelector("article canvas").dataset.rows`, `["QUILLFISH  GATE ","Tide 3.2m →14:05"]`) // the real glass
	if !eval[bool](p, `fetch(document.querySelector('a[href="/notices.txt"]').href).then((r) => r.text()).then((s) => s.includes("gorm.io/gorm v") && s.includes("react-dom ") && s.includes("Permission is hereby granted"))`) {
		t.Error("the notices lack a part, or its licence")
	}
	p.clickText("Copy")
	until(p, names, "Quillfish Landing, copy|Quillfish Landing")
	p.do(chromedp.Focus(`[aria-label="Name of Quillfish Landing, copy"]`))
	eval[any](p, `document.activeElement.select()`)
	p.keys("Winter store" + kb.Enter)
	until(p, names, "Winter store|Quillfish Landing")
	w := watch(p)
	p.do(chromedp.DoubleClick(`[aria-label="Put Winter store into the bin"]`))
	until(p, names, "Quillfish Landing")
	until(p, bodyText+`.includes("“Winter store” is in the bin")`, true)
	if wrong := w.taken(); len(wrong) > 0 {
		t.Errorf("put into the bin twice: %v", wrong)
	}
	p.clickText("Undo")
	until(p, names, "Winter store|Quillfish Landing")
	p.do(chromedp.Click(`[aria-label="Put Winter store into the bin"]`))
	until(p, names, "Quillfish Landing")
	p.clickText("Take out")
	until(p, names, "Winter store|Quillfish Landing")
	p.do(chromedp.Click(`[aria-label="Put Winter store into the bin"]`))
	p.clickText("Empty the bin")
	until(p, bodyText+`.includes("What is deleted cannot be brought back")`, true)
	p.clickText("Delete for good")
	until(p, bodyText+`.includes("One bench is gone for good") && !`+bodyText+`.includes("In the bin")`, true)

	// files: one that breaks off, one of version 1, one dropped
	load := func(name, text string) {
		file := filepath.Join(t.TempDir(), name)
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{file}, chromedp.NodeReady))
	}
	load("half.json", "{\n  \"format\": \"slatebell-bench\",\n  \"version\": 2,\n")
	until(p, `document.querySelector("[role=alert]")?.innerText ?? ""`, "half.json was not imported: line 4, column 1: the document ends before it is complete; expected a bench as JSON")
	until(p, names, "Quillfish Landing")
	old, err := os.ReadFile("../formats/benchjson/testdata/v1/every-setting.json")
	if err != nil {
		t.Fatal(err)
	}
	load("wrong.json", strings.Replace(string(old), `"kind": "shift"`, `"kind": "smoke"`, 1))
	until(p, `document.querySelector("[role=alert]")?.innerText.startsWith("wrong.json was not imported: /modules/2/link/kind: value must be one of") ?? false`, true)
	load("old.json", string(old))
	until(p, names, "Every setting|Quillfish Landing")
	eval[any](p, fmt.Sprintf(`(() => {
		const d = new DataTransfer();
		d.items.add(new File([%q], "dropped.json", { type: "application/json" }));
		document.querySelector("main").dispatchEvent(new DragEvent("drop", { bubbles: true, cancelable: true, dataTransfer: d }));
	})()`, strings.Replace(string(old), "Every setting", "Dropped", 1)))
	until(p, names, "Dropped|Every setting|Quillfish Landing")
	p.clickText("Undo")
	until(p, names, "Every setting|Quillfish Landing")
	p.do(chromedp.Click(`[aria-label="Open Every setting"]`))
	until(p, rowsShown+`.startsWith('["Tide')`, true)
	until(p, address, "/benches/3/gate/screens")

	// a bench that another tab takes away says so, and is there again once it is back
	req, _ := http.NewRequest("DELETE", server.URL+"/api/benches/3", nil)
	if _, err := http.DefaultClient.Do(req); err != nil {
		t.Fatal(err)
	}
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "Ebb ")
	until(p, saved+`.includes("this bench is in the bin; take it out to go on with it")`, true)
	if _, err := http.Post(server.URL+"/api/benches/3/restore", "application/json", nil); err != nil {
		t.Fatal(err)
	}
	p.settle()
	if got := rows(stored(t, server, 3), 0); !strings.HasPrefix(got, "Ebb ") {
		t.Errorf("stored %q", got)
	}
}

// TestFirstStart begins with the three questions where there is no bench yet, and what is
// recommended takes what is on the table: a bare module in parallel, one with a backpack by it,
// whose soldering is no work any more; at 3.3 V nothing joins unasked.
func TestFirstStart(t *testing.T) {
	t.Parallel()
	server, err := harness.Serve(binary, t.TempDir(), "")
	if err != nil {
		t.Fatal(err)
	}
	defer server.Stop()
	p := open(t, "")
	p.do(chromedp.Navigate(server.URL))
	until(p, address, "/benches/new")
	p.do(chromedp.WaitReady(`//label[contains(., "ATmega328P")]`)) // the boards have come: nothing moves any more
	p.clickText("Lay the table")
	until(p, address, "/benches/1/module-1/bench")
	if b := stored(t, server, 1); b.Modules[0].Link.Kind != "parallel4" {
		t.Errorf("a bare module is joined by %s", b.Modules[0].Link.Kind)
	}
	p.do(chromedp.Navigate(server.URL + "/benches/new"))
	p.do(chromedp.Click(`//label[contains(., "small board with a chip")]//input`))
	p.do(chromedp.Click(`//label[contains(., "RP2040 board")]`))
	p.clickText("Lay the table")
	until(p, address, "/benches/2/module-1/bench")
	b := stored(t, server, 2)
	if b.Modules[0].Link.Kind != "backpack" || b.Bus.Converter || !b.Modules[0].Fitting.Soldered {
		t.Errorf("a module with a backpack on 3.3 V: %+v %+v", b.Modules[0].Link, b.Bus)
	}
	for _, task := range breadboard.Lay(&b).Work() {
		if strings.Contains(task.Says, "The backpack to") {
			t.Errorf("to do: %s", task.Says)
		}
	}
	// the other link's card leads to the converter, counted
	p.do(chromedp.Navigate(server.URL + "/benches/new"))
	p.do(chromedp.Click(`//label[contains(., "RP2040 board")]`))
	p.clickText("Lay the table")
	until(p, address, "/benches/3/module-1/bench")
	const card = `document.querySelector('article[aria-label="I²C backpack"]').innerText.replaceAll("\n", " ")`
	until(p, card+`.includes("15 wires and a level converter")`, true)
	p.clickText("A level converter between: 15 wires")
	p.settle()
	if b := stored(t, server, 3); b.Modules[0].Link.Kind != "backpack" || !b.Bus.Converter {
		t.Errorf("chosen: %+v %+v", b.Modules[0].Link, b.Bus)
	}
}

// TestKeyboardAlone begins a bench and composes on it without a pointer, folds
// the dock, changes modules, and goes back to the shelf.
func TestKeyboardAlone(t *testing.T) {
	t.Parallel()
	server := serve(t)
	p := open(t, "")
	p.do(chromedp.Navigate(server.URL+"/benches"), chromedp.WaitVisible(`article`))
	// tabTo walks on with the tab key until something of a name is reached.
	tabTo := func(name string) {
		t.Helper()
		for range 80 {
			p.keys(kb.Tab)
			if eval[bool](p, fmt.Sprintf(`(() => { const e = document.activeElement; return e !== document.body && (e.ariaLabel ?? e.innerText.trim()).startsWith(%q) })()`, name)) {
				return
			}
		}
		t.Fatalf("the tab key never comes to %q", name)
	}
	tabTo("New bench")
	p.keys(kb.Enter)
	until(p, address, "/benches/new")
	// three questions: a 16 × 2 with a backpack, an RP2040, the link that is recommended
	until(p, `document.querySelectorAll('[aria-label="Host"] input').length`, 15)
	focus := func(selector string) {
		t.Helper()
		for range 40 {
			p.keys(kb.Tab)
			if eval[bool](p, fmt.Sprintf(`document.activeElement.matches(%q)`, selector)) {
				return
			}
		}
		t.Fatalf("the tab key never comes to %s", selector)
	}
	focus(`[name=size]`)
	p.keys(kb.ArrowRight + kb.ArrowLeft)
	focus(`[type=checkbox]`)
	p.keys(" ")
	focus(`[name=host]`)
	for range 8 {
		if eval[string](p, `document.activeElement.closest("label").innerText`) == "RP2040 board, 3.3 V" {
			break
		}
		p.keys(kb.ArrowUp)
	}
	tabTo("Lay the table")
	p.keys(kb.Enter)
	until(p, address, "/benches/2/module-1/bench")
	until(p, bodyText+`.includes("RP2040") && `+bodyText+`.includes("level converter") && `+bodyText+`.includes("SDA GP0, SCL GP1")`, true)
	tabTo("Compose")
	p.keys(kb.Enter)
	until(p, address, "/benches/2/module-1/screens")
	until(p, `document.activeElement?.ariaLabel ?? ""`, "Type on the glass of First module")
	p.keys("Oars in" + kb.Enter + "Slip 3")
	p.glass(16, "Oars in", "Slip 3")
	p.keys(kb.ArrowUp, chromedp.KeyModifiers(kb.ModifierAlt))
	until(p, `document.querySelector("[aria-expanded]").ariaExpanded`, "false")
	p.glass(16, "Oars in", "Slip 3")
	p.settle()
	p.do(chromedp.Reload(), chromedp.WaitVisible(`canvas`))
	until(p, `document.querySelector("[aria-expanded]").ariaExpanded`, "false") // remembered
	p.keys("!")
	p.glass(16, "!ars in", "Slip 3") // typing goes on, on the strip
	p.keys(kb.ArrowDown, chromedp.KeyModifiers(kb.ModifierAlt))
	until(p, `document.querySelector("[aria-expanded]").ariaExpanded`, "true")

	// a second module from the list of modules, and back to the first
	tabTo("First module")
	p.keys(kb.Enter)
	until(p, `document.activeElement?.getAttribute("aria-current") ?? ""`, "true")
	p.keys(kb.ArrowDown + kb.Enter) // add one like it
	until(p, address, "/benches/2/module-2/screens")
	p.glass(16, "First module 2", "")
	p.keys(kb.PageUp, chromedp.KeyModifiers(kb.ModifierAlt))
	until(p, address, "/benches/2/module-1/screens")
	p.glass(16, "!ars in", "Slip 3")
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl)) // the module goes again
	until(p, `document.querySelector('[popovertarget="modules"]').innerText.replace(/\s+/g, " ")`, "First module 1 of 1")

	tabTo("Bench: ")
	p.keys(kb.Enter)
	until(p, address, "/benches/2/module-1/bench")
	until(p, bodyText+`.includes("SDA GP0, SCL GP1")`, true)
	tabTo("Compose")
	p.keys(kb.Enter)
	until(p, address, "/benches/2/module-1/screens")
	p.settle()
	tabTo("Slate Bell")
	p.keys(kb.Enter)
	until(p, address, "/benches")
	if got := rows(stored(t, server, 2), 0); got != "!ars in|Slip 3" {
		t.Errorf("stored %q", got)
	}
}

// TestOwnBoard describes a board that is not in the table, by keys, and finds it again where another
// bench is begun and where a bench gets another host; what cannot be is said, and stays.
func TestOwnBoard(t *testing.T) {
	t.Parallel()
	server := serve(t)
	id := storeBench(t, server, tides())
	p := open(t, fmt.Sprintf("%s/benches/%d/gate/bench", server.URL, id))
	p.do(chromedp.WaitVisible(`[aria-label="The table"]`))
	p.do(chromedp.Click(`//button[contains(., "ATmega328P")]`), chromedp.WaitVisible(`[aria-label="Host"]`))
	field := func(label string) string {
		return fmt.Sprintf(`//section[@aria-label="Host"]//label[starts-with(normalize-space(), %q)]/..//input`, label)
	}
	write := func(label, text string) {
		t.Helper()
		p.do(chromedp.Focus(field(label)))
		p.keys("a", chromedp.KeyModifiers(kb.ModifierCtrl))
		p.keys(text + kb.Enter)
		p.settle()
	}
	p.do(chromedp.Focus(`//section[@aria-label="Host"]//select`))
	p.keys(kb.End) // another board
	p.do(chromedp.WaitVisible(field("What it is")))
	write("What it is", "Quay board")
	write("Its pins in order", "P1=SDA, P2=SCL, P3=input+adc+no-pull, P4, P5, P6, P7, P8, P9")
	write("a pin gives", "4")
	write("its converter", "12.5")
	until(p, `document.querySelector('[aria-label="Host"] [role=alert]')?.innerText ?? ""`, "12.5; expected a whole number up to 16, or nothing")
	write("its converter", "12")
	write("Its serial lines", "1=P4")
	until(p, `document.querySelector('[aria-label="Host"] [role=alert]')?.innerText.includes("expected one such as 1=D19/D18")`, true)
	write("Its serial lines", "1=P4/P5")
	write("Its references", "12")
	until(p, `document.querySelector('[aria-label="Host"] [role=alert]')?.innerText.includes("up to four voltages")`, true)
	write("Its references", "1,2")
	want := bench.HostFigures{PinMA: 4, Bits: 12, References: []int{1200}, Serial: "1=P4/P5"}
	if h := stored(t, server, id).Host; h.Part != "Quay board" || !reflect.DeepEqual(h.Facts, want) || len(h.Pins) != 9 || len(h.Pins[2].Can) != 3 {
		t.Errorf("stored: %+v", h)
	}
	p.do(chromedp.Navigate(server.URL+"/benches/new"), chromedp.WaitVisible(`[aria-label="Host"]`))
	p.do(chromedp.Click(`//label[contains(., "Quay board")]`))
	p.clickText("Lay the table")
	until(p, address, "/benches/3/module-1/bench")
	if b := stored(t, server, 3); b.Host.Part != "Quay board" || !reflect.DeepEqual(b.Host.Facts, want) || b.Modules[0].Link.Pins == nil && b.Modules[0].Link.Kind != "backpack" {
		t.Errorf("begun: %+v, %+v", b.Host, b.Modules[0].Link)
	}
}

// TestUnreachable stops the program while text is typed and starts it again: the
// glass stays, typing goes on, and everything is stored and simulated as soon as
// the program answers, without a reload.
func TestUnreachable(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	server, p := composing(t, dir)
	p.keys("Before ")
	p.glass(16, "Before SH  GATE", "Tide 3.2m →14:05")
	p.settle()
	addr := server.Addr()
	if err := server.Kill(); err != nil {
		t.Fatal(err)
	}
	p.keys("while")
	until(p, `document.querySelector("[aria-label=Module] [role=status]")?.innerText ?? ""`, "The program cannot be reached: this is its last glass; what you type is kept")
	until(p, saved, "Not saved: the program cannot be reached; is it still running?")
	p.glass(16, "Before SH  GATE", "Tide 3.2m →14:05") // the last glass
	p.keys(" away")
	p.do(chromedp.Focus(`[role=grid]`)) // steps of the last run are still there to look at
	p.keys(kb.ArrowUp)
	p.keys(kb.Escape)
	server, err := harness.Serve(binary, dir, addr, "--demo")
	if err != nil {
		t.Fatal(err)
	}
	defer server.Stop()
	p.glass(16, "Before while awa", "Tide 3.2m →14:05")
	p.settle()
	if got := rows(stored(t, server, 1), 0); got != "Before while away|Tide 3.2m →14:05" {
		t.Errorf("stored %q", got)
	}
	// a run that the new program never made is asked for again
	p.do(chromedp.Focus(`[role=grid]`))
	p.keys(kb.Home)
	p.glass(16, "", "")
}

// TestLeftBehind closes the page while the program is away: what could not be
// stored is offered on return, and taken up or left; a change that the page was
// closed right after still goes out.
func TestLeftBehind(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	server, p := composing(t, dir)
	url := p.url
	p.keys("Last")
	p.do(chromedp.Navigate("about:blank")) // at once: nothing was stored yet
	deadline := time.Now().Add(5 * time.Second)
	for rows(stored(t, server, 1), 0) != "LastLFISH  GATE|Tide 3.2m →14:05" {
		if time.Now().After(deadline) {
			t.Fatalf("the last change never arrived: %q", rows(stored(t, server, 1), 0))
		}
		time.Sleep(20 * time.Millisecond)
	}
	p.do(chromedp.Navigate(url), chromedp.WaitVisible(`canvas`))
	p.glass(16, "LastLFISH  GATE", "Tide 3.2m →14:05")
	until(p, `document.querySelector("main [role=alert]") === null`, true) // it arrived: nothing to offer

	addr := server.Addr()
	leave := func(text string) {
		t.Helper()
		if err := server.Kill(); err != nil {
			t.Fatal(err)
		}
		p.do(chromedp.Click(`canvas`))
		p.keys(kb.Home + text)
		until(p, saved+`.startsWith("Not saved")`, true)
		p.do(chromedp.Navigate("about:blank"))
		var err error
		if server, err = harness.Serve(binary, dir, addr, "--demo"); err != nil {
			t.Fatal(err)
		}
		p.do(chromedp.Navigate(url), chromedp.WaitVisible(`canvas`))
		until(p, `document.querySelector("main [role=alert]")?.innerText.includes("could not be stored before the page was closed") ?? false`, true)
		p.glass(16, "LastLFISH  GATE", "Tide 3.2m →14:05")
	}
	leave("Forgotten")
	p.clickText("Leave them")
	until(p, `document.querySelector("main [role=alert]") === null`, true)
	p.do(chromedp.Reload(), chromedp.WaitVisible(`canvas`))
	p.glass(16, "LastLFISH  GATE", "Tide 3.2m →14:05")
	leave("Kept")
	p.clickText("Take them up")
	p.glass(16, "KeptLFISH  GATE", "Tide 3.2m →14:05")
	p.settle()
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl)) // taking up is a change like any other
	p.glass(16, "LastLFISH  GATE", "Tide 3.2m →14:05")
	p.settle()
	server.Stop()
}

// TestLastChangeFirst leaves a page, and opens it again, while a change is under way: the last one goes out beside it, and either may arrive first. The
// new page offers what is kept as long as they are not there, and then shows it.
func TestLastChangeFirst(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	changes := make(chan chan struct{}, 9) // each goes on once its own channel is closed
	proxied := between(t, server, func(w http.ResponseWriter, r *http.Request, forward http.Handler) {
		if r.Method == http.MethodPatch {
			on := make(chan struct{})
			changes <- on
			select {
			case <-on:
			case <-r.Context().Done():
			}
		}
		forward.ServeHTTP(w, r)
	})
	p := open(t, proxied+"/benches/1/gate/screens")
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "Oars")
	first := <-changes
	p.keys("!!")
	p.do(chromedp.Navigate(p.url))
	last := <-changes
	until(p, `document.querySelector("main [role=alert]")?.innerText.includes("could not be stored before the page was closed") ?? false`, true)
	p.glass(16, "QUILLFISH  GATE", "Tide 3.2m →14:05")
	close(last)
	close(first)
	p.glass(16, "Oars!!ISH  GATE", "Tide 3.2m →14:05")
	until(p, `document.querySelector("main [role=alert]") === null`, true)
	if got := rows(stored(t, server, 1), 0); got != "Oars!!ISH  GATE|Tide 3.2m →14:05" {
		t.Errorf("stored is %q", got)
	}
}

// TestKeystrokeIsSmall types on a bench of 16 modules with boards and scenes:
// all that a key sends is under 2 kB.
func TestKeystrokeIsSmall(t *testing.T) {
	t.Parallel()
	b := bench.New("Sixteen")
	m := b.Modules[0]
	b.Modules = nil
	for i := range 16 {
		m.ID, m.Name, m.Display.Geometry = fmt.Sprintf("module-%d", i+1), fmt.Sprintf("Module %d", i+1), "20x4"
		m.Screens, m.Show = nil, bench.Show{}
		for s := range 6 {
			id := fmt.Sprintf("screen-%d", s+1)
			m.Screens = append(m.Screens, bench.Screen{ID: id, Rows: []string{"Tide  3.2 m  rising", "High water   14:05", "Wind NW 4  gusts 6", "Boats out  3 of 11"}})
			m.Show.Scenes = append(m.Show.Scenes, bench.Scene{ID: fmt.Sprintf("scene-%d", s+1), Screen: id, Ends: []bench.End{{AfterMs: 2000, Next: "scene-1"}}})
		}
		b.Modules = append(b.Modules, m)
		b.Wiring.Boards = append(b.Wiring.Boards[:min(len(b.Wiring.Boards), 7)], bench.Breadboard{ID: fmt.Sprintf("board-%d", i+1), Columns: 63})
		for w := range 12 {
			b.Wiring.Wires = append(b.Wiring.Wires, bench.Wire{From: fmt.Sprintf("board-1/a%d", w+1), To: fmt.Sprintf("%s/D%d", m.ID, w%8), Colour: "yellow", LengthMM: 120})
		}
	}
	server := serve(t)
	data, err := json.Marshal(b)
	if err != nil {
		t.Fatal(err)
	}
	res, err := http.Post(server.URL+"/api/benches", "application/json", strings.NewReader(string(data)))
	if err != nil || res.StatusCode != 201 {
		t.Fatal(res, err)
	}
	res.Body.Close()
	p := open(t, server.URL+"/benches/2/module-9/screens")
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home, chromedp.KeyModifiers(kb.ModifierCtrl))
	p.settle()
	sent := map[string]int{}
	chromedp.Listen(p.ctx, func(ev any) {
		switch ev := ev.(type) {
		case *network.EventRequestWillBeSent:
			if ev.Request.Method != "GET" {
				path, _, _ := strings.Cut(strings.TrimPrefix(ev.Request.URL, server.URL), "?")
				sent[ev.Request.Method+" "+path] += len(postData(ev.Request))
			}
		case *network.EventWebSocketFrameSent:
			sent["line"] += len(ev.Response.PayloadData)
		}
	})
	p.keys("E")
	until(p, rowsShown+`.includes("Eide")`, true)
	until(p, saved, "Saved, revision 2")
	total := 0
	for _, n := range sent {
		total += n
	}
	if sent["PATCH /api/benches/2"] == 0 || sent["line"] == 0 || total >= 2000 {
		t.Errorf("a key in a bench of %d bytes sends %d: %v", len(data), total, sent)
	}
}

// postData returns the body of a request.
func postData(r *network.Request) string {
	var b strings.Builder
	for _, e := range r.PostDataEntries {
		b.Write(e.Bytes)
	}
	return b.String()
}

// TestRemedyInTheInterface takes up a remedy by a click: the stored bench is the
// very one that the command line makes with --apply.
func TestRemedyInTheInterface(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/hall/screens")
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "Ébb ")
	eval[any](p, `document.execCommand("insertText", false, "č")`)
	until(p, findings, "rom.missing-character")
	p.settle()
	before := stored(t, server, 1)
	p.clickText("Draw 'č' as a glyph in slot 5")
	until(p, findings, "")
	p.settle()
	after := stored(t, server, 1)

	var text strings.Builder
	if err := benchjson.Write(&text, &before); err != nil {
		t.Fatal(err)
	}
	cli := command(t, text.String(), "check", "-", "--format", "json")
	var found []struct {
		Remedies []struct {
			Label string
			Patch json.RawMessage
		}
	}
	if err := json.Unmarshal([]byte(cli), &found); err != nil {
		t.Fatal(err)
	}
	for _, r := range found[0].Remedies {
		if r.Label != "Draw 'č' as a glyph in slot 5" {
			continue
		}
		want, err := benchjson.Patch(&before, r.Patch)
		if err != nil || !reflect.DeepEqual(after, want) {
			t.Errorf("the interface stored %+v, the remedy makes %+v, %v", after.Modules[1], want.Modules[1], err)
		}
	}
	// and the first of them, which --apply takes
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	until(p, findings, "rom.missing-character")
	p.do(chromedp.Click(`[aria-label=Findings] li button`))
	until(p, findings, "")
	p.settle()
	applied, err := benchjson.Parse([]byte(command(t, text.String(), "check", "-", "--apply", "rom.missing-character")))
	if after := stored(t, server, 1); err != nil || !reflect.DeepEqual(after, applied) {
		t.Errorf("the interface stored %q, the command line makes %q, %v", rows(after, 1), rows(applied, 1), err)
	}
}

// TestOnScreenKeyboard deletes as keyboards on glass do, which send no keys.
func TestOnScreenKeyboard(t *testing.T) {
	t.Parallel()
	p := open(t, serve(t, "--demo").URL+"/benches/1/gate/screens")
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home + "Oar")
	p.glass(16, "OarLLFISH  GATE", "Tide 3.2m →14:05")
	for range 2 {
		eval[any](p, `document.execCommand("delete")`)
	}
	p.glass(16, "O  LLFISH  GATE", "Tide 3.2m →14:05")
	eval[any](p, `document.execCommand("forwardDelete")`)
	p.glass(16, "O LLFISH  GATE", "Tide 3.2m →14:05")
	eval[any](p, `document.execCommand("insertText", false, "b")`)
	p.glass(16, "ObLLFISH  GATE", "Tide 3.2m →14:05")
}

// TestSixteenModules looks for words that are cut off or lie on each other in
// the bar and the rail, with 16 modules of long names, at both widths.
func TestSixteenModules(t *testing.T) {
	t.Parallel()
	b := bench.New("The long boathouse at Quillfish Landing")
	m := b.Modules[0]
	b.Modules = nil
	for i := range 16 {
		m.ID, m.Name = fmt.Sprintf("module-%d", i+1), fmt.Sprintf("Board %d at the landing stage", i+1)
		b.Modules = append(b.Modules, m)
	}
	server := serve(t)
	data, _ := json.Marshal(b)
	res, err := http.Post(server.URL+"/api/benches", "application/json", strings.NewReader(string(data)))
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	p := open(t, server.URL+"/benches/2/module-16/screens")
	bar := func(width int64, what string) {
		t.Helper()
		if over := eval[string](p, `(() => {
			const parts = [...document.querySelectorAll("header > *")].filter(e => e.getClientRects().length && !e.matches("[popover]"));
			const boxes = parts.map(e => e.getBoundingClientRect());
			const bad = boxes.flatMap((b, i) => (b.right > innerWidth + 0.5 || b.bottom > 54.5 || (i > 0 && b.left < boxes[i - 1].right - 0.5)) ? [parts[i].outerHTML.slice(0, 80)] : []);
			const wrapped = [...document.querySelectorAll("header button, header a")].filter(e => e.getBoundingClientRect().height > 46).map(e => e.outerHTML.slice(0, 80));
			return [...bad, ...wrapped].join("\n");
		})()`); over != "" {
			t.Errorf("at %d px, %s, the bar overflows or wraps:\n%s", width, what, over)
		}
	}
	for _, width := range []int64{1280, 1024} {
		p.do(chromedp.EmulateViewport(width, 768))
		until(p, `document.querySelector('[popovertarget="modules"] small').innerText`, "16 of 16")
		bar(width, "saved")
		if scrolls := eval[bool](p, `document.documentElement.scrollWidth > innerWidth || document.documentElement.scrollHeight > innerHeight`); scrolls {
			t.Errorf("at %d px the page scrolls", width)
		}
		if cut := eval[string](p, `[...document.querySelectorAll("[role=row] > span:nth-child(6)")].filter(e => e.scrollHeight > e.clientHeight + 8 || e.scrollWidth > e.clientWidth + 1).map(e => e.innerText).join("; ")`); width == 1280 && cut != "" {
			t.Errorf("meanings are cut: %s", cut)
		}
	}
	p.do(chromedp.Click(`[popovertarget="modules"]`), chromedp.Click(`//div[@id="modules"]/button[contains(., "Board 3 ")]`))
	until(p, address, "/benches/2/module-3/screens")
	until(p, `document.querySelector('canvas[aria-label^="Board 3 "]') !== null`, true)
	until(p, `document.querySelectorAll("[role=grid] [role=row]").length > 1`, true) // the whole view has come
	if err := server.Kill(); err != nil {
		t.Fatal(err)
	}
	p.do(chromedp.Click(`canvas`))
	p.keys("!")
	until(p, saved+`.startsWith("Not saved")`, true)
	for _, width := range []int64{1280, 1024} {
		p.do(chromedp.EmulateViewport(width, 768))
		bar(width, "not saved")
	}
}

// command runs the program with a standard input, and returns what it prints.
func command(t testing.TB, stdin string, args ...string) string {
	t.Helper()
	out, _, err := harness.Command(context.Background(), binary, stdin, args...)
	if err != nil {
		t.Fatal(err)
	}
	return out
}
