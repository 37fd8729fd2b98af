package e2e

import (
	"archive/zip"
	"bytes"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/prove/capture"
	"slatebell/core/prove/capture/capturetest"
	"slatebell/core/wire/link"
	"slatebell/formats/vcd"
)

// recordedFile is a recording of our program for a 20×4 on four data lines, with one pulse of E that is too short, at a time that it returns.
func recordedFile(t *testing.T) (name string, lines capture.Lines, short time.Duration) {
	t.Helper()
	m := capturetest.Of20x4(link.Parallel4)
	list, lines := capturetest.Recorded(t, rand.New(rand.NewPCG(27, 9)), &m, capturetest.Demo, 0)
	e := lines["E"]
	seen := 0
	for i := 1; i < len(list); i++ {
		if list[i-1].Levels&^list[i].Levels>>e&1 == 1 {
			if seen++; seen == 90 {
				for k := len(list) - 1; k >= i; k-- {
					list[k].At -= list[i].At - list[i-1].At - 100
				}
				short = list[i].At
				break
			}
		}
	}
	recorded := capture.Memory{Names: capturetest.Names(), List: list}
	var out bytes.Buffer
	if err := vcd.WriteSource(&out, recorded.Source()); err != nil {
		t.Fatal(err)
	}
	name = filepath.Join(t.TempDir(), "start.vcd")
	if err := os.WriteFile(name, out.Bytes(), 0o644); err != nil {
		t.Fatal(err)
	}
	return name, lines, short
}

// What the page says of a recording.
const (
	lanes     = `[role=slider][aria-label="Time of the recording"]`
	timeSeen  = `document.querySelector('` + lanes + `').ariaValueNow`
	recGlass  = `JSON.stringify(JSON.parse(document.querySelector('figure canvas').dataset.rows).map(r => r.trimEnd()))`
	dropHere  = `[aria-label="A recording"]`
	lineOf    = `document.querySelector('select[aria-label="Line of D%d"]').value`
	recordedF = `[...document.querySelectorAll('[aria-label="Findings: the recording"] li')].map(x => x.dataset.code).join(' ')`
)

func rowsOf(rows ...string) string {
	return fmt.Sprintf("[%q,%q,%q,%q]", rows[0], rows[1], rows[2], rows[3])
}

// TestRecording drops a recording, finds its lines, goes through it by pointer and keys, jumps to a broken limit, measures, searches, takes it over as
// a bench, and saves it.
func TestRecording(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/recording")
	name, lines, short := recordedFile(t)
	p.dropFile(dropHere, name)
	p.do(chromedp.WaitVisible(lanes))
	for role, channel := range lines {
		until(p, fmt.Sprintf(lineOf, channel), string(role))
	}
	until(p, recordedF, "timing.pw-eh capture.cheaper")

	// It was played into the bench's 16×2; it is likelier a 20×4.
	p.do(chromedp.Click(`//button[contains(., "More likely a 20x4")]`))
	until(p, recGlass, rowsOf(capturetest.Demo...))

	// To the broken limit, by key and by the finding's button.
	p.do(chromedp.Focus(lanes))
	p.keys(kb.Home)
	until(p, timeSeen, "0")
	p.keys("v")
	until(p, timeSeen, fmt.Sprint(short.Nanoseconds()))
	until(p, recGlass+`.includes("Tide") && !`+recGlass+`.includes("Boats")`, true)
	p.keys("V", chromedp.KeyModifiers(kb.ModifierShift))
	until(p, timeSeen, fmt.Sprint(short.Nanoseconds())) // round the end, to the only one
	p.keys(kb.End)
	until(p, recGlass, rowsOf(capturetest.Demo...))
	p.do(chromedp.Click(`//button[starts-with(., "Go to ")]`))
	until(p, timeSeen, fmt.Sprint(short.Nanoseconds()))
	p.do(chromedp.Click(`//button[.="To the broken limit"]`))
	until(p, timeSeen, fmt.Sprint(short.Nanoseconds()))

	// Steps along operations, and edges; the list follows.
	p.do(chromedp.Click(`//button[@role="tab"][.="Operations"]`), chromedp.Focus(lanes))
	p.keys(kb.ArrowRight)
	until(p, `document.querySelector('[aria-label=Operations] [data-current]')?.innerText.includes("Write data") && +`+timeSeen+` > `+fmt.Sprint(short.Nanoseconds()), true)
	at := eval[string](p, timeSeen)
	p.do(chromedp.Click(`button[aria-label="Step back"]`))
	until(p, timeSeen, fmt.Sprint(short.Nanoseconds()))
	p.do(chromedp.Click(`button[aria-label="Step"]`))
	until(p, timeSeen, at)
	p.do(chromedp.Focus(lanes))
	p.keys(kb.ArrowRight, chromedp.KeyModifiers(kb.ModifierShift))
	until(p, fmt.Sprintf(`+%s > %s && +%s < %s + 1e6`, timeSeen, at, timeSeen, at), true)
	p.do(chromedp.Click(`(//div[@aria-label="Operations"]//button)[3]`))
	until(p, fmt.Sprintf(`+%s < %s`, timeSeen, at), true)

	p.do(chromedp.Focus(`[aria-label=Operations] [data-current]`))
	at = eval[string](p, timeSeen)
	p.keys(kb.ArrowDown)
	until(p, fmt.Sprintf(`+%s > %s && document.activeElement.hasAttribute("data-current")`, timeSeen, at), true)
	p.keys(kb.ArrowUp)
	until(p, timeSeen, at)

	// Search: text, byte, address; a wrong one is said, and kept.
	p.do(chromedp.Click(`button[aria-label="Look before"]`))
	until(p, `document.querySelector("#recording-found").innerText.startsWith("no text")`, true)
	p.do(chromedp.Focus(lanes))
	p.keys(kb.Home)
	p.do(chromedp.Focus(`input[aria-label="Look for"]`))
	p.keys("Wind" + kb.Enter)
	until(p, `document.querySelector("figure figcaption small").innerText`, "Write data: 0x57, 'W'")
	p.choose("What is looked for", "address")
	p.do(chromedp.Focus(`input[aria-label="Look for"]`))
	p.keys(strings.Repeat(kb.Backspace, 4) + "0x54")
	p.do(chromedp.Click(`button[aria-label="Look after"]`))
	until(p, `document.querySelector("figure figcaption small").innerText`, "Set DDRAM address: 0x54")
	p.choose("What is looked for", "byte")
	p.do(chromedp.Focus(`input[aria-label="Look for"]`))
	p.keys(strings.Repeat(kb.Backspace, 4) + "0x01")
	p.keys(kb.Enter, chromedp.KeyModifiers(kb.ModifierShift))
	until(p, `document.querySelector("figure figcaption small").innerText`, "Clear display")

	// Zoom by keys, buttons and wheel; marks by keys and buttons, one dragged; all of it again.
	p.do(chromedp.Focus(lanes))
	p.keys("a")
	at = eval[string](p, timeSeen)
	p.keys(kb.ArrowRight)
	until(p, timeSeen+` !== `+fmt.Sprintf("%q", at), true)
	p.keys("b")
	apart := `(document.querySelector('[role=toolbar] [role=status]:not(#recording-found)')?.innerText ?? "")`
	until(p, apart+`.includes("apart")`, true)
	p.keys("0")
	for range 3 {
		p.keys("+")
	}
	before := eval[string](p, apart)
	until(p, `document.querySelectorAll('[data-mark]').length`, 2)
	x, y := p.at(`[data-mark=b]`)
	p.stroke(x, y, x+60, y, false)
	until(p, apart+` !== `+fmt.Sprintf("%q", before), true)
	x, y = p.at(lanes)
	tick := `document.querySelector('` + lanes + ` text').textContent`
	was := eval[string](p, tick)
	p.do(chromedp.MouseEvent(chromedp.MouseWheel, x, y, func(e *input.DispatchMouseEventParams) { e.DeltaX, e.DeltaY = 0.01, -400 }))
	until(p, tick+` !== `+fmt.Sprintf("%q", was), true)
	was = eval[string](p, tick)
	p.stroke(x, y, x-150, y, false) // along it
	until(p, tick+` !== `+fmt.Sprintf("%q", was), true)
	p.do(chromedp.Click(`button[aria-label="All of it"]`))
	until(p, tick, "0 ms")
	p.do(chromedp.Click(`button[aria-label="Take the marks off"]`), chromedp.Click(`button[aria-label="Look nearer"]`), chromedp.Click(`button[aria-label="Look from further away"]`))
	p.do(chromedp.Click(`button[aria-label="Mark A here"]`), chromedp.Click(`button[aria-label="Mark B here"]`))
	until(p, `document.querySelectorAll('[data-mark]').length`, 2)

	// A click looks at a time; the overview moves there; a screen that stood is gone to.
	p.do(chromedp.MouseEvent(chromedp.MousePressed, x-100, y, func(e *input.DispatchMouseEventParams) {
		e.Button, e.Buttons, e.ClickCount = input.MouseButtonLeft, 1, 1
	}))
	p.do(chromedp.MouseEvent(chromedp.MouseReleased, x-100, y, func(e *input.DispatchMouseEventParams) { e.Button, e.ClickCount = input.MouseButtonLeft, 1 }))
	until(p, recGlass, rowsOf("", "", "", ""))
	p.do(chromedp.Click(`[aria-label="Screens that stood on the glass"] button`))
	until(p, recGlass, rowsOf(capturetest.Demo...))
	x, y = p.at(`svg[aria-label^="The whole recording"]`)
	p.stroke(x, y, x-400, y, false)
	until(p, recGlass, rowsOf("", "", "", ""))

	// What a better program takes; what the module's memory holds; how the bench's own program differs.
	p.do(chromedp.Click(`//button[@role="tab"][.="Cheaper"]`), chromedp.WaitVisible(`[aria-label="What a better program takes"]`))
	p.do(chromedp.Click(`//button[@role="tab"][.="Memory"]`), chromedp.WaitVisible(`[aria-label="Memory"]`))
	p.do(chromedp.Click(`//button[@role="tab"][.="Bench"]`), chromedp.WaitVisible(`[aria-label="What explains the difference"] li`))
	until(p, `document.querySelector('[data-code="capture.other-link"]') !== null`, true)
	p.do(chromedp.Click(`//button[.="To the first difference"]`))

	// Somebody knows better: a channel is given another line, and back.
	channel := lines["RS"]
	p.choose(fmt.Sprintf("Line of D%d", channel), "")
	p.settle()
	p.choose(fmt.Sprintf("Line of D%d", lines["D4"]), "D5")
	until(p, fmt.Sprintf(lineOf, lines["D4"]), "D5")
	until(p, recGlass+` === `+fmt.Sprintf("%q", rowsOf(capturetest.Demo...)), false)
	p.choose(fmt.Sprintf("Line of D%d", lines["D4"]), "")
	until(p, fmt.Sprintf(lineOf, lines["D4"]), "D4")

	// Another view and back, and the page loaded anew: it is there again. Then it is saved.
	p.settle()
	p.do(chromedp.Reload(), chromedp.WaitVisible(lanes))
	until(p, recGlass, rowsOf(capturetest.Demo...))
	p.do(chromedp.Click(`//nav//a[contains(., "Run")]`), chromedp.WaitVisible(`[aria-label=Registers]`), chromedp.Click(`//nav//a[contains(., "Recording")]`), chromedp.WaitVisible(lanes))
	dir := p.downloads()
	for file, holds := range map[string]string{"operations.csv": "time_us,rs,rw,value,enable,meaning", "recording.vcd": "$timescale 1 ns", "recording.csv": "time [s],D0,D1", "recording.zip": "PK"} {
		p.do(chromedp.Click(`//button[.="Save as"]`), chromedp.Click(fmt.Sprintf(`a[href$=%q]`, file)))
		data := downloaded(t, filepath.Join(dir, file))
		if !strings.Contains(string(data), holds) {
			t.Errorf("%s does not hold %q: %.80q", file, holds, data)
		}
		p.keys(kb.Escape)
	}
	if z, err := zip.OpenReader(filepath.Join(dir, "recording.zip")); err != nil || len(z.File) < 3 {
		t.Errorf("the session: %v", err)
	}
	p.do(chromedp.Click(`//button[.="Take it over as a bench"]`))
	p.glass(20, slices.Clone(capturetest.Demo)...)
	until(p, `document.title.includes("Learnt from a recording")`, true)
}

// TestRecordingOwn records the module's own program with a mistake, and without; samples alone are asked how fast they were taken, and what is no
// recording is refused, both by keyboard.
func TestRecordingOwn(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/recording")
	p.choose("Its program", "wait.none")
	p.tabTo(`[aria-label="Its own program"] button`)
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(lanes))
	until(p, recordedF, "timing.while-busy capture.slow-oscillator capture.cheaper")
	p.tabTo(`[role=tab][aria-selected=true] ~ [role=tab]:last-of-type`)
	p.keys(kb.Enter)
	until(p, `[...document.querySelectorAll('[aria-label="What explains the difference"] li')].some(li => li.dataset.fault === "wait.none")`, true)
	until(p, `document.querySelector('nav a[aria-label^="Recording"]').ariaLabel`, "Recording: findings open")
	p.do(chromedp.Click(`//button[.="Another recording"]`))
	p.do(chromedp.WaitVisible(dropHere))
	until(p, `document.querySelector('nav a[aria-label^="Recording"]').ariaLabel`, "Recording: not started")

	dir := t.TempDir()
	write := func(name string, data []byte) string {
		t.Helper()
		name = filepath.Join(dir, name)
		if err := os.WriteFile(name, data, 0o644); err != nil {
			t.Fatal(err)
		}
		return name
	}
	p.dropFile(dropHere, write("nothing.vcd", []byte("$timescale 3 ns $end")))
	until(p, `document.querySelector('[aria-label="A recording"] [role=alert]')?.innerText.includes("the timescale is")`, true)
	p.dropFile(dropHere, write("still.csv", []byte("time,A,B\n0,0,1\n0.1,1,1\n")))
	until(p, `document.querySelector('header [role=alert]')?.innerText.includes("no channels are found")`, true)
	p.do(chromedp.Click(`//button[.="Another recording"]`))

	m := capturetest.Of20x4(link.Backpack)
	list, _ := capturetest.Recorded(t, rand.New(rand.NewPCG(27, 11)), &m, capturetest.Demo, time.Microsecond)
	var samples []byte
	for i, c := range list {
		end := c.At
		if i+1 < len(list) {
			end = list[i+1].At
		}
		for at := c.At; at < end; at += time.Microsecond {
			samples = append(samples, byte(c.Levels), byte(c.Levels>>8))
		}
	}
	p.dropFile(dropHere, write("samples.bin", samples))
	p.do(chromedp.WaitVisible(dropHere + ` form`))
	p.tabTo(dropHere + ` form input`)
	p.keys("a", chromedp.KeyModifiers(kb.ModifierCtrl))
	p.keys("1 MHz")
	p.choose("Channels", "16")
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(lanes), chromedp.Click(`//button[contains(., "More likely a 20x4")]`))
	until(p, recGlass, rowsOf(capturetest.Demo...))
}
