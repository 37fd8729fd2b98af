package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/prove/photo"
	"slatebell/core/prove/testbed"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/formats/photofile"
)

// subject is what a photograph is of: a module, what its slots may hold, the screen that it should show and the colour of its glass, nil and "" where
// nobody says.
type subject struct {
	module module.Module
	glyphs glyph.Bank
	screen []byte
	tint   string
}

// photographed is what read prints of a photograph.
type photographed struct {
	Photo    string            `json:"photo"`
	Geometry string            `json:"geometry"`
	Corners  [4][2]float64     `json:"corners"` // of the field of cells, in pixels: upper left, upper right, lower right, lower left
	Dark     bool              `json:"dark"`    // dots are darker than their ground
	Contrast float64           `json:"contrast"`
	Colour   string            `json:"colour,omitempty"`
	Blank    bool              `json:"blank"`
	Rows     []string          `json:"rows"`
	Cells    []readCell        `json:"cells"` // row by row
	Findings []finding.Finding `json:"findings"`
}

// readCell is what a cell shows, and how sure that is, 0–1.
type readCell struct {
	Row       int       `json:"row"`
	Col       int       `json:"col"`
	Code      int       `json:"code"`
	Certainty float64   `json:"certainty"`
	Next      int       `json:"next"` // the next best code
	NextSure  float64   `json:"nextCertainty"`
	Dots      []float64 `json:"dots,omitempty"`
}

func newRead(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "read PHOTO... [BENCH.json --module ID]", Short: "Read the glass of a module from photographs",
		Long: "Read what a module's glass shows from photographs, JPEG or PNG, turned as the camera says. The window is found\n" +
			"by itself, or near the four corners that are given: upper left, upper right, lower right, lower left as the glass\n" +
			"is read, of the cells or of the window round them. Printed are the rows, without the spaces at their end: \\xHH is\n" +
			"a code without a character, \\\\ a backslash, " + string(photo.Block) + " a solid block, " + string(photo.Unreadable) + " what cannot be told. Findings go to\n" +
			"standard error. Without a bench and without --geometry the likeliest geometry is taken. With a bench the exit code is\n" +
			"1 where the glass differs from the module's screen; it is 1 as well where no glass is found.\n\n" +
			"With --chart the photographs are of the screens that slatebell export --as chart-screens shows, in any order, several\n" +
			"of one screen too; printed is the chart of the module's character ROM, and what it is like on standard error. The exit\n" +
			"code is 1 where a screen is missing.",
		Example: "  slatebell read glass.jpg --geometry 20x4\n  slatebell read glass.jpg boathouse.json --module gate --format json\n" +
			"  slatebell read --chart one.jpg two.jpg three.jpg four.jpg --geometry 20x4 > quay.chart",
	}
	m := addModuleFlags(c)
	id := c.Flags().String("module", "", "id of the bench's module; its only one where absent")
	shown := c.Flags().String("screen", "", "id of the bench's screen that should be on the glass; the module's first where absent")
	at := c.Flags().String("corners", "", "x,y,x,y,x,y,x,y in pixels of the photograph as it is seen")
	charted := c.Flags().Bool("chart", false, "photographs of the screens of a ROM's chart; prints the chart")
	format := formatFlag(c, "text", "json")
	c.RunE = func(_ *cobra.Command, args []string) error {
		how, err := format()
		if err != nil {
			return err
		}
		corners, err := cornersOf(*at)
		if err != nil {
			return err
		}
		photos, bench, err := photosOf(args)
		if err != nil {
			return err
		}
		var of []subject
		if bench != "" {
			one, err := photographedModule(bench, *id, *shown, std)
			if err != nil {
				return err
			}
			of = []subject{one}
		} else if of, err = modulesOf(m, *id, *shown, c.Flags().Changed("geometry")); err != nil {
			return err
		}
		if *charted {
			if bench == "" && !c.Flags().Changed("geometry") {
				return wrong(exitUsage, "--chart: nobody says which size the module has; expected --geometry, such as 20x4, or a bench document")
			}
			return learnChart(photos, &of[0].module, corners, how, std)
		}
		differs := false
		for _, p := range photos {
			out, err := p.read(of, corners)
			if err != nil {
				return wrong(exitFailed, "%s: %w", p.name, err)
			}
			for _, f := range out.Findings {
				differs = differs || f.Code == "photo.differs"
			}
			if err := out.print(std, how); err != nil {
				return err
			}
		}
		if differs {
			return coded{exitFailed, errors.New("")} // the findings have said it
		}
		return nil
	}
	return c
}

// cornersOf reads --corners; nil where nothing is given.
func cornersOf(text string) (*photo.Corners, error) {
	if text == "" {
		return nil, nil
	}
	parts := strings.Split(text, ",")
	var list [8]float64
	if len(parts) != len(list) {
		return nil, wrong(exitUsage, "--corners %q has %d numbers; expected 8: x,y of the upper left, upper right, lower right and lower left corner", text, len(parts))
	}
	for i, part := range parts {
		v, err := strconv.ParseFloat(strings.TrimSpace(part), 64)
		if err != nil || v < -100_000 || v > 100_000 {
			return nil, wrong(exitUsage, "--corners: %q is no place in a picture; expected a number of pixels", part)
		}
		list[i] = v
	}
	var c photo.Corners
	for i := range c {
		c[i] = photo.Point{X: list[2*i], Y: list[2*i+1]}
	}
	return &c, nil
}

// photoFile is a photograph's file.
type photoFile struct {
	name string
	data []byte
}

// photosOf tells the photographs among the arguments from the bench.
func photosOf(args []string) (photos []photoFile, bench string, err error) {
	for _, name := range args {
		data, err := os.ReadFile(name)
		if err != nil {
			return nil, "", wrong(exitUsage, "%w; expected a photograph, JPEG or PNG, or a bench document", err)
		}
		switch {
		case photofile.Type(data) != "":
			photos = append(photos, photoFile{name, data})
		case bytes.HasPrefix(bytes.TrimSpace(data), []byte("{")) && bench == "":
			bench = name
		default:
			return nil, "", wrong(exitUsage, "%s is neither a photograph, JPEG or PNG, nor a bench document", name)
		}
	}
	if len(photos) == 0 {
		return nil, "", wrong(exitUsage, "no photograph is given; expected JPEG or PNG files")
	}
	return photos, bench, nil
}

// photographedModule is a module of a bench, with the screen that it should show.
func photographedModule(name, id, shown string, std stdio) (s subject, err error) {
	b, err := readBench(name, std.in)
	if err != nil {
		return s, err
	}
	at := testbed.At{}
	if at.Module, err = moduleOf(&b, id); err != nil {
		return s, err
	}
	m := &b.Modules[at.Module]
	if shown != "" {
		var ids []string
		for i := range m.Screens {
			ids = append(ids, m.Screens[i].ID)
		}
		if at.Screen = slices.Index(ids, shown); at.Screen < 0 {
			return s, wrong(exitUsage, "--screen %q is not one of module %s; expected one of %s", shown, m.ID, strings.Join(ids, ", "))
		}
	}
	setup, err := testbed.Of(&b, at)
	if err != nil {
		return s, wrong(exitUsage, "%s: %w", name, err)
	}
	if s.module, _, err = setup.Build(); err != nil {
		return s, wrong(exitUsage, "%s: %w", name, err)
	}
	l := screen.Compose(&s.module, setup.Text(), setup.Sources())
	s.screen, s.glyphs, s.tint = l.Codes(), l.Bank, m.Display.Tint
	return s, nil
}

// modulesOf are the modules that a photograph without a bench may be of: that of the flags, in all geometries where none is named.
func modulesOf(m *moduleFlags, id, shown string, named bool) (out []subject, err error) {
	for flag, value := range map[string]string{"module": id, "screen": shown} {
		if value != "" {
			return nil, wrong(exitUsage, "--%s %s: it is of a bench; expected BENCH.json beside the photograph", flag, value)
		}
	}
	geometries := []string{m.module.Display.Geometry}
	if !named {
		geometries = nil
		for _, g := range module.Geometries {
			geometries = append(geometries, g.Name)
		}
	}
	for _, g := range geometries {
		one := *m
		one.module.Display.Geometry = g
		setup, err := one.setup(nil)
		if err != nil {
			if named {
				return nil, err
			}
			continue // a font or a link that this size does not have
		}
		mod, _, err := setup.Build()
		if err != nil {
			return nil, wrong(exitUsage, "%w", err)
		}
		out = append(out, subject{module: mod})
	}
	return out, nil
}

// read reads a photograph as the likeliest of some modules.
func (p *photoFile) read(of []subject, corners *photo.Corners) (*photographed, error) {
	g, err := photofile.Read(p.data)
	if err != nil {
		return nil, err
	}
	modules := make([]*module.Module, len(of))
	for i := range of {
		modules[i] = &of[i].module
	}
	is, r, err := photo.ReadAny(g, corners, modules, of[0].glyphs)
	if err != nil {
		return nil, err
	}
	s := &of[is]
	out := &photographed{
		Photo: p.name, Geometry: s.module.Geometry.Name, Dark: r.Dark, Contrast: r.Contrast, Colour: r.Colour, Blank: r.Blank, Rows: r.Text(&s.module),
		Findings: append(append([]finding.Finding{}, r.Findings(&s.module)...), r.Colours(s.tint)...),
	}
	if s.screen != nil {
		out.Findings = append(out.Findings, r.Differences(&s.module, s.glyphs, s.screen)...)
	}
	for i, c := range r.Corners {
		out.Corners[i] = [2]float64{c.X, c.Y}
	}
	for i, c := range r.Cells {
		out.Cells = append(out.Cells, readCell{
			Row: i / s.module.Geometry.Cols, Col: i % s.module.Geometry.Cols, Code: int(c.Code), Certainty: c.Sure, Next: int(c.Next), NextSure: c.Also, Dots: c.Dots,
		})
	}
	return out, nil
}

func (p *photographed) print(std stdio, how string) error {
	if how == "json" {
		e := json.NewEncoder(std.out)
		e.SetIndent("", "  ")
		return e.Encode(p)
	}
	for _, row := range p.Rows {
		if _, err := fmt.Fprintln(std.out, row); err != nil {
			return errors.New("the rows cannot be written")
		}
	}
	printFindings(std.err, p.Findings)
	return nil
}
