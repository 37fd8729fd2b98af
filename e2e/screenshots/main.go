// Command screenshots takes the pictures in docs/screenshots from the demo
// data: `make screenshots`.
package main

import (
	"context"
	"flag"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/e2e/harness"
)

// shot is one picture: a view in a theme, after some actions.
type shot struct {
	name          string
	path          string
	theme         string
	width, height int64
	do            []chromedp.Action[chromedp.Void]
}

var shots = []shot{
	{name: "shelf", path: "/benches", theme: "dark", do: []chromedp.Action[chromedp.Void]{
		chromedp.Click(`//button[normalize-space()="Copy"]`), chromedp.Sleep(300 * time.Millisecond),
		chromedp.Click(`//button[normalize-space()="Copy"]`), chromedp.Sleep(300 * time.Millisecond),
		chromedp.Click(`[aria-label="Put Quillfish Landing, copy, copy into the bin"]`),
	}},
	{name: "bench", path: "/benches/1/gate/bench", theme: "dark"},
	{name: "begin", path: "/benches/new", theme: "light", do: []chromedp.Action[chromedp.Void]{
		chromedp.Click(`[name=size]`), chromedp.KeyEvent(strings.Repeat(kb.ArrowDown, 6)), chromedp.Click(`[type=checkbox]`),
	}},
	{name: "wiring", path: "/benches/1/hall/wiring", theme: "dark"},
	{name: "wiring-light", path: "/benches/1/hall/wiring", theme: "dark", width: 1024, height: 768, do: []chromedp.Action[chromedp.Void]{
		chromedp.Click(`//button[@role="tab"][.="First light"]`), chromedp.Sleep(600 * time.Millisecond),
		chromedp.Click(`(//summary[.="I see something else"])[last()]`),
		chromedp.ScrollIntoView(`(//aside//ol/li)[last()]//ul`), chromedp.Sleep(600 * time.Millisecond),
	}},
	{name: "bus", path: "/benches/1/gate/bus", theme: "dark"},
	{name: "glyphs", path: "/benches/1/hall/glyphs", theme: "dark", do: []chromedp.Action[chromedp.Void]{
		chromedp.Click(`//summary[contains(., "face")]`),
	}},
	{name: "screens", path: "/benches/1/gate/screens", theme: "dark"},
	{name: "screens-changes", path: "/benches/1/gate/screens", theme: "dark", do: []chromedp.Action[chromedp.Void]{
		chromedp.Click(`[aria-label="Screen 3: Weather"]`), chromedp.Click(`//button[@role="tab"][.="Changes"]`), chromedp.Sleep(900 * time.Millisecond),
	}},
	{name: "scenes", path: "/benches/1/gate/scenes", theme: "dark", do: []chromedp.Action[chromedp.Void]{
		chromedp.Click(`[aria-label="Play"]`), chromedp.Sleep(6500 * time.Millisecond), chromedp.Click(`[aria-label="Press Bell rope"]`), chromedp.Sleep(1900 * time.Millisecond),
		chromedp.Click(`[aria-label="Pause"]`),
	}},
	{name: "module", path: "/benches/1/gate/module", theme: "dark", do: []chromedp.Action[chromedp.Void]{
		chromedp.SendKeys(`input[type=search]`, "arrow"),
	}},
	{name: "run", path: "/benches/1/gate/run", theme: "dark", do: []chromedp.Action[chromedp.Void]{
		chromedp.Focus(`[aria-label="Step of the run"]`),
		chromedp.KeyEvent(strings.Repeat(kb.ArrowLeft, 12)),
	}},
	{name: "recording", path: "/benches/1/hall/recording", theme: "dark", do: []chromedp.Action[chromedp.Void]{
		chromedp.WaitReady(`//option[starts-with(., "A pulse of E")]`), choose("Its program", "A pulse of E"),
		chromedp.Click(`//button[.="Record it"]`), chromedp.WaitVisible(`[role=slider]`), chromedp.Sleep(900 * time.Millisecond),
		chromedp.Click(`//button[starts-with(., "Go to ")]`), chromedp.Sleep(600 * time.Millisecond), chromedp.Focus(`[role=slider]`),
		chromedp.KeyEvent("a"), chromedp.KeyEvent("-"), chromedp.KeyEvent("-"), chromedp.KeyEvent(kb.ArrowRight), chromedp.Sleep(600 * time.Millisecond), chromedp.KeyEvent("b"), chromedp.Sleep(600 * time.Millisecond),
	}},
	{name: "code", path: "/benches/1/gate/code", theme: "dark", do: []chromedp.Action[chromedp.Void]{
		chromedp.Click(`//aside[@aria-label="Screens and fields"]//button[contains(., "Tide") and not(contains(., "Tides"))]`),
		chromedp.Click(`//aside[@aria-label="Screens and fields"]//button[contains(., "Tides")]`), chromedp.Sleep(600 * time.Millisecond),
		chromedp.Click(`//aside[@aria-label="Screens and fields"]//button[contains(., "Tides")]`), chromedp.Sleep(600 * time.Millisecond),
	}},
	{name: "faults", path: "/benches/1/hall/faults", theme: "dark", do: []chromedp.Action[chromedp.Void]{
		chromedp.Click(`//button[.="A row of blocks"]`), chromedp.Sleep(900 * time.Millisecond), chromedp.Click(`[data-cause="wire.open:E"] button`), chromedp.ScrollIntoView(`[aria-label="Next test"] h2`), chromedp.Sleep(600 * time.Millisecond),
	}},
	{name: "handbook", path: "/benches/1/hall/screens", theme: "light", do: []chromedp.Action[chromedp.Void]{
		chromedp.KeyEvent(kb.F1), chromedp.Click(`//aside//a[.="a row stands in the wrong place"]`), chromedp.WaitVisible(`aside figure canvas`), chromedp.Sleep(600 * time.Millisecond),
	}},
	{name: "hand", path: "/benches/1/hall/wiring", theme: "dark", width: 390, height: 844},
	{name: "room", path: "/benches/1/gate/screens", theme: "dark", do: []chromedp.Action[chromedp.Void]{
		chromedp.Click(`[popovertarget=room]`), chromedp.WaitVisible(`#room [data-mark=address]`),
		chromedp.Evaluate[chromedp.Void](`document.querySelector("#room [data-mark=address]").select()`), chromedp.KeyEvent("127.0.0.2"),
		chromedp.Click(`//button[.="Open the room"]`), chromedp.Click(`//button[.="Show a code"]`), chromedp.WaitVisible(`#room svg[role=img]`),
	}},
	{name: "log", path: "/benches/1/hall/log", theme: "dark", do: []chromedp.Action[chromedp.Void]{chromedp.Sleep(600 * time.Millisecond)}},
}

// choose picks the option of a list that begins with a text.
func choose(label, text string) chromedp.Action[chromedp.Void] {
	return chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(() => {
		const s = [...document.querySelectorAll("label")].find((l) => l.textContent === %q).control;
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(s, [...s.options].find((o) => o.text.startsWith(%q)).value);
		s.dispatchEvent(new Event("change", {bubbles: true}));
	})()`, label, text))
}

func main() {
	log.SetFlags(0)
	out := flag.String("out", "docs/screenshots", "directory to write to")
	only := flag.String("only", "", "name of the only picture to take")
	flag.Parse()
	if err := run(*out, *only); err != nil {
		log.Fatal(err)
	}
}

func run(out, only string) error {
	tmp, err := os.MkdirTemp("", "slatebell-screenshots")
	if err != nil {
		return err
	}
	defer os.RemoveAll(tmp)
	binary, err := harness.Build(tmp)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	for _, s := range shots {
		if only != "" && s.name != only {
			continue
		}
		if err := s.take(binary, tmp, filepath.Join(out, s.name+".png")); err != nil {
			return err
		}
		log.Println(s.name)
	}
	return nil
}

// take starts a fresh program and browser, so that no picture depends on
// another.
func (s shot) take(binary, tmp, file string) error {
	server, err := harness.Serve(binary, filepath.Join(tmp, s.name+"-data"), "", "--demo")
	if err != nil {
		return err
	}
	defer server.Stop()
	width, height := s.width, s.height
	if width == 0 {
		width, height = 1280, 800
	}
	ctx, cancel := harness.Browser(context.Background(), filepath.Join(tmp, s.name+"-profile"), int(width), int(height))
	defer cancel()
	ctx, cancelTime := context.WithTimeout(ctx, 40*time.Second)
	defer cancelTime()
	err = chromedp.Do(ctx,
		chromedp.EmulateViewport(width, height),
		chromedp.Navigate(server.URL+s.path),
		chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
			_, err := chromedp.Run(ctx, chromedp.Evaluate[any](`localStorage.setItem("mui-mode", "`+s.theme+`")`))
			return err
		}),
		chromedp.Reload(),
		chromedp.WaitVisible(`[role="img"], [role="radiogroup"]`),
		chromedp.Steps(s.do...),
		chromedp.Sleep(600*time.Millisecond), // fonts and the last answer
	)
	if err != nil {
		return err
	}
	png, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
	if err != nil {
		return err
	}
	return os.WriteFile(file, png, 0o644)
}
