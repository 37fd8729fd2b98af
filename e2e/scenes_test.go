package e2e

import (
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/bench"
	"slatebell/core/table/breadboard"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
)

// staged is the text on the glass that plays the show.
const staged = `JSON.parse(document.querySelector('figure canvas').dataset.rows).map(r => r.trimEnd()).join("/")`

// onScenes opens the scenes of a bench's gate board.
func onScenes(t *testing.T, b bench.Bench) *page {
	t.Helper()
	server := serve(t)
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/gate/scenes", server.URL, id))
	p.do(chromedp.WaitVisible(`[aria-label="Inputs"]`))
	return p
}

// cap presses a cap by the mouse and lets it go.
func (p *page) cap(name string) {
	p.t.Helper()
	p.do(chromedp.Click(fmt.Sprintf(`[aria-label="Press %s"]`, name)))
}

// option chooses of a list that is found by its label.
func (p *page) option(label, text string) {
	p.t.Helper()
	until(p, fmt.Sprintf(`(() => {
		const of = [...document.querySelectorAll("select")].find(s => (s.ariaLabel ?? s.labels?.[0]?.textContent) === %q);
		const o = [...of.options].find(o => o.textContent.trim() === %q);
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(of, o.value);
		of.dispatchEvent(new Event("change", {bubbles: true}));
		return true;
	})()`, label, text), true)
}

// TestScenesMade makes a show from nothing, keyboard first: all screens in turn, a button that
// leads to the other one at once, played; a time is changed on the time line, an end taken away on
// the map, and what was done is undone.
func TestScenesMade(t *testing.T) {
	t.Parallel()
	p := onScenes(t, tides())
	until(p, bodyText+`.includes("What is shown when?")`, true)
	p.do(chromedp.Focus(`//button[contains(., "Turn over all 2 screens")]`))
	p.keys(kb.Enter)
	until(p, `[...document.querySelectorAll("[data-scene]")].map(e => e.dataset.scene).join()`, "rising,ebbing")
	until(p, staged, "Tide rising/High water 14:05")

	p.clickText("New input…")
	p.do(chromedp.WaitVisible(`[role=menuitem]`))
	p.do(chromedp.Click(`//li[@role="menuitem"][.="Button"]`))
	p.do(chromedp.WaitVisible(`[aria-label="Press Button"]`), chromedp.Click(`[data-scene="rising"]`))
	p.clickText("New end")
	p.do(chromedp.WaitVisible(`//li[2]//select[@aria-label="What ends it"]`))
	until(p, `(() => { const s = document.querySelectorAll('select[aria-label="What ends it"]')[1]; s.value = "button"; s.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`, true)
	until(p, `[...document.querySelectorAll('[aria-label^="Rising ends in Ebbing"]')].map(e => e.textContent).join()`, "4 s,Button")

	// played by the keys: the button toggles at once, the time does so later
	p.keys(kb.F8)
	until(p, `+document.querySelector('[aria-label="Time of the show"]').dataset.ms > 300`, true)
	p.do(chromedp.Focus(`[aria-label="Press Button"]`))
	p.keys(" ")
	until(p, staged, "Tide/Low 20:21")
	if at := eval[float64](p, `+document.querySelector('[aria-label="Time of the show"]').dataset.ms`); at > 3900 {
		t.Errorf("the button was seen after %v ms", at)
	}
	until(p, staged, "Tide rising/High water 14:05")
	p.keys(kb.F8)
	until(p, `document.querySelector('[aria-label="Play"]') !== null`, true)

	// on the time line: half a second more by keys, undone
	p.do(chromedp.Click(`[aria-label="Begin anew"]`))
	until(p, `document.querySelector('[aria-label="Time of the show"]').dataset.ms`, "1")
	until(p, `document.querySelector('[aria-label="Time of Rising"]').ariaValueNow`, "4000")
	p.do(chromedp.Focus(`[aria-label="Time of Rising"]`))
	p.keys(kb.ArrowUp)
	until(p, `document.querySelector('[aria-label="Time of Rising"]').ariaValueNow`, "5000")
	until(p, `document.querySelector('[aria-label^="Rising ends in Ebbing"]').textContent`, "5 s")
	p.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	until(p, `document.querySelector('[aria-label^="Rising ends in Ebbing"]').textContent`, "4 s")

	// on the map: along by arrow keys, an end taken away leaves a scene that never ends
	p.do(chromedp.Focus(`[data-scene="rising"]`))
	p.keys(kb.ArrowRight)
	until(p, `document.activeElement.dataset.scene`, "ebbing")
	p.do(chromedp.Click(`[aria-label^="Ebbing ends in Rising"]`))
	p.keys(kb.Delete)
	until(p, `document.querySelector('[aria-label^="Ebbing ends in Rising"]') === null`, true)
	p.do(chromedp.Click(`//button[@role="tab"][.="Findings"]`))
	until(p, `[...document.querySelectorAll('[aria-label="Findings: the show"] li')].map(x => x.dataset.code).join()`, "show.dead-end")

	// a line drawn from its knob to the other joins them again
	from := eval[[]float64](p, `(() => { const k = document.querySelector('[data-scene="ebbing"]').parentElement.querySelector("[title^=Draw]").getBoundingClientRect(); return [k.x + k.width / 2, k.y + k.height / 2]; })()`)
	to := eval[[]float64](p, `(() => { const k = document.querySelector('[data-scene="rising"]').getBoundingClientRect(); return [k.x + 30, k.y + 30]; })()`)
	p.stroke(from[0], from[1], to[0], to[1], false)
	until(p, `document.querySelector('[aria-label^="Ebbing ends in Rising"]')?.textContent`, "2 s")
}

// TestWalks lets the character under the cursor walk, then a slot by its code, then a drawing
// of the library, which is picked by its looks.
func TestWalks(t *testing.T) {
	t.Parallel()
	b := tides()
	b.Glyphs = glyph.Library{{Key: 3, Name: "Oar", Rows: []int{4, 4, 4, 4, 4, 14, 14, 4}}}
	gate := &b.Modules[0]
	gate.Glyphs = []glyph.Glyph{{Slot: 7, Name: "Bell", Rows: []int{4, 14, 14, 14, 31, 0, 4, 0}}}
	gate.Screens = []bench.Screen{{ID: "up", Name: "Rising", Rows: []string{"", "High water 14:05"}, Cursor: screen.Cursor{Kind: "line", Row: 1, Col: 5}}}
	gate.Show = bench.Show{Scenes: []bench.Scene{{ID: "rising", Name: "Rising", Screen: "up"}}}
	server := serve(t)
	id := storeBench(t, server, b)
	p := open(t, fmt.Sprintf("%s/benches/%d/gate/scenes", server.URL, id))
	p.do(chromedp.WaitVisible(`[data-scene="rising"]`), chromedp.Click(`[data-scene="rising"]`))
	p.option("Effect", "characters walk along a row")
	walks := `[...document.querySelectorAll("label")].find(l => l.textContent === "What walks")?.control`
	until(p, walks+`.value`, "w")
	until(p, bodyText+`.includes("/modules/")`, false)
	until(p, staged, "/wigh water 14:05")
	eval[any](p, walks+`.focus()`)
	eval[any](p, walks+`.select()`)
	p.keys(kb.Delete + kb.Enter)
	until(p, bodyText+`.includes("Say what walks: a character, or a few.")`, true)
	p.keys(`\x07` + kb.Enter)
	until(p, walks+`.value`, `\x07`)
	p.settle()
	effect := func() bench.Effect {
		return stored(t, server, int(id)).Modules[0].Show.Scenes[0].Effect
	}
	if got := effect(); got.Text != "\ue007" || got.Row != 1 {
		t.Errorf("a slot walks: %+q in row %d", got.Text, got.Row)
	}
	p.do(chromedp.Focus(`[aria-label="A drawing of the library walks"] [aria-label="Oar"]`))
	p.keys(kb.Enter)
	until(p, walks+`.value`, "{Oar}")
	p.settle()
	if got := effect(); got.Text != "\ue103" {
		t.Errorf("a drawing walks: %+q in row %d", got.Text, got.Row)
	}
}

// TestBlinkOnGlass measures a text that is on for 1 s and off for 0.5 s on the pixels of the
// glass, over several turns.
func TestBlinkOnGlass(t *testing.T) {
	b := tides()
	b.Modules[0].Show = bench.Show{Scenes: []bench.Scene{
		{ID: "on", Screen: "up", Ends: []bench.End{{AfterMs: 1000, Next: "off"}}},
		{ID: "off", Screen: "up", Off: true, Ends: []bench.End{{AfterMs: 500, Next: "on"}}},
	}}
	p := onScenes(t, b)
	until(p, staged, "Tide rising/High water 14:05")
	p.do(chromedp.Click(`[aria-label="Play"]`))
	spans := eval[[]float64](p, `new Promise(done => {
		const canvas = document.querySelector("figure canvas"), spans = [];
		let before, since;
		const look = () => {
			const data = canvas.getContext("2d").getImageData(0, 0, canvas.width, canvas.height).data;
			let sum = 0;
			for (let i = 0; i < data.length; i += 4) sum += data[i];
			const now = performance.now();
			if (before !== undefined && Math.abs(sum - before) > 1000) {
				if (since !== undefined) spans.push(now - since);
				since = now;
			}
			before = sum;
			if (spans.length < 8) requestAnimationFrame(look); else done(spans);
		};
		look();
	})`)
	var short, long []float64
	for _, s := range spans {
		if s < 750 {
			short = append(short, s)
		} else {
			long = append(long, s)
		}
	}
	slices.Sort(short)
	slices.Sort(long)
	if len(short) != 4 || len(long) != 4 {
		t.Fatalf("%.0f ms", spans)
	}
	off, on := (short[1]+short[2])/2, (long[1]+long[2])/2 // a browser's frame may come late
	if math.Abs(off-500) > 120 || math.Abs(on-1000) > 120 {
		t.Errorf("off for %.0f ms, on for %.0f ms: %.0f", off, on, spans)
	}
}

// TestInputs works every input by hand: a counter that wraps, a message that arrives letter by
// letter, a meter that follows a reading, and what happened is kept as a file and happens again.
func TestInputs(t *testing.T) {
	t.Parallel()
	b := tides()
	m := &b.Modules[0]
	m.Screens = []bench.Screen{{ID: "all", Rows: []string{"", ""}, Fields: []field.Field{
		{Name: "Boat", Width: 6, Kind: field.Choice, Values: []string{"Heron", "Otter", "Teal"}},
		{Name: "Level", Col: 7, Width: 9, Kind: field.Bar, Range: field.Range{Max: 900}},
		{Name: "Message", Row: 1, Width: 16, Kind: field.Free, Look: field.Look{TooLong: "scroll"}},
	}}}
	m.Show = bench.Show{
		Scenes: []bench.Scene{{ID: "all", Screen: "all"}},
		Inputs: []bench.Input{
			{ID: "next", Name: "Next", Kind: "button"},
			{ID: "boats", Name: "Boats", Kind: "counter", Counter: bench.Counter{Words: []string{"Heron", "Otter", "Teal"}, Up: "next"}},
			{ID: "wind", Name: "Wind", Kind: "signal", Signal: bench.Sensor{Meter: bench.Meter{Reads: "linear", FallMs: 500}}},
			{ID: "radio", Name: "Radio", Kind: "serial", Serial: bench.Serial{Baud: 300, AsItComes: true}},
		},
		Feeds: []bench.Feed{{Field: "Boat", Input: "boats"}, {Field: "Level", Input: "wind"}, {Field: "Message", Input: "radio"}},
	}
	p := onScenes(t, b)
	until(p, staged+`.startsWith("Heron")`, true)
	p.do(chromedp.Click(`[aria-label="Play"]`))
	for _, want := range []string{"Otter", "Teal", "Heron", "Otter"} {
		p.cap("Next")
		until(p, fmt.Sprintf(`%s.startsWith(%q)`, staged, want), true)
	}
	p.do(chromedp.Click(`[aria-label="Boats back"]`))
	until(p, staged+`.startsWith("Heron")`, true)

	// 300 baud: a letter each 33 ms
	p.do(chromedp.Click(`[aria-label="Send over Radio"]`))
	p.keys("Otter passes the weir" + kb.Enter)
	half := ""
	until(p, `(() => { const row = `+staged+`.split("/")[1] ?? ""; return row.startsWith("Ott") && row.length < 16; })()`, true)
	if half = eval[string](p, staged); strings.Contains(half, "weir") {
		t.Errorf("the message is there at once: %s", half)
	}
	until(p, staged+`.split("/")[1]`, " passes the weir")

	// a reading fills the bar, and what falls takes its time
	p.do(chromedp.Focus(`[aria-label="Value of Wind"]`))
	p.keys(kb.End)
	full := `JSON.parse(document.querySelector('figure canvas').dataset.rows)[0].slice(7).split("█").length - 1`
	until(p, full, 9)
	p.keys(kb.Home)
	until(p, full+` < 8`, true)
	const before = "Heron/ passes the weir"
	until(p, staged, before)
	p.do(chromedp.Click(`[aria-label="Pause"]`))

	downloads := p.downloads()
	p.clickText("Keep events")
	text := string(downloaded(t, filepath.Join(downloads, "gate-events.csv")))
	if !strings.HasPrefix(text, "time_ms,input,value\r\n") || strings.Count(text, ",next,1\r\n") != 4 || !strings.Contains(text, `,radio,Otter passes the weir\n`) {
		t.Errorf("%q", text)
	}
	p.clickText("Once more")
	until(p, `document.querySelector('[aria-label="Time of the show"]').dataset.ms`, "1")
	until(p, staged+`.startsWith("Heron")`, true)
	p.option("Speed", "20 times faster")
	p.do(chromedp.Click(`[aria-label="Play"]`))
	until(p, staged, before)

	wrong := filepath.Join(t.TempDir(), "wrong.csv")
	if err := os.WriteFile(wrong, []byte("time_ms,input,value\n5,bell,press\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{wrong}))
	until(p, bodyText+`.includes('wrong.csv: line 2: there is no input "bell"; expected one of next, boats, wind, radio')`, true)
}

// TestStickOnDevice edits a number to its limits by the keyboard, by touch and by the mouse, and
// accepts it.
func TestStickOnDevice(t *testing.T) {
	b := tides()
	m := &b.Modules[0]
	m.Screens = []bench.Screen{
		{ID: "set", Rows: []string{"Alarm at       m"}, Fields: []field.Field{{Name: "Alarm", Col: 10, Width: 4, Kind: field.Number, Range: field.Range{Min: 0.5, Max: 12}, Digits: field.Digits{Decimals: 1}, Sample: "9.8"}}},
		{ID: "kept", Rows: []string{"Kept"}, Fields: []field.Field{{Name: "Alarm", Col: 10, Width: 4, Kind: field.Number, Range: field.Range{Min: 0.5, Max: 12}, Digits: field.Digits{Decimals: 1}, Sample: "9.8"}}},
	}
	var keys []bench.Key
	for _, does := range []string{"left", "right", "up", "down", "accept"} {
		m.Show.Inputs = append(m.Show.Inputs, bench.Input{ID: does, Kind: "button"})
		keys = append(keys, bench.Key{Does: does, Input: does})
	}
	m.Show.Scenes = []bench.Scene{{ID: "set", Screen: "set", Edit: bench.Edit{Field: "Alarm", Mark: bench.EditMark{Code: '_'}, Keys: keys}, Ends: []bench.End{{On: "accept", Next: "kept"}}}, {ID: "kept", Screen: "kept"}}
	p := onScenes(t, b)
	until(p, staged, "Alarm at   9.8 m/")
	p.do(chromedp.Click(`[aria-label="Play"]`))
	until(p, staged, "Alarm at  _9.8 m/") // the mark blinks on the tens
	value := `document.querySelector("figcaption").textContent.split("is ")[1]`
	stroke := func(name string) {
		p.do(chromedp.Focus(fmt.Sprintf(`[aria-label="Press %s"]`, name)))
		p.keys(" ")
	}
	stroke("up")
	until(p, value, "12.0") // 19.8 is beyond the limit
	stroke("up")
	stroke("right")
	stroke("down")
	until(p, value, "11.0")

	// by touch, held: it goes on to the lower limit and not beyond
	at := eval[[]float64](p, `(() => { const k = document.querySelector('[aria-label="Press down"]').getBoundingClientRect(); return [k.x + k.width / 2, k.y + k.height / 2]; })()`)
	p.touch(input.DispatchTouchEventTypeTouchStart, &input.TouchPoint{X: at[0], Y: at[1]})
	until(p, value, "0.5")
	time.Sleep(300 * time.Millisecond)
	p.touch(input.DispatchTouchEventTypeTouchEnd)
	until(p, value, "0.5")

	p.cap("right")
	p.cap("right") // beyond the last place there is none
	p.cap("up")
	until(p, value, "0.6")
	p.cap("accept")
	until(p, staged, "Kept       0.6/")
}

// TestCharactersOfROM edits free text of all characters of ASCII, then of all that the ROM shows,
// chosen by pointer and by key.
func TestCharactersOfROM(t *testing.T) {
	t.Parallel()
	b := tides()
	m := &b.Modules[0]
	m.Screens = []bench.Screen{{ID: "set", Rows: []string{"Boat"}, Fields: []field.Field{{Name: "Boat", Col: 6, Width: 3, Kind: field.Free, Sample: ""}}}}
	m.Show.Inputs = []bench.Input{{ID: "down", Kind: "button"}}
	m.Show.Scenes = []bench.Scene{{ID: "set", Screen: "set", Edit: bench.Edit{Field: "Boat", Mark: bench.EditMark{Code: '_'}, Keys: []bench.Key{{Does: "down", Input: "down"}}}}}
	p := onScenes(t, b)
	last := func(want string) {
		t.Helper()
		p.do(chromedp.Click(`[aria-label="Play"]`))
		p.cap("down") // before the space comes the last of the list
		until(p, `document.querySelector("figcaption").textContent.split("is ")[1]?.trim()`, want)
		p.do(chromedp.Click(`[aria-label="Pause"]`), chromedp.Click(`[aria-label="Begin anew"]`))
	}
	p.choose("A cell takes", "ascii")
	last("}")
	p.do(chromedp.Focus(`//label[.="A cell takes"]/following::select[1]`))
	p.keys(kb.ArrowDown)
	last("█")
}

// TestButtonAsWired plays a button whose wire is missing on the board: pressed by pointer and key it does nothing,
// and the page says why; with the wire back it does. The finder asks for the press, and finds the wire.
func TestButtonAsWired(t *testing.T) {
	t.Parallel()
	server := serve(t)
	b := bench.New("Slip")
	m := &b.Modules[0]
	m.ID, m.Name, m.Link.Kind = "gate", "Gate", "backpack"
	m.Screens = []bench.Screen{{ID: "day", Name: "Day", Rows: []string{"Slip open"}}, {ID: "night", Name: "Night", Rows: []string{"Slip closed"}}}
	m.Show.Inputs = []bench.Input{{ID: "bell", Name: "Bell", Kind: "button", Pin: "D2"}}
	m.Show.Scenes = []bench.Scene{{ID: "day", Screen: "day", Ends: []bench.End{{Input: "bell", Next: "night"}}}, {ID: "night", Screen: "night", Ends: []bench.End{{Input: "bell", Next: "day"}}}}
	var err error
	if b.Wiring, err = breadboard.Plan(&b); err != nil {
		t.Fatal(err)
	}
	sound := storeBench(t, server, b)
	b.Wiring.Wires = slices.DeleteFunc(slices.Clone(b.Wiring.Wires), func(w bench.Wire) bool { return w.From == "host/D2" || w.To == "host/D2" })
	half := storeBench(t, server, b)

	const says = `document.querySelector('[aria-label="Inputs"]').innerText.includes("never read as pressed: pin D2 does not change")`
	p := open(t, fmt.Sprintf("%s/benches/%d/gate/scenes", server.URL, half))
	until(p, says, true)
	p.keys(kb.F8)
	p.cap("Bell")
	p.do(chromedp.Focus(`[aria-label="Press Bell"]`))
	p.keys(" ")
	since := eval[float64](p, `+document.querySelector('[aria-label="Time of the show"]').dataset.ms`)
	until(p, fmt.Sprintf(`+document.querySelector('[aria-label="Time of the show"]').dataset.ms > %f`, since+400), true)
	until(p, staged, "Slip open/")

	p.do(chromedp.Click(`a[aria-label^="Faults"]`), chromedp.WaitVisible(`//button[.="As it ought to be"]`), chromedp.Click(`//button[.="As it ought to be"]`))
	until(p, `document.querySelector('[data-cause="sound"]') !== null && parseInt(document.querySelector('[data-cause="sound"]').innerText) > 20`, true) // it was the likeliest before too
	other := func(test string) {
		until(p, fmt.Sprintf(`(() => {
			const of = document.querySelector('[aria-label="Next test"] select');
			if (![...of.options].some(o => o.value === %q)) return false;
			Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(of, %[1]q);
			of.dispatchEvent(new Event("change", {bubbles: true}));
			return true;
		})()`, test), true)
	}
	other("use:bell")
	until(p, `document.querySelector('[aria-label="Next test"] h2').innerText.includes("press “Bell”")`, true)
	shows := func(says string) { // an outcome that is not among the first is asked for
		until(p, fmt.Sprintf(`(() => {
			const test = document.querySelector('[aria-label="Next test"]');
			const found = [...test.querySelectorAll("[data-says]")].find(e => e.dataset.says.startsWith(%q));
			if (!found) [...test.querySelectorAll("button")].find(e => e.innerText.startsWith("I see something else"))?.click();
			found?.focus();
			return found !== undefined && document.activeElement === found;
		})()`, says), true)
	}
	shows("as it ought to be") // the first scene still
	p.keys(kb.Enter)
	until(p, `document.querySelector('[data-cause]').dataset.cause.startsWith("input.")`, true)
	other("joint:bell")
	shows("The wire at 1")
	p.keys(kb.Enter)
	until(p, firstCause, "input.open:1,Bell")

	p = open(t, fmt.Sprintf("%s/benches/%d/gate/scenes", server.URL, sound))
	until(p, staged, "Slip open/")
	if eval[bool](p, says) {
		t.Error("a button that is wired is said to be never read")
	}
	p.keys(kb.F8)
	p.cap("Bell")
	until(p, staged, "Slip closed/")
	p.do(chromedp.Focus(`[aria-label="Press Bell"]`))
	p.keys(" ")
	until(p, staged, "Slip open/")
}

// TestNumberField types numbers as people do: with a comma, by arrow keys, out of the limits, and none at all;
// what cannot be taken stays with the reason, and Escape brings back what was there.
func TestNumberField(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/slip/scenes")
	const field = `//label[.="after, s"]/following-sibling::*/input`
	const value = `[...document.querySelectorAll("label")].find((l) => l.textContent === "after, s").control.value`
	const why = `[...document.querySelectorAll("label")].find((l) => l.textContent === "after, s").parentElement.querySelector("[role=alert]")?.innerText ?? ""`
	p.do(chromedp.WaitVisible(field), chromedp.Focus(field))
	until(p, value, "6")
	p.keys(kb.ArrowUp)
	until(p, value, "7")
	p.keys(kb.ArrowDown, chromedp.KeyModifiers(8)) // Shift
	until(p, value, "0.001")                       // ten less is below the least
	enter := func(text string) {
		eval[any](p, `document.activeElement.select()`)
		p.keys(text + kb.Enter)
	}
	enter("2,5")
	until(p, value, "2.5")
	enter("90000")
	until(p, why, "“90000”; expected a number from 0.001 to 86400")
	until(p, value, "90000")
	enter("soon")
	until(p, why, "“soon”; expected a number from 0.001 to 86400")
	p.keys(kb.Escape)
	until(p, value, "2.5")
	until(p, why, "")
	until(p, `[...document.querySelectorAll('[aria-label="Scenes"] button, button')].some((b) => b.innerText.trim() === "2.5 s") || document.body.innerText.includes("2.5 s")`, true)
}
