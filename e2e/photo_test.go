package e2e

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	"image/png"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/part/charrom"
	"slatebell/core/prove/photo/phototest"
	"slatebell/core/text/glyph"
	"slatebell/e2e/harness"
)

// photographed writes a photograph of a glass of 16 × 2 cells with ROM A00.
func photographed(t *testing.T, text string) string {
	t.Helper()
	rom := charrom.A00()
	return pictured(t, func(cell, row, col int) bool {
		return cell < len(text) && glyph.Of(rom.Dots(text[cell])).Lit(row, col)
	})
}

// pictured writes a photograph of a glass of 16 × 2 cells, by which dots are on.
func pictured(t *testing.T, dots func(cell, row, col int) bool) string {
	t.Helper()
	return kept(t, phototest.Some(rand.New(rand.NewPCG(30, 1)), 16, 2, 8, 30, 20, dots).Take(), "glass.jpg")
}

// kept writes a photograph as JPEG, and returns where.
func kept(t *testing.T, p *phototest.Picture, name string) string {
	t.Helper()
	var file bytes.Buffer
	jpeg.Encode(&file, &image.Gray{Pix: p.Pix, Stride: p.W, Rect: image.Rect(0, 0, p.W, p.H)}, &jpeg.Options{Quality: 80})
	name = filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(name, file.Bytes(), 0o644); err != nil {
		t.Fatal(err)
	}
	return name
}

// fromPhoto is where a photograph is taken in, and what it says then.
const (
	fromPhoto = `[aria-label="From a photograph"]`
	photoFile = `[aria-label="What you see"] [aria-label="Photograph of the glass"]`
	photoSays = `(document.querySelector('` + fromPhoto + ` p[role=status]')?.innerText ?? "")`
)

// TestPhotograph reads a photograph of garbled text in the fault finder, moves its corners by keys and by pointer, sees where it differs, takes
// what is read for what is seen, and finds the cause; a picture of something else is refused, and nothing that was said is lost. The photograph
// joins the log.
func TestPhotograph(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	id := storeBench(t, server, crossed(t, "D4", "D5"))
	p := open(t, fmt.Sprintf("%s/benches/%d/hall/faults", server.URL, id))
	p.do(chromedp.WaitVisible(fromPhoto), chromedp.SetUploadFiles(photoFile, []string{photographed(t, "  o___ ? ? _")}, chromedp.NodeReady))
	until(p, photoSays, "32 of 32 cells are read.")
	until(p, `document.querySelector('[aria-label="What the photograph shows"]').innerText.includes("Row 1 of the photographed glass differs")`, true)
	until(p, `document.querySelectorAll('[aria-label="Real beside composed"] span').length > 8`, true)

	corner := `[aria-label="Upper left corner of the cells"]`
	at := `document.querySelector('` + corner + `').style.left`
	cell := `document.querySelector('` + fromPhoto + ` polygon').getAttribute("points")`
	was, first := eval[string](p, at), eval[string](p, cell)
	p.do(chromedp.Focus(corner))
	p.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.dispatchEvent(new KeyboardEvent("keydown", {key: "ArrowRight", shiftKey: true, bubbles: true}))`))
	until(p, cell+` !== "`+first+`"`, true) // the grid goes along while the key is held
	p.keys(kb.ArrowDown)
	until(p, photoSays, "32 of 32 cells are read.") // near enough: it is found again
	x, y := p.at(corner)
	p.stroke(x, y, x+60, y+40, false) // far off
	until(p, at+` !== "`+was+`"`, true)
	p.do(chromedp.Click(`//button[.="Find the glass anew"]`))
	until(p, photoSays, "32 of 32 cells are read.")
	p.do(chromedp.Focus(`//button[.="Keep it in the log"]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitVisible(`//span[@role="status"][.="It is in the log."]`))
	p.do(chromedp.Focus(`//button[.="It is what I see"]`))
	p.keys(kb.Enter)
	until(p, firstCause, "wire.swapped:D4,D5")

	other := filepath.Join(t.TempDir(), "table.jpg")
	var grey bytes.Buffer
	jpeg.Encode(&grey, image.NewGray(image.Rect(0, 0, 400, 300)), nil)
	os.WriteFile(other, grey.Bytes(), 0o644)
	p.do(chromedp.SetUploadFiles(photoFile, []string{other}, chromedp.NodeReady))
	until(p, `document.querySelector('`+fromPhoto+` p[role=alert]')?.innerText.startsWith("no glass found") ?? false`, true)
	until(p, firstCause, "wire.swapped:D4,D5")
	p.do(chromedp.Click(`//button[.="Leave it"]`), chromedp.WaitNotPresent(corner))
	p.do(chromedp.Click(`//nav//a[contains(., "Log")]`), chromedp.WaitVisible(`//li[contains(., "The glass shows")]//img`))
}

// TestPhotographDropped drops a photograph, pastes one, asks which size the glass has, and makes the module so; a test is answered by a photograph.
func TestPhotographDropped(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	b := crossed(t, "D4", "D5")
	b.Modules[0].Display.Geometry = "8x2"
	p := open(t, fmt.Sprintf("%s/benches/%d/hall/faults", server.URL, storeBench(t, server, b)))
	shot := photographed(t, "  o___ ? ? _")
	p.do(chromedp.WaitVisible(fromPhoto))
	p.dropFile(fromPhoto, shot)
	p.do(chromedp.WaitVisible(`//button[.="Which size is it?"]`))
	p.do(chromedp.Click(`//button[.="Which size is it?"]`))
	until(p, photoSays, "32 of 32 cells are read. It looks like 16 × 2.")
	p.do(chromedp.Focus(`//button[.="Make this module 16 × 2"]`))
	p.keys(kb.Enter)
	until(p, `document.querySelectorAll('[aria-label="What you see"] [aria-label$="is otherwise"]').length`, 32)

	data, err := os.ReadFile(shot)
	if err != nil {
		t.Fatal(err)
	}
	p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(() => {
		const data = new DataTransfer();
		data.items.add(new File([Uint8Array.from(atob(%q), c => c.charCodeAt(0))], "pasted.jpg", {type: "image/jpeg"}));
		document.querySelector('%s').dispatchEvent(new ClipboardEvent("paste", {clipboardData: data, bubbles: true, cancelable: true}));
	})()`, base64.StdEncoding.EncodeToString(data), fromPhoto)))
	until(p, photoSays, "32 of 32 cells are read.")
	p.do(chromedp.Click(`//button[.="It is what I see"]`))
	until(p, firstCause, "wire.swapped:D4,D5")

	p.do(chromedp.Click(`//section[@aria-label="What you see"]//button[.="Begin again"]`))
	p.do(chromedp.Click(`//button[.="Characters other than these"] | //div[@aria-label="What looks like it"]//button[contains(., "Other characters")]`))
	next := `[aria-label="Next test"] `
	p.settle()
	p.do(chromedp.WaitVisible(next + "label select"))
	p.do(chromedp.Evaluate[chromedp.Void](`(() => {
		const of = document.querySelector('[aria-label="Next test"] label select');
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(of, "text");
		of.dispatchEvent(new Event("change", {bubbles: true}));
	})()`))
	p.do(chromedp.WaitReady(next+`[aria-label="Photograph of the glass"]`), chromedp.SetUploadFiles(next+`[aria-label="Photograph of the glass"]`, []string{shot}, chromedp.NodeReady))
	p.do(chromedp.Click(`//button[.="It is what I see then"]`))
	p.do(chromedp.WaitVisible(`//ul[@aria-label="What tests showed"]//li[contains(., "a photograph of")]`))
}

// coloured is a photograph with colours, as cameras give it.
func coloured(t *testing.T, name string) []byte {
	t.Helper()
	data, err := os.ReadFile(name)
	if err != nil {
		t.Fatal(err)
	}
	grey, err := jpeg.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	img := image.NewRGBA(image.Rect(0, 0, grey.Bounds().Dx()&^15, grey.Bounds().Dy()&^15))
	draw.Draw(img, img.Rect, grey, image.Point{}, draw.Src)
	var out bytes.Buffer
	jpeg.Encode(&out, img, &jpeg.Options{Quality: 90})
	return out.Bytes()
}

// TestPhotographCamera takes a photograph by this computer's camera, which sees a glass, and closes it.
func TestPhotographCamera(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	data := coloured(t, photographed(t, "Tide 3.2 m NW 4 6 boats out back"))
	film := filepath.Join(t.TempDir(), "film.mjpeg") // pictures one after the other
	os.WriteFile(film, bytes.Repeat(data, 3), 0o644)
	p := open(t, fmt.Sprintf("%s/benches/%d/hall/faults", server.URL, storeBench(t, server, crossed(t, "D4", "D5"))),
		chromedp.Flag("use-fake-device-for-media-stream", true), chromedp.Flag("use-fake-ui-for-media-stream", true), chromedp.Flag("use-file-for-fake-video-capture", film))
	p.do(chromedp.Click(`//button[.="Camera"]`), chromedp.Click(`//button[.="Close the camera"]`), chromedp.WaitNotPresent(`video`))
	read := false
	for try := 0; try < 3 && !read; try++ { // a frame that is not whole yet is refused; one takes another
		p.do(chromedp.Focus(`//button[.="Camera"]`))
		p.keys(kb.Enter)
		p.do(chromedp.WaitEnabled(`//button[.="Take it"]`), chromedp.Focus(`//button[.="Take it"]`))
		p.keys(kb.Enter)
		read = eval[bool](p, `new Promise((done) => {
			const until = Date.now() + 20_000;
			const look = () => {
				const refused = document.querySelector('[aria-label="From a photograph"] [role=alert]') !== null;
				if (`+photoSays+`.startsWith("32 of 32 cells are read.")) done(true);
				else if (refused || Date.now() > until) done(false);
				else setTimeout(look, 50);
			};
			look();
		})`)
	}
	if !read {
		t.Errorf("the camera's pictures are not read: %s", eval[string](p, `document.querySelector('[aria-label="From a photograph"]').innerText`))
	}
}

// TestPhotographLight photographs a step of first light: what is as it should be is done at a click.
func TestPhotographLight(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	p := open(t, server.URL+"/benches/1/gate/wiring")
	p.do(chromedp.Click(`//button[@role="tab"][.="First light"]`))
	step := `//section[starts-with(@aria-label, "First light")]//li[.//button[.="Photograph it"]][1]`
	p.do(chromedp.WaitVisible(step))
	p.do(chromedp.SetUploadFiles(step+`//input[@aria-label="Photograph of the glass"]`, []string{pictured(t, func(cell, _, _ int) bool { return cell < 16 })}, chromedp.NodeReady))
	p.do(chromedp.WaitVisible(`//p[@role="status"][.="It looks as it should."]`), chromedp.Focus(`//button[.="Done"]`))
	p.keys(kb.Enter)
	p.do(chromedp.WaitNotPresent(`//button[.="Done"]`))
	p.settle()
	if lit := stored(t, server, 1).Wiring.Lit; len(lit) == 0 {
		t.Error("no step is done")
	}
}

// TestPhotographDrawn photographs glasses as the browser draws them, aslant, with light from one side, noise and much compression, and reads every
// cell of them: the text that the page says is there, in the colour that the bench has.
func TestPhotographDrawn(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	file := filepath.Join(t.TempDir(), "boathouse.json")
	p := open(t, server.URL+"/benches/1/hall/run")
	bench, _, err := harness.Command(p.ctx, binary, "", "bench", "--demo")
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(file, []byte(bench), 0o644); err != nil {
		t.Fatal(err)
	}
	const scale = 3 // of the browser's pixels: it is drawn anew for them
	p.do(chromedp.WaitVisible(`canvas[role=img]`))
	p.settle()
	p.do(chromedp.EmulateViewport(1290, 800, chromedp.EmulateScale(scale)))
	until(p, `document.querySelector("canvas[role=img]").width > 1000`, true)
	for i, m := range []struct {
		id         string
		cols, rows int
	}{{"hall", 20, 4}, {"slip", 20, 2}, {"gate", 16, 2}} {
		p.do(chromedp.Navigate(fmt.Sprintf("%s/benches/1/%s/run", server.URL, m.id)), chromedp.WaitVisible(`canvas[role=img]`))
		p.settle()
		box := eval[[4]float64](p, `(() => { // without what the page draws over the glass
			const glass = document.querySelector("canvas[role=img]"), at = glass.getBoundingClientRect();
			for (const over of glass.parentElement.querySelectorAll("*")) if (over !== glass) over.style.visibility = "hidden";
			return [at.x, at.y, at.width, at.height];
		})()`)
		rows := eval[[]string](p, `JSON.parse(document.querySelector("canvas[role=img]").dataset.rows)`)
		shot, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
		if err != nil {
			t.Fatal(err)
		}
		page, err := png.Decode(bytes.NewReader(shot))
		if err != nil {
			t.Fatal(err)
		}
		for round, cell := range []float64{15, 24, 36} {
			r := rand.New(rand.NewPCG(uint64(i), uint64(round)))
			name := aslant(t, page, box, scale, &phototest.Shot{
				Cell: cell, Slant: 20, Turn: 8 * (2*r.Float64() - 1), GapX: 1, GapY: 1, Light: 0.4, Noise: 0.01, Wide: 1.5, Cols: m.cols, Rows: m.rows, Height: 8,
			})
			out, errs, err := harness.Command(p.ctx, binary, "", "read", name, file, "--module", m.id)
			if err != nil {
				t.Fatal(err)
			}
			if got := strings.Split(strings.TrimSuffix(out, "\n"), "\n"); !slices.EqualFunc(got, rows, likeRow) || errs != "" {
				t.Errorf("%s, cells of %v pixels: it reads %q and says %q; expected %q", m.id, cell, got, errs, rows)
			}
		}
	}
}

// likeRow holds a row as it is printed against that of a glass, in which ① and on are slots.
func likeRow(read, shown string) bool {
	for slot := range 8 {
		read = strings.ReplaceAll(read, fmt.Sprintf(`\x%02X`, slot), string('①'+rune(slot)))
	}
	return read == strings.TrimRight(shown, " ")
}

// aslant photographs a part of a page, of so many pixels for one of its own, in colours, and returns where the file is.
func aslant(t *testing.T, page image.Image, box [4]float64, scale float64, s *phototest.Shot) string {
	t.Helper()
	dot := box[2] / float64(s.Cols*6-1) * scale
	var channels [3]*phototest.Picture
	for k := range channels {
		s.Rng = rand.New(rand.NewPCG(7, 7)) // the same noise for all
		s.Plane = func(x, y float64) float64 {
			red, green, blue, _ := page.At(int(box[0]*scale+x*dot), int(box[1]*scale+y*dot)).RGBA()
			return float64([3]uint32{red, green, blue}[k]) / 0xffff
		}
		channels[k] = s.Take()
	}
	img := image.NewRGBA(image.Rect(0, 0, channels[0].W, channels[0].H))
	for i := range channels[0].Pix {
		img.SetRGBA(i%channels[0].W, i/channels[0].W, color.RGBA{channels[0].Pix[i], channels[1].Pix[i], channels[2].Pix[i], 255})
	}
	name := filepath.Join(t.TempDir(), "aslant.jpg")
	var file bytes.Buffer
	jpeg.Encode(&file, img, &jpeg.Options{Quality: 60})
	if err := os.WriteFile(name, file.Bytes(), 0o644); err != nil {
		t.Fatal(err)
	}
	return name
}
