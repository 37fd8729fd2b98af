package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/core/part/i2cbus"
	"slatebell/core/table/bus"
	"slatebell/e2e/harness"
)

// store stores a bench and returns its number.
func storeBench(t *testing.T, server *harness.Server, b bench.Bench) int {
	t.Helper()
	data, err := json.Marshal(b)
	if err != nil {
		t.Fatal(err)
	}
	res, err := http.Post(server.URL+"/api/benches", "application/json", strings.NewReader(string(data)))
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	var made struct{ ID int }
	if err := json.NewDecoder(res.Body).Decode(&made); err != nil || made.ID == 0 {
		t.Fatalf("%d, %v", res.StatusCode, err)
	}
	return made.ID
}

const verdicts = `[...document.querySelectorAll('[aria-label^="Addresses that answered"] li')].map(l => l.querySelector("code").innerText + " " + l.dataset.verdict).join(", ")`

// TestBus takes a 3.3 V host with three backpacks and a port expander, all at
// 0x27, to a clean scan by the remedies beside the findings.
func TestBus(t *testing.T) {
	t.Parallel()
	b := bench.New("Jetty")
	b.Host.Part = "RP2040"
	for i, name := range []string{"Boat hall", "Slip", "Gate"} {
		m := bench.NewModule(fmt.Sprintf("board-%d", i+1), name)
		m.Screens[0].Rows = []string{name}
		b.Modules = append(b.Modules[:i:i], m)
	}
	b.Devices = []bench.Device{{ID: "lamps", Name: "Lamps", Part: "MCP23017", Address: 0x27, CurrentMA: 20}}
	server := serve(t)
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/board-1/bus", server.URL, id))
	until(p, findings, "bus.clash bus.over-voltage supply.asked")
	until(p, verdicts, "0x27 expected") // four answer as one
	remedy := func(code string, n int) {
		t.Helper()
		p.do(chromedp.Click(fmt.Sprintf(`(//section[@aria-label="Findings"]//li[@data-code=%q]//button)[%d]`, code, n)))
	}
	remedy("bus.clash", 1)
	until(p, findings, "bus.over-voltage supply.asked")
	remedy("bus.over-voltage", 1)
	until(p, findings, "bus.pull-ups-strong supply.asked")
	remedy("bus.pull-ups-strong", 1)
	until(p, findings, "supply.asked")
	until(p, verdicts, "0x20 expected, 0x25 expected, 0x26 expected, 0x27 expected")
	p.settle()
	for _, n := range bus.Nodes(ref(stored(t, server, id))) {
		if n.Part.Padded() && i2cbus.PadsFor(n.At).Count() > 1 {
			t.Errorf("%s at %s", n.Name, n.At)
		}
	}

	// a pad by key, and undo; the mistakes; what a scanner printed
	pad := `[aria-label="Address pads of Gate"] button:nth-child(3)`
	p.do(chromedp.Focus(pad))
	p.keys(" ")
	until(p, `document.querySelector('[aria-label="Address pads of Gate"] button:nth-child(3)').ariaPressed`, "true")
	until(p, verdicts, "0x20 expected, 0x21 expected, 0x26 expected, 0x27 expected")
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	until(p, verdicts, "0x20 expected, 0x25 expected, 0x26 expected, 0x27 expected")
	for mistake, want := range map[string]string{
		"swapped": "0x20 missing, 0x25 missing, 0x26 missing, 0x27 missing", "gone": "0x20 expected, 0x25 expected, 0x26 expected, 0x27 missing",
		"wrong-pads": "0x20 expected, 0x25 expected, 0x26 expected, 0x27 missing",
	} {
		p.choose("What is on it", mistake)
		until(p, verdicts, want)
	}
	p.clickText("My scanner printed")
	p.do(chromedp.Click(`textarea[aria-label="What a scanner printed"]`))
	p.keys("found 32 37 39 and 36")
	until(p, verdicts, "0x20 expected, 0x25 expected, 0x27 expected, 0x24 moved, 0x26 missing")
	p.clickText("Plan Slip at 0x24")
	until(p, verdicts, "0x20 expected, 0x24 expected, 0x25 expected, 0x27 expected")
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl)) // the button is gone, the page has the key
	eval[any](p, `document.querySelector("textarea[aria-label^=What]").select()`)
	p.keys("hm")
	until(p, `document.querySelector('[aria-label="Scan"] [role=alert]')?.innerText.startsWith("no address can be read") ?? false`, true)

	// a measured current that cannot be read is said, and stays as it was typed
	p.do(chromedp.SendKeys(`[aria-label="Measured current of Gate, mA"]`, "abc"+kb.Enter))
	until(p, `document.querySelector('[aria-label="Supply"] [role=alert]')?.innerText.includes("“abc” is no current") ?? false`, true)
	until(p, `document.querySelector('[aria-label="Measured current of Gate, mA"]').value`, "abc")

	// which expander is it?
	p.do(chromedp.Click(`//summary[contains(., "which expander")]`), chromedp.SendKeys(`[placeholder="such as 39 or 0x27"]`, "0x3F"))
	until(p, `document.querySelector("details [role=status]")?.innerText.startsWith("It is a PCF8574A at 0x3F, pads closed: none.") ?? false`, true)
}

// ref returns a pointer to a copy.
func ref[T any](v T) *T { return &v }

// TestTable works on the drawing: eight modules in one step, a device, another
// host, another link, and one undo for each.
func TestTable(t *testing.T) {
	t.Parallel()
	server := serve(t)
	p := open(t, server.URL+"/benches/1/module-1/bench")
	addresses := func() []int {
		var list []int
		for _, n := range bus.Nodes(ref(stored(t, server, 1))) {
			list = append(list, int(n.At))
		}
		slices.Sort(list)
		return list
	}
	p.do(chromedp.WaitVisible(`article[aria-label="8-bit parallel"]`)) // it pushes what is below it down
	p.clickText("Add 7")
	until(p, `document.querySelectorAll('[aria-label="Bus"] article').length`, 8)
	p.settle()
	if got := fmt.Sprint(addresses()); got != "[32 33 34 35 36 37 38 39]" {
		t.Errorf("eight modules at %s", got)
	}
	if last := stored(t, server, 1).Modules[7]; last.Name != "New module 8" || last.Screens[0].Rows[0] != "New module 8" {
		t.Errorf("the last is %q, and shows %q", last.Name, last.Screens[0].Rows)
	}
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	until(p, `document.querySelectorAll('[aria-label="Bus"] article').length`, 1)

	// a device joins once it is said which: nothing stands there before, by key and by pointer
	p.do(chromedp.Focus(`//button[contains(., "Device")][not(contains(., "evice "))]`))
	p.keys(kb.Enter)
	until(p, `document.activeElement.ariaLabel`, "Part number, or what it does")
	p.keys("mcp23" + kb.Escape)
	until(p, `document.querySelectorAll('[aria-label="Bus"] article').length`, 1)
	p.clickText("Device")
	p.do(chromedp.Click(`//section[@aria-label="New device"]//button[contains(., "DS3231")]`))
	until(p, `document.querySelector('section[aria-label="Device"] h2')?.innerText ?? ""`, "DS3231")
	p.clickText("Take it away")
	p.clickText("Device")
	p.keys("mcp23017" + kb.Enter)
	until(p, `document.querySelector('section[aria-label="Device"] h2')?.innerText ?? ""`, "MCP23017")
	until(p, `[...document.querySelectorAll('[aria-label="Bus"] article')].map(a => a.ariaLabel).join()`, "New module,MCP23017")
	p.choose("Address", "39")
	until(p, findings, "bus.clash supply.unknown")
	const remedy = `document.querySelector('li[data-code="bus.clash"] button').innerText`
	until(p, remedy+`.startsWith("MCP23017 to")`, true)
	fixed := `//label[contains(., "its address is fixed")]//input`
	p.do(chromedp.Click(fixed))
	until(p, remedy+`.startsWith("New module to")`, true)
	p.do(chromedp.Focus(fixed))
	p.keys(" ")
	until(p, remedy+`.startsWith("MCP23017 to")`, true)
	p.do(chromedp.Click(`[aria-label="Take MCP23017 away"]`))
	until(p, findings, "")

	// a 3.3 V host asks for other pins, and has another link recommended
	p.do(chromedp.Click(`//button[contains(., "ATmega328P")]`))
	p.choose("Board, by what is printed on its largest chip", "ESP32")
	until(p, findings, "bus.over-voltage supply.asked")
	p.do(chromedp.Click(`article[aria-label="New module"] button`))
	until(p, `document.querySelector('article[aria-label="4-bit parallel"]')?.innerText.includes("recommended") ?? false`, true)
	p.do(chromedp.Click(`article[aria-label="4-bit parallel"] button`))
	until(p, `document.querySelector('[aria-label="Lines of their own"] svg[role=img]')?.ariaLabel ?? ""`, "RS on GPIO4, E on GPIO16, D4 on GPIO17, D5 on GPIO18, D6 on GPIO19, D7 on GPIO23")
	until(p, findings, "supply.asked")
	pins := `[...document.querySelectorAll('label')].find(l => l.textContent === "Pins for RS, E, D4, D5, D6, D7").control`
	write := func(text string) {
		t.Helper()
		eval[any](p, pins+`.focus()`)
		eval[any](p, pins+`.select()`)
		p.keys(text + kb.Enter)
	}
	write("1, …, …, …, …, 99") // as people write them down; what cannot be stays, and says why
	until(p, `document.querySelector('[aria-label="Link of the module"] [role=alert]')?.innerText ?? ""`, `pin "99" for D7; expected a label of this host, such as GPIO23`)
	write("1, …, …, …, …, …")
	until(p, findings, "host.pin-upload supply.asked")
	p.keys(kb.Escape)
	eval[any](p, `document.activeElement.blur()`)
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	until(p, findings, "supply.asked")
	p.settle()
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	until(p, `document.querySelectorAll('[aria-label="Bus"] article').length`, 1)
	p.settle()
	if b := stored(t, server, 1); b.Host.Part != "ESP32" || b.Bus.SDA != "GPIO21" || b.Modules[0].Link.Kind != "backpack" {
		t.Errorf("%+v, %+v, %s", b.Host, b.Bus, b.Modules[0].Link.Kind)
	}
	// what does not fit says what would
	p.do(chromedp.Focus(`[aria-label="How many more"]`))
	eval[any](p, `document.activeElement.select()`)
	p.keys("20")
	p.clickText("Add 20")
	until(p, bodyText+`.includes("15 of 20 fit: no address of an expander is free on this bus. What would make room: a multiplexer (TCA9548A)")`, true)
}

// TestOwnFigures describes a host of the maker's own, measures a current, and
// removes pull-ups: what the maker says counts in place of the table.
func TestOwnFigures(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/bus")
	gauge := `document.querySelector('[aria-label="Supply"] svg')?.ariaLabel ?? ""`
	until(p, gauge, "5 V: 274 mA of 1000 mA")
	measured := `[aria-label="Measured current of Gate board, mA"]`
	p.do(chromedp.SendKeys(measured, "101.5"+kb.Enter))
	until(p, gauge, "5 V: 352 mA of 1000 mA")
	p.do(chromedp.SendKeys(measured, "x"+kb.Enter)) // 101.5x is no figure: what counted goes on to count
	until(p, gauge, "5 V: 352 mA of 1000 mA")
	until(p, bodyText+`.includes("2.35 kΩ")`, true) // two sets of 4.7 kΩ
	p.do(chromedp.Click(`[aria-label="Remove the pull-ups of Gate board"]`))
	until(p, `document.querySelector('[aria-label="Electrics of the bus"] dd').innerText`, "4.7 kΩ")
	p.do(chromedp.Click(`[aria-label="Remove the pull-ups of Boathouse clock"]`))
	until(p, findings, "bus.no-pull-ups")
	until(p, bodyText+`.includes("Nothing answers: nothing pulls SDA and SCL up")`, true)
	p.do(chromedp.Click(`[aria-label=Findings] li button`))
	until(p, findings, "")

	p.settle() // what was changed last is stored before the page goes
	p.do(chromedp.Navigate(server.URL+"/benches/1/gate/bench"), chromedp.WaitVisible(`//button[contains(., "ATmega328P")]`), chromedp.Click(`//button[contains(., "ATmega328P")]`), chromedp.WaitVisible(`section[aria-label="Host"]`))
	p.settle()
	p.choose("Board, by what is printed on its largest chip", "own")
	until(p, bodyText+`.includes("Its pins in order")`, true)
	field := `[...document.querySelectorAll('label')].find(l => l.textContent.startsWith("Its pins in order")).control`
	eval[any](p, field+`.focus()`)
	eval[any](p, field+`.select()`)
	p.keys("4, 5, 6, 7, 8, 9, 10=input, 21=SDA, 22=SCL" + kb.Enter)
	until(p, `[...document.querySelectorAll('section[aria-label="Host"] li')].map(l => l.innerText).join("|")`, "4 RS of Boat hall|5 E of Boat hall|6 D4 of Boat hall|7 D5 of Boat hall|8 D6 of Boat hall|9 D7 of Boat hall|10 input only|21 SDA of the bus|22 SCL of the bus")
	p.settle()
	if b := stored(t, server, 1); b.Host.Part != "My board" || len(b.Host.Pins) != 9 || b.Modules[2].Link.Pins != nil || b.Bus.SCL != "22" {
		t.Errorf("%+v, %+v, %v", b.Host, b.Bus, b.Modules[2].Link.Pins)
	}
}

// TestOtherParts describes a part that the bench knows nothing of, by pointer and by key: its pins are joined,
// counted, found where they do not go together, mended by the remedy, and wired; undo brings back what was taken away.
func TestOtherParts(t *testing.T) {
	t.Parallel()
	server := serve(t)
	b := bench.New("Slip")
	b.Host.Part = "ATmega328P"
	b.Modules[0].ID, b.Modules[0].Name = "gate", "Gate"
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/gate/bench", server.URL, id))
	parts := func() []bench.OwnPart { return stored(t, server, id).Parts }
	choose := func(pin, label, value string) {
		t.Helper()
		until(p, fmt.Sprintf(`(() => {
			const of = [...document.querySelectorAll('[aria-label="Pin %s"] select')].find(s => s.labels?.[0]?.textContent === %q);
			if (!of) return false;
			Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(of, %q);
			of.dispatchEvent(new Event("change", {bubbles: true}));
			return true;
		})()`, pin, label, value), true)
		p.settle()
	}
	p.do(chromedp.WaitVisible(`//button[contains(., "Other part")]`), chromedp.Click(`//button[contains(., "Other part")]`))
	p.do(chromedp.WaitVisible(`[aria-label="Part of your own"]`), chromedp.Click(`//button[.="New pin"]`))
	choose("P3", "joined to", "D1")
	choose("P3", "driven by", "part")
	p.do(chromedp.Focus(`//li[@aria-label="Pin P3"]//label[starts-with(., "its high")]/following-sibling::div/input`))
	p.keys("5,5" + kb.Enter)
	p.settle()
	if got := parts(); len(got) != 1 || len(got[0].Pins) != 3 || got[0].Pins[2] != (bench.OwnPin{Name: "P3", To: "D1", Drives: true, HighMV: 5500}) {
		t.Fatalf("%+v", got)
	}
	until(p, `[...document.querySelectorAll("[data-code]")].map(e => e.dataset.code).filter(c => c.startsWith("part.")).sort().join()`, "part.pin-upload,part.too-high")
	p.do(chromedp.Focus(`//button[.="Join it to D2"]`))
	p.keys(kb.Enter)
	p.settle()
	if got := parts(); got[0].Pins[2].To != "D2" {
		t.Errorf("after the remedy: %+v", got[0].Pins)
	}
	p.do(chromedp.Focus(`//section[@aria-label="Part of your own"]//label[.="Name"]/following-sibling::div/input`))
	p.keys("a", chromedp.KeyModifiers(kb.ModifierCtrl))
	p.keys("Winch" + kb.Enter)
	p.settle()

	p.do(chromedp.Focus(`//button[contains(., "Other part")]`)) // a second one, by key, and away again
	p.keys(kb.Enter)
	p.settle()
	p.do(chromedp.Focus(`[aria-label="Take pin VCC away"]`))
	p.keys(kb.Enter)
	p.settle()
	if got := parts(); len(got) != 2 || len(got[1].Pins) != 1 || got[0].Name != "Winch" {
		t.Errorf("two parts: %+v", got)
	}
	p.do(chromedp.Focus(`//section[@aria-label="Part of your own"]//button[.="Take it away"]`))
	p.keys(kb.Enter)
	p.settle()
	if got := parts(); len(got) != 1 {
		t.Errorf("taken away: %+v", got)
	}
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	p.settle()
	if got := parts(); len(got) != 2 {
		t.Errorf("undone: %+v", got)
	}
	p.do(chromedp.Click(`a[aria-label^="Wiring"]`))
	until(p, `document.body.textContent.includes("Winch/P3")`, true)
}
