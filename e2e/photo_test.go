package e2e

import (
	"bytes"
	"fmt"
	"image"
	"image/jpeg"
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slatebell/core/part/charrom"
	"slatebell/core/prove/photo/phototest"
	"slatebell/core/text/glyph"
)

// photographed writes a photograph of a glass of 16 × 2 cells with ROM A00.
func photographed(t *testing.T, text string) string {
	t.Helper()
	rom := charrom.A00()
	p := phototest.Some(rand.New(rand.NewPCG(30, 1)), 16, 2, 8, 30, 20, func(cell, row, col int) bool {
		return cell < len(text) && glyph.Of(rom.Dots(text[cell])).Lit(row, col)
	}).Take()
	var file bytes.Buffer
	jpeg.Encode(&file, &image.Gray{Pix: p.Pix, Stride: p.W, Rect: image.Rect(0, 0, p.W, p.H)}, &jpeg.Options{Quality: 80})
	name := filepath.Join(t.TempDir(), "glass.jpg")
	if err := os.WriteFile(name, file.Bytes(), 0o644); err != nil {
		t.Fatal(err)
	}
	return name
}

// TestPhotograph reads a photograph of garbled text in the fault finder, moves its corners by keys and by pointer, takes what is read for what
// is seen, and finds the cause; a picture of something else is refused, and nothing that was said is lost.
func TestPhotograph(t *testing.T) {
	t.Parallel()
	server := serve(t, "--demo")
	id := storeBench(t, server, crossed(t, "D4", "D5"))
	p := open(t, fmt.Sprintf("%s/benches/%d/hall/faults", server.URL, id))
	const part, file = `[aria-label="From a photograph"]`, `[aria-label="Photograph of the glass"]`
	says := `document.querySelector('` + part + ` [role=status]')?.innerText ?? ""`
	p.do(chromedp.SetUploadFiles(file, []string{photographed(t, "  o___ ? ? _")}, chromedp.NodeReady))
	until(p, says, "32 of 32 cells are read.")
	until(p, `document.querySelector('[aria-label="What the photograph shows"]').innerText.includes("Row 1 of the photographed glass differs")`, true)

	corner := `[aria-label="Upper left corner of the cells"]`
	at := `document.querySelector('` + corner + `').style.left`
	was := eval[string](p, at)
	p.do(chromedp.Focus(corner))
	p.keys(kb.ArrowRight)
	p.keys(kb.ArrowDown)
	until(p, says, "32 of 32 cells are read.") // near enough: it is found again
	x, y := p.at(corner)
	p.stroke(x, y, x+60, y+40, false) // far off
	until(p, at+` !== "`+was+`"`, true)
	p.do(chromedp.Click(`//button[.="Another photograph"]/following-sibling::button[.="Leave it"]`))
	p.do(chromedp.SetUploadFiles(file, []string{photographed(t, "  o___ ? ? _")}, chromedp.NodeReady))
	until(p, says, "32 of 32 cells are read.")
	p.do(chromedp.Focus(`//button[.="It is what I see"]`))
	p.keys(kb.Enter)
	until(p, firstCause, "wire.swapped:D4,D5")

	other := filepath.Join(t.TempDir(), "table.jpg")
	var grey bytes.Buffer
	jpeg.Encode(&grey, image.NewGray(image.Rect(0, 0, 400, 300)), nil)
	os.WriteFile(other, grey.Bytes(), 0o644)
	p.do(chromedp.SetUploadFiles(file, []string{other}, chromedp.NodeReady))
	until(p, `document.querySelector('`+part+` [role=alert]')?.innerText.startsWith("no glass found") ?? false`, true)
	until(p, firstCause, "wire.swapped:D4,D5")
}
