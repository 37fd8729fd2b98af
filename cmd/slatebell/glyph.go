package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"slatebell/core/part/charrom"
	"slatebell/core/text/glyph"
	"slatebell/core/text/picture"
	"slatebell/formats/dottext"
	"slatebell/formats/glyphs"
	"slatebell/formats/raster"
)

func newGlyph(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "glyph", Short: "Convert glyphs between formats, and cut pictures into them", Args: noCommand,
		RunE: func(c *cobra.Command, _ []string) error {
			return wrong(exitUsage, "no command; expected convert or cut (%s --help explains them)", c.CommandPath())
		},
	}
	c.AddCommand(newConvert(std), newCut(std))
	return c
}

// input reads a file, or standard input for "-".
func input(name string, std stdio, most int64) ([]byte, error) {
	in := std.in
	if name != "-" {
		f, err := os.Open(name)
		if err != nil {
			return nil, wrong(exitUsage, "%w", err)
		}
		defer f.Close()
		in = f
	}
	data, err := io.ReadAll(io.LimitReader(in, most+1))
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", name, err)
	}
	if int64(len(data)) > most {
		return nil, wrong(exitUsage, "%s: more than %d MiB", name, most>>20)
	}
	return data, nil
}

func newConvert(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "convert --from FILE|- --to FORM", Short: "Read glyphs in any form and write them in another",
		Long: "Read glyphs in any form and write them in another. What comes in is found by its\n" +
			"content: a library of glyphs (JSON), a font (BDF 2.1), a picture of whole cells\n" +
			"(PBM, PNG), or text: eight numbers in any base, an array of C or Python, a line\n" +
			"of hexadecimal, eight lines of dots and blanks. What cannot be read is named with\nits line and column; the exit code is 2 then.",
		Example: "  echo 'B00100,B01110,B01110,B01110,B11111,0,B00100,0' | slatebell glyph convert --from - --to c\n  slatebell glyph convert --from signs.bdf --to json > signs.json", Args: noArgs,
	}
	from := c.Flags().String("from", "", "file to read, - for standard input")
	to := c.Flags().String("to", "", strings.Join(glyphs.Kinds, ", "))
	choices(c, "to", glyphs.Kinds...)
	c.RunE = func(*cobra.Command, []string) error {
		if *from == "" || *to == "" {
			return wrong(exitUsage, "expected --from FILE (or -) and --to with one of %s", strings.Join(glyphs.Kinds, ", "))
		}
		data, err := input(*from, std, raster.MaxBytes)
		if err != nil {
			return err
		}
		read, err := glyphs.Read(data)
		if err != nil {
			var place *dottext.Error
			if errors.As(err, &place) {
				return wrong(exitUsage, "%s:%d:%d: %s", *from, place.Line, place.Col, place.What)
			}
			return wrong(exitUsage, "%s: %w", *from, err)
		}
		var out strings.Builder
		if err := glyphs.Write(&out, *to, read.Glyphs); err != nil {
			return wrong(exitUsage, "--to: %w", err)
		}
		_, err = io.WriteString(std.out, out.String())
		return err
	}
	return c
}

// cutOptions say how a picture is cut.
type cutOptions struct {
	block  picture.Block
	dots   raster.Options
	target picture.Target
}

func newCut(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "cut --cells COLSxROWS PICTURE", Short: "Cut a picture into glyphs, and say which cell shows which",
		Long: "Cut a picture, PNG or PBM, into the glyphs of a block of cells. A picture of\n" +
			"another size is made to fit. Blank cells and those that the ROM has cost no slot,\n" +
			"equal ones share one; where more glyphs remain than slots, they are merged so that\n" +
			"the fewest dots change.\n\n" +
			"A line a slot is printed, with its eight rows in hexadecimal, then the map of the\n" +
			"cells: the code that each shows, in hexadecimal, a line a row. The last line says\nhow many dots were changed, and whether that is proved to be the fewest.",
		Example: "  slatebell glyph cut --cells 4x2 boat.png\n  slatebell glyph cut --cells 4x2 --gaps --dither diffuse boat.png", Args: oneFile("a picture"),
	}
	cells := c.Flags().String("cells", "", "block of cells, COLSxROWS such as 4x2")
	gaps := c.Flags().Bool("gaps", false, "the picture has the dots that are hidden between cells, one wide")
	rom := c.Flags().String("rom", "A00", "ROM whose characters cost no slot: "+strings.Join(charrom.Names(), ", ")+" or none")
	slots := c.Flags().Int("slots", glyph.Slots, "slots that glyphs may take, 0–8")
	font := c.Flags().String("font", "5x8", "dots of a cell: 5x8 or 5x10")
	threshold := c.Flags().Int("threshold", 128, "grey below which a dot is lit, 1–255")
	dither := c.Flags().String("dither", "none", "none, diffuse or ordered")
	invert := c.Flags().Bool("invert", false, "bright dots are lit")
	format := formatFlag(c, "text", "json")
	c.RunE = func(_ *cobra.Command, args []string) error {
		form, err := format()
		if err != nil {
			return err
		}
		o := cutOptions{dots: raster.Options{Threshold: *threshold, Dither: raster.Dither(*dither), Invert: *invert}, target: picture.Target{Slots: *slots}}
		if *dither == "none" {
			o.dots.Dither = raster.None
		}
		if *threshold < 1 {
			return wrong(exitUsage, "--threshold %d; expected 1–255", *threshold)
		}
		if o.block, err = readBlock(*cells); err != nil {
			return err
		}
		o.block.Gaps = *gaps
		switch *font {
		case "5x8":
		case "5x10":
			o.block.CellRows, o.target.Tall = glyph.MaxRows, true
		default:
			return wrong(exitUsage, "--font %q; expected 5x8 or 5x10", *font)
		}
		if most := glyph.Slots / map[bool]int{false: 1, true: 2}[o.target.Tall]; *slots < 0 || *slots > most {
			return wrong(exitUsage, "--slots %d; expected 0–%d", *slots, most)
		}
		if *rom != "none" {
			known, ok := charrom.ByName(*rom)
			if !ok {
				return wrong(exitUsage, "--rom %q; expected %s or none", *rom, strings.Join(charrom.Names(), ", "))
			}
			o.target.ROM = known
		}
		data, err := input(args[0], std, raster.MaxBytes)
		if err != nil {
			return err
		}
		return o.cut(std.out, args[0], data, form)
	}
	return c
}

// readBlock reads COLSxROWS.
func readBlock(text string) (picture.Block, error) {
	across, down, ok := strings.Cut(strings.ReplaceAll(text, "×", "x"), "x")
	cols, err1 := strconv.Atoi(across)
	rows, err2 := strconv.Atoi(down)
	b := picture.Block{Cols: cols, Rows: rows}
	if !ok || err1 != nil || err2 != nil {
		return b, wrong(exitUsage, "--cells %q; expected COLSxROWS such as 4x2", text)
	}
	if err := b.Check(); err != nil {
		return b, wrong(exitUsage, "--cells: %w", err)
	}
	return b, nil
}

// cut prints how a picture is shown.
func (o cutOptions) cut(w io.Writer, name string, data []byte, form string) error {
	p, err := raster.Read(data, o.block, o.dots)
	if err != nil {
		return wrong(exitUsage, "%s: %w", name, err)
	}
	cells, err := o.block.Cut(&p)
	if err != nil {
		return err
	}
	shared := picture.Share(cells, o.target)
	step := 1
	if o.target.Tall {
		step = 2
	}
	if form == "json" {
		return o.cutJSON(w, &shared, step)
	}
	var text strings.Builder
	for i, g := range shared.Glyphs {
		fmt.Fprintf(&text, "slot %d ", i*step)
		for _, bits := range g.Ints() {
			fmt.Fprintf(&text, " %02X", bits)
		}
		text.WriteByte('\n')
	}
	text.WriteString("cells\n")
	for i, c := range shared.Cells {
		fmt.Fprintf(&text, "%02X", codeOf(c, step))
		text.WriteString(map[bool]string{true: "\n", false: " "}[(i+1)%o.block.Cols == 0])
	}
	fmt.Fprintf(&text, "changed %d %s\n", shared.Changed, map[bool]string{true: "dots, the fewest", false: "dots, not proved to be the fewest"}[shared.Least])
	_, err = io.WriteString(w, text.String())
	return err
}

// codeOf returns the code of a cell whose glyphs take every step-th slot.
func codeOf(c picture.Tile, step int) int {
	if c.Glyph >= 0 {
		return c.Glyph * step
	}
	return int(c.Code)
}

func (o cutOptions) cutJSON(w io.Writer, shared *picture.Shared, step int) error {
	doc := struct {
		Slots   glyph.Bank `json:"slots"`
		Cols    int        `json:"cols"`
		Cells   []int      `json:"cells"`
		Changed int        `json:"changed"`
		Least   bool       `json:"least"`
	}{Slots: glyph.Bank{}, Cols: o.block.Cols, Changed: shared.Changed, Least: shared.Least}
	for i, g := range shared.Glyphs {
		doc.Slots = append(doc.Slots, glyph.New(i*step, "", g))
	}
	for _, c := range shared.Cells {
		doc.Cells = append(doc.Cells, codeOf(c, step))
	}
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	return e.Encode(doc)
}
