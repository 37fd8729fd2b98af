package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
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
	p.do(chromedp.WaitVisible(`//div[@id="live"]//p[@role="status"][contains(., "It holds what was sent")]`))

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
	p.do(chromedp.SetValue(`[aria-label="Next test"] select`, "scan"))
	p.do(chromedp.Click(`//section[@aria-label="Next test"]//button[.="Scan the real bus"]`))
	p.do(chromedp.WaitVisible(`[aria-label="Take back: Scan the bus"]`)) // its answer is taken by itself
	p.do(chromedp.Click(`[popovertarget="live"]`), chromedp.Focus(fault))
	p.choose("Fault of the stand-in’s Gate board", "")
	answers(p, `fetch('/api/table/glass/0').then(r => r.json()).then(g => String(g.text[0].trim() !== ''))`, "true")
	p.keys(kb.Escape)
	p.do(chromedp.Navigate(server.URL+"/benches/1/gate/wiring"), chromedp.Click(`//button[@role="tab"][.="First light"]`))
	p.do(chromedp.Click(`//section[starts-with(@aria-label, "First light")]//button[.="Scan the real bus"]`))
	p.do(chromedp.WaitVisible(`//span[@role="status"][contains(., "It is there.")]`))
	p.do(chromedp.Focus(`//button[.="Begin it on the real glass"]`))
	p.keys(kb.Enter)
	answers(p, shown, "QUILLFISH  GATE")
}
