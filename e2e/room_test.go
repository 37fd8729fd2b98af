package e2e

import (
	"bufio"
	"bytes"
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"encoding/json"
	"encoding/pem"
	"fmt"
	"image"
	_ "image/png"
	"io"
	"math/big"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/qrcode"

	"slatebell/core/bench"
	"slatebell/server/demo"
)

// handViews are the views for the hand that are its own; the finder and the scan are the desk's as well.
var handViews = []string{"wiring", "light", "screens", "scenes", "log"}

// hand opens a browser of a telephone or a tablet, which is touched.
func hand(t *testing.T, width, height int64) *page {
	t.Helper()
	p := open(t, "")
	p.do(chromedp.EmulateViewport(width, height, chromedp.EmulateMobile, chromedp.EmulateTouch))
	return p
}

// tap touches the first element that an XPath names.
func (p *page) tap(path string) {
	p.t.Helper()
	find := fmt.Sprintf(`document.evaluate(%q, document, null, XPathResult.FIRST_ORDERED_NODE_TYPE, null).singleNodeValue`, path)
	until(p, find+` !== null`, true)
	at := eval[[]float64](p, `(() => { const e = `+find+`; e.scrollIntoView({ block: "nearest" }); const b = e.getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2]; })()`)
	p.touch(input.DispatchTouchEventTypeTouchStart, &input.TouchPoint{X: at[0], Y: at[1]})
	p.touch(input.DispatchTouchEventTypeTouchEnd)
}

// button is the XPath of a button or link by its text.
func button(text string) string {
	return fmt.Sprintf(`//*[self::button or self::a][normalize-space()=%q]`, text)
}

// insert types a text as an on-screen keyboard does, which sends no keys.
func (p *page) insert(text string) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, input.InsertText, input.InsertTextParams{Text: text})
		return err
	}))
}

// cable joins a device to the room, and can be pulled.
type cable struct {
	mu     sync.Mutex
	pulled bool
	open   []net.Conn
}

// plug begins a cable to an address of the room, and returns the port at its other end.
func plug(t *testing.T, to string) (c *cable, port string) {
	t.Helper()
	listener, err := net.Listen("tcp", "127.0.0.2:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		listener.Close()
		c.pull(true)
	})
	c = &cable{}
	go func() {
		for {
			near, err := listener.Accept()
			if err != nil {
				return
			}
			far, err := net.Dial("tcp", to)
			if err != nil || !c.keep(near, far) {
				near.Close()
				continue
			}
			go func() { io.Copy(far, near); far.Close() }()
			go func() { io.Copy(near, far); near.Close() }()
		}
	}()
	_, port, _ = net.SplitHostPort(listener.Addr().String())
	return c, port
}

func (c *cable) keep(ends ...net.Conn) bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.open = append(c.open, ends...)
	if c.pulled {
		for _, e := range ends {
			e.Close()
		}
	}
	return !c.pulled
}

// pull cuts everything off, or lets it through again.
func (c *cable) pull(is bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.pulled = is
	for _, e := range c.open {
		e.Close()
	}
	c.open = nil
}

// benchOne reads bench 1 as it is stored.
func benchOne(t *testing.T, url string) bench.Bench {
	t.Helper()
	_, b := benchOneAt(t, url)
	return b
}

// benchOneAt is benchOne with its revision.
func benchOneAt(t *testing.T, url string) (revision int, b bench.Bench) {
	t.Helper()
	res, err := http.Get(url + "/api/benches/1")
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	var doc struct {
		Revision int
		Bench    bench.Bench
	}
	if err := json.NewDecoder(res.Body).Decode(&doc); err != nil {
		t.Fatal(err)
	}
	return doc.Revision, doc.Bench
}

// scanned reads the QR code that is in sight, as a telephone's camera does.
func (p *page) scanned() string {
	p.t.Helper()
	p.do(chromedp.WaitVisible(`#room svg[role=img]`))
	data, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		p.t.Fatal(err)
	}
	picture, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		p.t.Fatal(err)
	}
	bits, err := gozxing.NewBinaryBitmapFromImage(picture)
	if err != nil {
		p.t.Fatal(err)
	}
	found, err := qrcode.NewQRCodeReader().Decode(bits, map[gozxing.DecodeHintType]any{gozxing.DecodeHintType_TRY_HARDER: true})
	if err != nil {
		p.t.Fatalf("the code cannot be scanned: %v", err)
	}
	return found.GetText()
}

const (
	onGlass = `(document.querySelector('main canvas[role="img"]')?.dataset.rows ?? "")`
	nowID   = `(document.querySelector("[data-now]")?.dataset.now ?? "")`
	stands  = `(document.querySelector("header [role=status]")?.title ?? "")`
)

// typing is the glass that is typed on.
const typing = `(document.querySelector('main :has(> textarea) canvas[role="img"], main canvas[role="img"]')?.dataset.rows ?? "")`

// TestRoom opens the room at the desk, lets a telephone and a tablet in, and works on one bench with
// all three: what one does the others see, undo undoes one's own, a device that is cut off goes on and comes back, and one
// that is taken off the list is out at once.
func TestRoom(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	desk := open(t, server.URL+"/benches/1/gate/screens")

	// The room is opened, by pointer; its code is read off the picture.
	desk.do(chromedp.Click(`[popovertarget=room]`), chromedp.WaitVisible(`#room [data-mark=address]`))
	eval[any](desk, `document.querySelector("#room [data-mark=address]").select()`)
	desk.keys("127.0.0.2")
	desk.clickText("Open the room")
	desk.clickText("Show a code")
	address := desk.scanned()
	port := server.URL[strings.LastIndex(server.URL, ":"):]
	if !strings.HasPrefix(address, "http://127.0.0.2"+port+"/join#") {
		t.Fatalf("the code leads to %s", address)
	}

	// A telephone scans it, and is let in by its name.
	cable, far := plug(t, "127.0.0.2"+port)
	phone := hand(t, 390, 844)
	phone.do(chromedp.Navigate(strings.Replace(address, port, ":"+far, 1)), chromedp.WaitVisible(`[data-mark=name]`))
	phone.tap(`//*[@data-mark="name"]`)
	eval[any](phone, `document.querySelector("[data-mark=name]").select()`)
	phone.insert("Otter’s telephone")
	phone.tap(button("Ask to come in"))
	until(phone, bodyText+`.includes("The desk is asked to let “Otter’s telephone” in.")`, true)
	until(desk, `document.querySelector("[role=alert]")?.innerText.includes("“Otter’s telephone” at 127.0.0.1 asks to come in.") ?? false`, true)
	eval[any](desk, `document.getElementById("room").hidePopover()`)
	desk.clickText("Let it take part")
	until(phone, nowID+` !== ""`, true)
	until(phone, `location.pathname`, "/benches/1/gate/wiring")

	// A tablet comes to the address itself, and types the code; the desk lets it watch, by keys.
	tablet := hand(t, 820, 1180)
	tablet.do(chromedp.Navigate("http://127.0.0.2"+port+"/benches/1/gate/screens"), chromedp.WaitVisible(`[data-mark=code]`))
	desk.do(chromedp.Focus(`[popovertarget=room]`))
	desk.keys(kb.Enter)
	desk.do(chromedp.WaitVisible(`//div[@id="room"]//button[contains(., "ode")]`))
	desk.do(chromedp.Focus(`//div[@id="room"]//button[contains(., "ode")]`))
	desk.keys(kb.Enter)
	const text = `(document.querySelector("#room p[aria-label^='Code ']")?.innerText ?? "")`
	until(desk, text+` !== ""`, true)
	tablet.do(chromedp.Focus(`[data-mark=code]`))
	tablet.keys("wrong" + kb.Enter)
	until(tablet, `document.querySelector("[role=alert]")?.innerText.includes("4 tries are left") ?? false`, true)
	eval[any](tablet, `document.querySelector("[data-mark=code]").select()`)
	tablet.keys(strings.ToLower(eval[string](desk, text)) + kb.Enter)
	desk.keys(kb.Escape)
	desk.do(chromedp.Focus(`//button[.="Let it watch"]`))
	desk.keys(kb.Enter)
	until(tablet, bodyText+`.includes("This device watches")`, true)
	until(tablet, typing, `["QUILLFISH  GATE ","Tide 3.2m →14:05"]`)

	// What the desk types stands on both within a moment; what the telephone ticks off is ticked off at the desk.
	desk.do(chromedp.Click(`main canvas`))
	desk.keys(kb.Home + "MOORED")
	desk.settle()
	until(tablet, typing, `["MOOREDISH  GATE ","Tide 3.2m →14:05"]`)
	done := len(benchOne(t, server.URL).Wiring.Done)
	before := eval[string](phone, nowID)
	phone.tap(button("Done, next"))
	until(phone, nowID+` !== `+fmt.Sprintf("%q", before), true)
	for deadline := time.Now().Add(10 * time.Second); len(benchOne(t, server.URL).Wiring.Done) == done && time.Now().Before(deadline); {
		time.Sleep(20 * time.Millisecond)
	}
	if b := benchOne(t, server.URL); len(b.Wiring.Done) != done+1 || !slices.Contains(b.Wiring.Done, before) {
		t.Errorf("%q is not ticked off: %v", before, b.Wiring.Done)
	}

	// The telephone types on the glass with its own keyboard; each undoes what it did.
	phone.tap(button("Screens"))
	until(phone, typing, `["MOOREDISH  GATE ","Tide 3.2m →14:05"]`)
	phone.tap(`//main//textarea/preceding-sibling::div`)
	phone.do(chromedp.Focus(`main textarea`))
	phone.tap(button("Next row"))
	phone.do(chromedp.Focus(`main textarea`))
	phone.insert("Ebb ")
	until(phone, typing+`.includes("Ebb ")`, true)
	until(phone, stands, "Saved")
	row := eval[string](phone, typing)
	until(desk, typing, row)
	desk.do(chromedp.Click(`main canvas`))
	desk.keys(kb.Home + "AFLOAT")
	desk.settle()
	until(phone, typing+`.startsWith('["AFLOAT')`, true)
	until(desk, `document.querySelector("[data-company]").dataset.company.includes("Otter’s telephone, Screens, Gate board")`, true)
	until(desk, `document.querySelector("[data-who='Otter’s telephone']") !== null`, true)
	phone.tap(`//button[@aria-label="Undo"]`)
	until(phone, typing, `["AFLOATISH  GATE ","Tide 3.2m →14:05"]`)
	until(desk, typing, `["AFLOATISH  GATE ","Tide 3.2m →14:05"]`)
	desk.keys("z", chromedp.KeyModifiers(kb.ModifierCtrl))
	until(phone, typing, `["MOOREDISH  GATE ","Tide 3.2m →14:05"]`)

	// The tablet watches: what it types changes nothing.
	tablet.tap(`//main//textarea/preceding-sibling::div`)
	tablet.do(chromedp.Focus(`main textarea`))
	tablet.insert("x")
	time.Sleep(500 * time.Millisecond)
	until(tablet, typing, `["MOOREDISH  GATE ","Tide 3.2m →14:05"]`)

	// The telephone is cut off: what it types, ticks and notes stays, and is sent once the desk answers.
	phone.tap(`//button[starts-with(normalize-space(), "More")]`)
	phone.tap(button("Log"))
	until(phone, `document.querySelector("[aria-label='What you learnt']") !== null`, true)
	cable.pull(true)
	phone.tap(`//textarea[@aria-label="What you learnt"]`)
	phone.insert("The oar rack is free")
	phone.tap(button("Write"))
	until(phone, bodyText+`.includes("1 note waits on this device")`, true)
	phone.tap(button("Work"))
	until(phone, nowID+` !== ""`, true)
	cut := eval[string](phone, nowID)
	phone.tap(button("Done, next"))
	until(phone, `document.querySelector("main [role=alert]")?.innerText.includes("stays on this device") ?? false`, true)
	desk.do(chromedp.Click(`main canvas`))
	desk.keys(kb.Home + "ASHORE")
	desk.settle()
	cable.pull(false)
	until(phone, stands, "Saved")
	if b := benchOne(t, server.URL); !slices.Contains(b.Wiring.Done, cut) || b.Modules[0].Screens[0].Rows[0] != "ASHOREISH  GATE" {
		t.Errorf("after the outage: %v, %q", b.Wiring.Done, b.Modules[0].Screens[0].Rows)
	}
	phone.tap(`//button[starts-with(normalize-space(), "More")]`)
	phone.tap(button("Log"))
	until(phone, bodyText+`.includes("The oar rack is free") && !`+bodyText+`.includes("waits on this device")`, true)
	phone.tap(button("Screens"))
	until(phone, typing+`.startsWith('["ASHORE')`, true)

	// It is loaded again while the desk sleeps: its last state is there.
	until(phone, `navigator.serviceWorker.controller !== null`, true)
	phone.do(chromedp.Reload()) // now by way of what keeps it
	until(phone, typing+`.startsWith('["ASHORE')`, true)
	phone.tap(button("Work"))
	until(phone, nowID+` !== ""`, true)
	time.Sleep(time.Second)
	cable.pull(true)
	phone.do(chromedp.Reload())
	until(phone, nowID+` !== ""`, true)
	phone.tap(button("Screens"))
	until(phone, typing+`.startsWith('["ASHORE')`, true)
	cable.pull(false)

	// Taken off the list it is out at once.
	desk.do(chromedp.Click(`[popovertarget=room]`), chromedp.Click(`[aria-label="Remove Otter’s telephone"]`))
	desk.clickText("End it now")
	until(phone, bodyText+`.includes("this device needs the code")`, true)
	until(tablet, typing+`.startsWith('["ASHORE')`, true)
	desk.clickText("Close the room")
	until(desk, bodyText+`.includes("Nobody but this machine can connect now.")`, true)
}

// TestAxeHand runs axe-core over the views for the hand at 390 pixels, dark, and 320, light: there is no violation, nothing
// to be scrolled sideways, and whatever is touched is 44 pixels high.
func TestAxeHand(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	ready := func(p *page) {
		until(p, `document.querySelector("main section, main table, main p") !== null && !/Simulating|Looking|Laying/.test(document.querySelector("main").innerText)`, true)
	}
	visits := []visit{{"/benches", nil}}
	for _, v := range append(slices.Clone(handViews), "faults", "bus", "bench", "card", "run") {
		visits = append(visits, visit{"/benches/1/gate/" + v, ready})
	}
	visits = append(visits,
		visit{"/benches/1/hall/wiring", func(p *page) { ready(p); p.do(chromedp.Click(`main summary`)) }},
		visit{"/benches/1/slip/light", func(p *page) { ready(p); p.do(chromedp.Click(`main summary`)) }},
		visit{"/benches/1/slip/scenes", ready},
		visit{"/benches/1/hall/screens", func(p *page) { ready(p); p.do(chromedp.Click(`[popovertarget=more]`)) }},
	)
	const all = `["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice", "experimental"]`
	lookIn(t, server, visits, [2]frame{{"dark", 390, 844, all}, {"light", 320, 568, all}}, func(p *page, at string) {
		if w := eval[int](p, `document.documentElement.scrollWidth - innerWidth`); w > 0 {
			t.Errorf("%s: it scrolls sideways by %d px", at, w)
		}
		if wide := eval[string](p, `[...document.querySelectorAll("main *")].filter((e) => !e.closest("svg, [aria-label='Screens of this module']") && e.checkVisibility() && e.getBoundingClientRect().right > innerWidth + 1).slice(0, 3).map((e) => e.outerHTML.slice(0, 120)).join(" | ")`); wide != "" {
			t.Errorf("%s: out of the window: %s", at, wide)
		}
		if low := eval[string](p, `[...document.querySelectorAll("main button, nav a, nav button, header button, main summary, main select")].filter((e) => e.checkVisibility() && e.getBoundingClientRect().height < 43.5 && !e.closest("p, [aria-label='Findings']")).slice(0, 4).map((e) => (e.ariaLabel || e.innerText).slice(0, 30) + " " + e.getBoundingClientRect().height).join(" | ")`); low != "" && !strings.HasPrefix(at, "/benches (") {
			t.Errorf("%s: lower than 44 px: %s", at, low)
		}
	})
}

// TestGivenOut gives a bench out, follows what is done in a copy, and plays a round of a contest in it.
func TestGivenOut(t *testing.T) {
	t.Parallel()
	server := serve(t)
	storeBench(t, server, demo.Bench())
	p := open(t, server.URL+"/benches/2/gate/faults")
	p.do(chromedp.Focus(`[popovertarget=room]`))
	p.keys(kb.Enter)
	p.clickText("Give this bench out as copies…")
	p.do(chromedp.WaitVisible(`[aria-label="Names, one a line"]`), chromedp.Focus(`[aria-label="Names, one a line"]`))
	p.keys("Otter crew" + kb.Enter + "Heron crew")
	p.clickText("Give 2 copies")
	until(p, `[...document.querySelectorAll("[data-copy]")].map((r) => r.dataset.copy).join()`, "Heron crew,Otter crew")
	p.do(chromedp.Focus(`[aria-label="Names, one a line"]`))
	p.keys("Otter crew")
	p.clickText("Give a copy")
	until(p, bodyText+`.includes("Otter crew has a copy already")`, true)
	p.do(chromedp.Focus(`//button[.="Begin a contest"]`))
	p.keys(kb.Enter)
	until(p, bodyText+`.includes("3 rounds at “Any fault”")`, true)

	q := p.tab()
	q.do(chromedp.Navigate(server.URL + "/benches/4/gate/faults"))
	q.do(chromedp.WaitVisible(`//button[@role="tab"][.="Practise"]`), chromedp.Click(`//button[@role="tab"][.="Practise"]`))
	q.clickText("Play round 1")
	until(q, bodyText+`.includes("It shows")`, true)
	q.do(chromedp.Click(`input[aria-label="Name of the bench"]`))
	q.keys("!" + kb.Enter)
	until(p, `document.querySelector("[data-copy='Heron crew']").innerText.includes("the desk")`, true)
	until(p, `!document.querySelector("[data-copy='Heron crew']").innerText.includes("not begun")`, true)
	p.do(chromedp.Click(`//tr[@data-copy="Heron crew"]//a`))
	until(p, `location.pathname.startsWith("/benches/4/")`, true)
}

// TestServeRoom opens the room from the command line, with a certificate and without one, and again at the next start where
// that was chosen.
func TestServeRoom(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	start := func(args ...string) (said string, stop func()) {
		t.Helper()
		cmd := exec.Command(binary, append([]string{"serve", "--addr", "127.0.0.1:0", "--data", dir}, args...)...)
		out, err := cmd.StdoutPipe()
		if err != nil {
			t.Fatal(err)
		}
		if err := cmd.Start(); err != nil {
			t.Fatal(err)
		}
		lines := make(chan string)
		go func() {
			defer close(lines)
			for s := bufio.NewScanner(out); s.Scan(); {
				lines <- s.Text()
			}
		}()
		for wait := time.After(5 * time.Second); ; {
			select {
			case line, open := <-lines:
				said += line + "\n"
				if !open || strings.Contains(line, "plain HTTP") || strings.Contains(line, "https://") {
					return said, func() { cmd.Process.Signal(os.Interrupt); cmd.Wait() }
				}
			case <-wait:
				return said, func() { cmd.Process.Signal(os.Interrupt); cmd.Wait() }
			}
		}
	}
	url := regexp.MustCompile(`https?://127\.0\.0\.2:\d+/`)
	said, stop := start("--room=127.0.0.2:0")
	at := url.FindString(said)
	res, err := http.Get(at)
	if err != nil || res.StatusCode != http.StatusForbidden || !strings.HasPrefix(said, "Slate Bell is at http://127.0.0.1:") {
		t.Errorf("a stranger at %s: %v, %v; it said %q", at, res, err, said)
	}
	post, err := http.Post(regexp.MustCompile(`http://[^/]+`).FindString(said)+"/api/room", "application/json", strings.NewReader(`{"open": true, "address": "127.0.0.2:0", "keep": true}`))
	if err != nil || post.StatusCode != 200 {
		t.Errorf("%v, %v", post, err)
	}
	stop()
	said, stop = start()
	stop()
	if !url.MatchString(said) {
		t.Errorf("it was to be open at the next start: %q", said)
	}

	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	template := &x509.Certificate{SerialNumber: big.NewInt(1), NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.ParseIP("127.0.0.2")}}
	cert, err := x509.CreateCertificate(rand.Reader, template, template, &key.PublicKey, key)
	if err != nil {
		t.Fatal(err)
	}
	private, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		t.Fatal(err)
	}
	certFile, keyFile := filepath.Join(dir, "room.pem"), filepath.Join(dir, "room.key")
	os.WriteFile(certFile, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: cert}), 0o600)
	os.WriteFile(keyFile, pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: private}), 0o600)
	said, stop = start("--room=127.0.0.2:0", "--tls-cert", certFile, "--tls-key", keyFile)
	if at := url.FindString(said); !strings.HasPrefix(at, "https://") || strings.Contains(said, "plain HTTP") {
		t.Errorf("with a certificate it said %q", said)
	}
	stop()
	for _, args := range [][]string{{"--tls-cert", certFile}, {"--tls-cert", keyFile, "--tls-key", certFile}, {"--room=0.0.0.0"}} {
		out, err := exec.Command(binary, append([]string{"serve", "--addr", "127.0.0.1:0", "--data", dir}, args...)...).CombinedOutput()
		if err == nil {
			t.Errorf("%v is served: %s", args, out)
		}
	}
}
