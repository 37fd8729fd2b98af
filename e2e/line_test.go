package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/e2e/harness"
)

// TestOpenLine types on the glass: the runs come by the open line. A program that was stopped and started again is found again, with what was typed
// meanwhile; and a page whose browser has no line to the program types all the same.
func TestOpenLine(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	server, p := composing(t, dir)
	lines, posts := 0, 0
	chromedp.Listen(p.ctx, func(ev any) {
		switch ev := ev.(type) {
		case *network.EventWebSocketFrameSent:
			if strings.Contains(string(ev.Response.PayloadData), `"path":"/api/runs"`) {
				lines++
			}
		case *network.EventRequestWillBeSent:
			if strings.HasSuffix(ev.Request.URL, "/api/runs") {
				posts++
			}
		}
	})
	p.keys(kb.Home + "Line")
	p.glass(16, "LineLFISH  GATE", "Tide 3.2m →14:05")
	p.settle()
	if lines < 4 || posts > 0 {
		t.Errorf("%d questions on the line and %d posted for four keys", lines, posts)
	}
	addr := server.Addr()
	if err := server.Stop(); err != nil {
		t.Fatal(err)
	}
	p.keys("d")
	until(p, bodyText+`.includes("The program cannot be reached")`, true)
	if server, err := harness.Serve(binary, dir, addr); err != nil {
		t.Fatal(err)
	} else {
		defer server.Stop()
	}
	p.glass(16, "LinedFISH  GATE", "Tide 3.2m →14:05")
	p.settle()
	lines = 0
	for i := 0; lines == 0 && i < 90; i++ { // the page, and the browser too, take their time with lines after one that failed
		p.keys(string(rune('!'+i)) + kb.ArrowLeft) // never the same text twice: no answer is at hand
		p.settle()
		time.Sleep(100 * time.Millisecond)
	}
	if lines == 0 {
		t.Error("no line is opened to the program that is there again")
	}
	p.keys("up")
	p.glass(16, "LinedupSH  GATE", "Tide 3.2m →14:05")
	p.settle()

	without := open(t, "")
	without.onNewDocument(`window.WebSocket = class { static OPEN = 1; constructor() { setTimeout(() => this.onclose?.()); } close() {} send() { throw new Error("no line"); } }`)
	without.do(chromedp.Navigate(fmt.Sprintf("http://%s/benches/1/gate/screens", addr)), chromedp.WaitVisible(`canvas`), chromedp.Click(`canvas`))
	without.keys(kb.Home + "No")
	without.glass(16, "NonedupSH  GATE", "Tide 3.2m →14:05")
}

// TestPaintedInPart types on a glass without light of its own, on a lit one and on a tube whose dots shine on their neighbours: what is drawn cell by cell is
// what is drawn at once where the page is opened anew.
func TestPaintedInPart(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	for _, module := range []string{"gate", "hall", "slip"} {
		p := open(t, fmt.Sprintf("%s/benches/1/%s/screens", server.URL, module))
		p.do(chromedp.Click(`canvas`))
		p.keys(kb.Home + "WM#" + kb.Backspace + kb.ArrowRight + kb.ArrowRight + "█@" + kb.End + kb.ArrowLeft + "%" + kb.ArrowDown + kb.Home + "gq")
		p.settle()
		const pixels = `(() => { const c = document.querySelector("canvas"); return [...c.getContext("2d").getImageData(0, 0, c.width, c.height).data].join() })()`
		rows := eval[string](p, rowsShown)
		inPart := eval[string](p, pixels)
		p.do(chromedp.Reload(), chromedp.WaitVisible(`canvas`))
		until(p, rowsShown, rows)
		p.settle()
		whole := strings.Split(eval[string](p, pixels), ",")
		worst, apart := 0, 0
		for i, v := range strings.Split(inPart, ",") {
			var a, b int
			fmt.Sscan(v, &a)
			fmt.Sscan(whole[i], &b)
			if d := max(a-b, b-a); d > 0 {
				apart, worst = apart+1, max(worst, d)
			}
		}
		if worst > 2 { // of 255: a blur is worked out from where it begins
			t.Errorf("%s, %s: %d of %d values differ, by up to %d", module, rows, apart, len(whole), worst)
		}
	}
}
