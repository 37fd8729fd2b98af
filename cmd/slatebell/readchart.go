package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/prove/chart"
	"slatebell/core/prove/photo"
	"slatebell/formats/photofile"
)

// chartRead is what read --chart prints as JSON.
type chartRead struct {
	Photos   []chartPhoto      `json:"photos"`
	Screens  int               `json:"screens"` // that the chart has
	Missing  []int             `json:"missing"` // screens without a photograph
	Like     string            `json:"like"`    // the ROM that it has most in common with
	Differs  []int             `json:"differs"` // codes in which it differs from that
	Codes    []chartCode       `json:"codes"`
	Chart    string            `json:"chart"` // as text has it
	Findings []finding.Finding `json:"findings"`
}

// chartPhoto says which screen a photograph shows, or why it is not read.
type chartPhoto struct {
	Photo  string `json:"photo"`
	Screen *int   `json:"screen,omitempty"`
	Error  string `json:"error,omitempty"`
}

// chartCode is what a code shows: rows of dots, a bit each, the leftmost the highest; and how sure the least sure of its dots is.
type chartCode struct {
	Code      int     `json:"code"`
	Rows      []int   `json:"rows"`
	Certainty float64 `json:"certainty"`
	Sights    int     `json:"sights"`
	Slot      bool    `json:"slot"` // a glyph of CGRAM
}

// ownChart is the name of a ROM that was learnt.
const ownChart = "learnt"

// learnChart learns the ROM of a module from photographs, and prints its chart.
func learnChart(photos []photoFile, m *module.Module, corners *photo.Corners, how string, std stdio) error {
	var shown []chart.Shown
	out := chartRead{Missing: []int{}, Differs: []int{}}
	for _, p := range photos {
		one := chartPhoto{Photo: p.name}
		s, err := p.screen(m, corners)
		if err == nil {
			shown, one.Screen = append(shown, s), &s.Screen
		} else {
			one.Error = err.Error()
			fmt.Fprintf(std.err, "%s: %v\n", p.name, err)
		}
		out.Photos = append(out.Photos, one)
	}
	if len(shown) == 0 {
		return wrong(exitFailed, "no photograph shows a screen of the chart")
	}
	c := chart.Learn(m, shown, nil)
	var text strings.Builder
	if _, err := c.ROM(ownChart).WriteTo(&text); err != nil {
		return err
	}
	out.Screens, out.Like, out.Chart, out.Findings = c.Screens, c.Like.ROM.Name, text.String(), c.Findings()
	out.Missing = append(out.Missing, c.Missing...)
	for _, code := range c.Like.Codes {
		out.Differs = append(out.Differs, int(code))
	}
	for code := range c.Codes {
		k := &c.Codes[code]
		if k.Sights > 0 {
			out.Codes = append(out.Codes, chartCode{code, k.Pattern.Ints(), k.Certainty(), k.Sights, k.Slot})
		}
	}
	if how == "json" {
		e := json.NewEncoder(std.out)
		e.SetIndent("", "  ")
		if err := e.Encode(out); err != nil {
			return err
		}
	} else {
		fmt.Fprint(std.out, out.Chart)
		printFindings(std.err, out.Findings)
	}
	if len(c.Missing) > 0 {
		return coded{exitFailed, errors.New("")} // the findings have said it
	}
	return nil
}

// screen finds out which screen of a chart a photograph shows.
func (p *photoFile) screen(m *module.Module, corners *photo.Corners) (s chart.Shown, err error) {
	g, err := photofile.Read(p.data)
	if err != nil {
		return s, err
	}
	return chart.Read(g, corners, m)
}
