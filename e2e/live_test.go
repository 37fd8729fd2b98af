package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/e2e/harness"
	"slatebell/live/standin"
	"slatebell/server/demo"
)

// standInShows waits for what the stand-in's module shows, by what the sheet draws of it.
const standInShows = `(document.querySelector('canvas[aria-label^="The stand-in’s Gate board"]')?.dataset.rows ?? '')`

// TestLive connects to the stand-in by keys, types, and sees the typing on its glass; scans its bus; reads its memory; a second
// page watches, takes over and drives; it is disconnected by pointer.
func TestLive(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/screens")
	p.do(chromedp.Focus(`[popovertarget="live"]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(`[aria-label="Connect stand-in"]`), chromedp.Focus(`[aria-label="Connect stand-in"]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(`//div[@id="live"]//p[@role="status"][contains(., "The bridge of an ATmega328P is there")]`))
	until(p, `JSON.parse(`+standInShows+` || '[""]')[0].startsWith('QUILLFISH')`, true)
	p.keys(kb.Escape)
	p.do(chromedp.Click(`canvas`))
	p.keys(kb.Home)
	p.keys("Ebb tide")
	p.do(chromedp.Click(`[popovertarget="live"]`))
	until(p, `JSON.parse(`+standInShows+` || '[""]')[0].startsWith('Ebb tide')`, true)
	until(p, `[...document.querySelectorAll('#live li')].every(li => li.innerText.includes('shows what is composed'))`, true)
	p.do(chromedp.Click(`[aria-label="Read memory of Gate board"]`))
	p.do(chromedp.WaitVisible(`//div[@id="live"]//div[@role="status"][contains(., "It holds what was sent")]`))
	p.do(chromedp.Focus(`[aria-label="Try its data lines: Gate board"]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(`//div[@id="live"]//div[@role="status"][contains(., "All data lines carry")]`))
	p.do(chromedp.Click(`[aria-label="Time its oscillator: Gate board"]`), chromedp.WaitVisible(`//div[@id="live"]//button[.="Take it over as measured"]`))
	p.do(chromedp.Focus(`//div[@id="live"]//button[.="Take it over as measured"]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(`//div[@id="live"]//button[.="Taken over"]`))
	p.settle()
	if kHz := stored(t, server, 1).Modules[0].Display.Measured.OscillatorKHz; kHz < 265 || kHz > 275 {
		t.Errorf("%d kHz are taken over; expected 270", kHz)
	}

	q := p.tab()
	q.do(chromedp.Click(`[popovertarget="live"]`), chromedp.WaitVisible(`//p[contains(., "Another page drives it")]`))
	q.do(chromedp.Click(`//button[.="Drive it from here"]`), chromedp.WaitNotPresent(`//p[contains(., "Another page drives it")]`))
	p.do(chromedp.WaitVisible(`//p[contains(., "Another page drives it")]`))

	q.keys(kb.Escape)
	q.do(chromedp.Click(`//nav//a[contains(., "Bus")]`), chromedp.Click(`//section[@aria-label="Scan"]//button[.="The real bus"]`))
	q.do(chromedp.WaitVisible(`//section[@aria-label="Scan"]//pre[contains(., "0x27 (decimal 39)")]`))
	q.do(chromedp.Click(`[popovertarget="live"]`), chromedp.Click(`//div[@id="live"]//button[.="Disconnect"]`))
	q.do(chromedp.WaitVisible(`[aria-label="Connect stand-in"]`))
}

// TestLiveShow plays a show on the stand-in's glass, with a button pressed on the page, and does an operation by hand on it.
func TestLiveShow(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/scenes")
	p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.Click(`[aria-label="Connect stand-in"]`))
	p.do(chromedp.WaitVisible(`//div[@id="live"]//p[@role="status"][contains(., "The bridge of an ATmega328P is there")]`))
	p.keys(kb.Escape)
	p.do(chromedp.Click(`//button[starts-with(normalize-space(), "On the real glass")]`))
	p.do(chromedp.WaitVisible(`//button[starts-with(normalize-space(), "On the real glass")][@aria-pressed="true"]`))
	p.do(chromedp.Click(`[aria-label="Press Bell rope"]`))
	answers(p, `fetch('/api/table/glass/0').then(r => r.json()).then(g => String(g.on))`, "false") // the bell pauses
	p.do(chromedp.WaitVisible(`//a[contains(., "events")][contains(@href, "/api/table/events.csv")]`))
	if events := eval[string](p, `fetch('/api/table/events.csv').then(r => r.text())`); !strings.HasPrefix(events, "time_ms,input,value\r\n") || !strings.Contains(events, ",bell,1") {
		t.Errorf("its events are %q", events)
	}
	p.do(chromedp.Focus(`//button[starts-with(normalize-space(), "On the real glass")]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(`//button[normalize-space()="On the real glass"][@aria-pressed="false"]`))

	p.do(chromedp.Click(`//nav//a[contains(., "Run")]`))
	p.do(chromedp.SendKeys(`[aria-label="Instruction or characters"]`, "clear"))
	p.keys(kb.Enter)
	answers(p, `fetch('/api/table/glass/0').then(r => r.json()).then(g => g.text.join('').trim())`, "")
}

// TestLiveRadio lets a text come over the serial line of a show that is played on the stand-in's glass, whose host has that line for the
// computer alone: it is sent from the page, and stands in the events as it came.
func TestLiveRadio(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/slip/scenes")
	p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.Click(`[aria-label="Connect stand-in"]`))
	p.do(chromedp.WaitVisible(`//div[@id="live"]//p[@role="status"][contains(., "The bridge of an ATmega328P is there")]`))
	p.keys(kb.Escape)
	p.do(chromedp.Focus(`//button[starts-with(normalize-space(), "On the real glass")]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(`//button[starts-with(normalize-space(), "On the real glass")][@aria-pressed="true"]`))
	p.do(chromedp.SendKeys(`[aria-label="Send over Radio"]`, "Squall"))
	p.keys(kb.Enter)
	answers(p, `fetch('/api/table/glass/2').then(r => r.json()).then(g => String(g.text.join('').includes('Squall')))`, "true")
	answers(p, `fetch('/api/table/events.csv').then(r => r.text()).then(e => String(e.includes(',radio,Squall\\n')))`, "true")
}

// TestLiveReadBack takes what the module's memory holds for what is seen, in the fault finder.
func TestLiveReadBack(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/faults")
	p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.Click(`[aria-label="Connect stand-in"]`))
	p.do(chromedp.WaitVisible(`//div[@id="live"]//p[@role="status"][contains(., "is there")]`))
	until(p, `[...document.querySelectorAll('#live li')].some(li => li.innerText.includes('shows what is composed'))`, true)
	p.keys(kb.Escape)
	p.do(chromedp.Focus(`//button[.="Read it back from the module"]`))
	p.keys(kb.Enter)
	until(p, `[...document.querySelectorAll('[aria-label="What you see"] [role=img]')].some(c => c.ariaLabel.startsWith("What you typed") && c.ariaLabel.includes("QUILLFISH  GATE"))`, true)
	until(p, firstCause, "sound")
}

// TestLiveMeasure measures a module's supply by a wire to a free pin of the host, in first light: the stand-in's pin has no wire, so that
// it measures nothing, which is no supply and is not taken over; what can be is.
func TestLiveMeasure(t *testing.T) {
	t.Parallel()
	server := serve(t)
	p := open(t, server.URL+"/benches/1/module-1/wiring")
	p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.Click(`[aria-label="Connect stand-in"]`))
	p.do(chromedp.WaitVisible(`//div[@id="live"]//p[@role="status"][contains(., "is there")]`))
	p.keys(kb.Escape)
	p.do(chromedp.Click(`//button[@role="tab"][.="First light"]`))
	step := func(title string) string {
		return fmt.Sprintf(`//section[starts-with(@aria-label, "First light")]//li[.//b[.=%q]]`, title)
	}
	p.do(chromedp.WaitVisible(step("Supply") + `//button[.="Measure it there"]`))
	p.choose("Pin that measures VDD", "A1")
	p.do(chromedp.Click(step("Supply")+`//button[.="Measure it there"]`), chromedp.WaitVisible(step("Supply")+`//span[@role="status"][contains(., "Not taken over")]`))
	p.do(chromedp.Focus(step("Contrast") + `//button[.="Measure it there"]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(step("Contrast") + `//span[@role="status"][contains(., "0.00 V") and contains(., "Taken over")]`))
	p.settle()
	if m := stored(t, server, 1).Modules[0].Display.Measured; m.SupplyMV != 0 || m.VOMV == nil || *m.VOMV != 0 {
		t.Errorf("%+v is stored as measured", m)
	}
	b := bench.New("Pier lamp") // a host whose pins bear less than its module is fed with is offered no wire
	b.Host.Part = "ESP32"
	p.do(chromedp.Navigate(fmt.Sprintf("%s/benches/%d/module-1/wiring", server.URL, storeBench(t, server, b))), chromedp.WaitVisible(`canvas[role="img"]`))
	p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.Click(`//div[@id="live"]//button[.="Disconnect"]`), chromedp.Click(`[aria-label="Connect stand-in"]`))
	p.do(chromedp.WaitVisible(`//div[@id="live"]//p[@role="status"][contains(., "ESP32 is there")]`))
	p.keys(kb.Escape)
	p.do(chromedp.Click(`//button[@role="tab"][.="First light"]`), chromedp.WaitVisible(step("Supply")+`//p[contains(., "Take a meter")]`))
	until(p, `[...document.querySelectorAll('button')].some(b => b.innerText === 'Measure it there')`, false)
}

// answers waits until a promise gives a text.
func answers(p *page, promise, want string) {
	p.t.Helper()
	got := ""
	for end := time.Now().Add(20 * time.Second); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		if got = eval[string](p, promise+`.catch(() => "nothing yet")`); got == want {
			return
		}
	}
	p.t.Fatalf("%s gives %q; expected %q", promise, got, want)
}

// hosted is what a board does by itself of a test.
type hosted struct{ test, does, says string }

// acts lets a board do what it can of tests that the finder offers, by pointer and by key in turn.
func (p *page) acts(list []hosted) {
	p.t.Helper()
	for i, a := range list {
		p.settle() // the list of tests may be asked for anew
		until(p, fmt.Sprintf(`[...document.querySelectorAll('[aria-label="Next test"] option')].some(o => o.value === %q)`, a.test), true)
		p.do(chromedp.SetValue(`[aria-label="Next test"] select`, a.test))
		button := fmt.Sprintf(`//section[@aria-label="Next test"]//button[.=%q]`, a.does)
		if i%2 == 0 {
			p.do(chromedp.Click(button))
		} else {
			p.do(chromedp.Focus(button))
			p.keys(kb.Enter)
		}
		p.do(chromedp.WaitVisible(fmt.Sprintf(`//section[@aria-label="Next test"]//span[@role="status"][contains(., %q)]`, a.says)))
	}
}

// TestLiveFault puts a fault into the stand-in, whose glass shows it; takes the finder's test text to it; scans its bus from first
// light; and begins its text there once the fault is out.
func TestLiveFault(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/faults")
	shown := `fetch('/api/table/glass/0').then(r => r.json()).then(g => g.text[0].trimEnd())`
	p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.Click(`[aria-label="Connect stand-in"]`))
	answers(p, shown, "QUILLFISH  GATE")
	fault := `[aria-label="Fault of the stand-in’s Gate board"]`
	p.do(chromedp.Focus(fault))
	p.choose("Fault of the stand-in’s Gate board", "wire.open:E")
	answers(p, `fetch('/api/table/glass/0').then(r => r.json()).then(g => String(g.text[0].includes('Q')))`, "false") // no edge of E arrives
	p.keys(kb.Escape)
	p.do(chromedp.Click(`//button[.="A row of blocks"]`))
	p.do(chromedp.WaitVisible(`//section[@aria-label="Next test"]//select`))
	until(p, `[...document.querySelectorAll('[aria-label="Next test"] option')].some(o => o.value === "scan")`, true)
	p.acts([]hosted{
		{"restart", "Reset the real board", "It was reset"}, {"light", "Switch the real light off and on", "It was off for a second"},
		{"slowly", "Run it slowly on the real glass", "Sent"}, {"text", "Send it to the real glass", "Sent"},
	})
	p.do(chromedp.SetValue(`[aria-label="Next test"] select`, "scan"))
	p.do(chromedp.Click(`//section[@aria-label="Next test"]//button[.="Scan the real bus"]`))
	p.do(chromedp.WaitVisible(`[aria-label="Take back: Scan the bus"]`)) // its answer is taken by itself
	p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.Focus(fault))
	p.choose("Fault of the stand-in’s Gate board", "")
	answers(p, `fetch('/api/table/glass/0').then(r => r.json()).then(g => String(g.text[0].trim() !== ''))`, "true")
	p.keys(kb.Escape)
	p.do(chromedp.Click(`//button[.="Begin again"]`))
	p.do(chromedp.Click(`//button[.="More than was sent"]`))
	p.acts([]hosted{{"rom", "Show the chart on the real glass", "Sent"}})
	p.do(chromedp.Click(`//button[.="Begin again"]`), chromedp.Click(`//button[.="Rows missing or moved"]`))
	p.acts([]hosted{{"oscillator", "Let the real cursor blink", "It blinks"}})
	p.do(chromedp.Click(`//section[@aria-label="Next test"]//button[.="Time its busy flag"]`))
	p.do(chromedp.WaitVisible(`[aria-label="Take back: Time the blinking cursor"]`)) // its answer is taken by itself
	p.do(chromedp.Navigate(server.URL+"/benches/1/gate/wiring"), chromedp.Click(`//button[@role="tab"][.="First light"]`))
	p.do(chromedp.Click(`//section[starts-with(@aria-label, "First light")]//button[.="Scan the real bus"]`))
	p.do(chromedp.WaitVisible(`//span[@role="status"][contains(., "It is there.")]`))
	p.do(chromedp.Focus(`//button[.="Begin it on the real glass"]`))
	p.keys(kb.Enter)
	answers(p, shown, "QUILLFISH  GATE")
}

// TestLiveTyping types straight on the stand-in's glass, as the controller takes it: after the end of its first line the characters go on
// in memory that is not seen. It goes there by Tab, and by pointer.
func TestLiveTyping(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/run")
	p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.Click(`[aria-label="Connect stand-in"]`))
	p.do(chromedp.WaitVisible(`//div[@id="live"]//p[@role="status"][contains(., "The bridge of an ATmega328P is there")]`))
	p.keys(kb.Escape)
	shown := `fetch('/api/table/glass/0').then(r => r.json()).then(g => g.text.map(r => r.trimEnd()).join('|'))`
	answers(p, `fetch('/api/table/glass/0').then(r => r.json()).then(g => String(g.text[0].startsWith('QUILLFISH')))`, "true")
	p.do(chromedp.Focus(`[aria-label="Instruction or characters"]`))
	for range 3 { // what has no text to do yet is passed over
		p.keys(kb.Tab)
		if eval[bool](p, `document.activeElement.ariaLabel === 'Keys go straight to the controller'`) {
			break
		}
	}
	p.keys(kb.Delete)
	p.keys("Oarx")
	p.keys(kb.Backspace)
	p.keys("s up")
	answers(p, shown, "Oars up|")
	p.keys(kb.Home)
	p.keys(kb.ArrowRight)
	p.keys("A")
	answers(p, shown, "OArs up|")
	p.keys(kb.Escape)
	until(p, `document.activeElement.ariaLabel !== 'Keys go straight to the controller'`, true)
	p.do(chromedp.Click(`[aria-label="Keys go straight to the controller"]`))
	p.keys(kb.Home)
	p.keys("0123456789abcdefghij")
	answers(p, shown, "0123456789abcdef|") // the rest lies beyond the window
}

// TestLivePractice builds a hidden fault into the stand-in, tests it there by its own host, and has it taken out again as the round ends.
func TestLivePractice(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/faults")
	p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.Click(`[aria-label="Connect stand-in"]`))
	well := `fetch('/api/table/glass/0').then(r => r.json()).then(g => String(g.text[0].startsWith('QUILLFISH')))`
	answers(p, well, "true")
	p.keys(kb.Escape)
	p.do(chromedp.Click(`//button[@role="tab"][.="Practise"]`))
	p.do(chromedp.WaitVisible(`//label[contains(., "built into the stand-in")]`))
	p.do(chromedp.Click(`//label[starts-with(., "Nothing to be read")]`), chromedp.Click(`//label[.="Bus"]`)) // by one of the bus the text never arrives
	p.do(chromedp.Click(`//button[.="Hide a fault"]`))
	p.do(chromedp.WaitVisible(`canvas[aria-label^="The stand-in"]`))
	answers(p, well, "false")
	p.do(chromedp.Focus(`//section[@aria-label="What you can do"]//button[contains(., "Run it slowly")]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(`//section[@aria-label="What you know"]//li[contains(., "Run it slowly")]`))
	p.do(chromedp.Click(`//section[@aria-label="What you can do"]//button[contains(., "Scan the bus")]`))
	p.do(chromedp.WaitVisible(`//section[@aria-label="What you know"]//li[contains(., "Scan the bus")]`))
	p.do(chromedp.Click(`//button[.="Leave the round"]`))
	answers(p, well, "true")
}

// TestLivePort puts the bridge onto a board at a serial port, by keys, where a stand-in of avrdude takes it, and is connected to what is at
// that port then: the stand-in on a pseudo-terminal, opened as any serial port. An upload that fails says so.
func TestLivePort(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	dude, program := filepath.Join(dir, "avrdude"), filepath.Join(dir, "slatebell")
	script := func(name, text string) {
		if err := os.WriteFile(name, []byte("#!/bin/sh\n"+text+"\n"), 0o755); err != nil {
			t.Fatal(err)
		}
	}
	script(dude, "echo programmer is not responding >&2; exit 1")
	script(program, fmt.Sprintf("PATH=%s:$PATH exec %s \"$@\"", dir, binary))
	b := demo.Bench()
	host, err := standin.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	named := make(chan string, 1)
	go host.Terminal(t.Context(), func(name string) { named <- name })
	port := <-named
	server, err := harness.Serve(program, t.TempDir(), "", "--demo", "--port", port)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { server.Stop() })
	p := open(t, server.URL+"/benches/1/gate/screens")
	p.do(chromedp.Click(`[popovertarget="live"]`))
	put := fmt.Sprintf(`[aria-label="Put the bridge onto %s"]`, port)
	p.do(chromedp.WaitVisible(put), chromedp.Focus(put))
	p.keys(kb.Enter)
	p.do(chromedp.Click(`//div[@id="live"]//button[.="Build and upload"]`))
	p.do(chromedp.WaitVisible(`//div[@id="live"]//pre[contains(., "programmer is not responding")]`))
	script(dude, fmt.Sprintf("echo \"$@\" > %s/sent", dir))
	p.choose("Its loader listens at", "57600")
	p.do(chromedp.Focus(`//div[@id="live"]//button[.="Build and upload"]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(`//div[@id="live"]//p[@role="status"][contains(., "The bridge of an ATmega328P is there")]`))
	until(p, `[...document.querySelectorAll('#live li')].every(li => li.innerText.includes('shows what is composed'))`, true)
	if sent, err := os.ReadFile(filepath.Join(dir, "sent")); err != nil || !strings.Contains(string(sent), "-P "+port+" -b 57600") {
		t.Errorf("avrdude was called with %q (%v)", sent, err)
	}
}
