package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/rig"
	"slatebell/formats/wirehex"
)

// pace is the time between two words that decode plays: hexadecimal carries no
// times, so every wait of the data sheet is taken to be kept.
const pace = 5 * time.Millisecond

// decodedState is a controller's state in decode's JSON.
type decodedState struct {
	DisplayOn bool   `json:"displayOn"`
	CursorOn  bool   `json:"cursorOn"`
	BlinkOn   bool   `json:"blinkOn"`
	Interface int    `json:"interface"` // bits
	Lines     int    `json:"lines"`
	Font      string `json:"font"`
	Memory    string `json:"memory"` // DDRAM or CGRAM
	Address   int    `json:"address"`
	Increment bool   `json:"increment"`
	AutoShift bool   `json:"autoShift"`
	Shift     int    `json:"shift"`
	HalfByte  bool   `json:"halfByte"` // a high nibble waits for its low one
}

func newState(c *hd44780.Controller) decodedState {
	s := decodedState{
		DisplayOn: c.DisplayOn, CursorOn: c.CursorOn, BlinkOn: c.BlinkOn, Interface: 8, Lines: c.Lines(), Font: "5x8", Memory: "DDRAM",
		Address: int(c.AC), Increment: !c.Decrement, AutoShift: c.AutoShift, Shift: int(c.Offset), HalfByte: c.Low,
	}
	if c.FourBit {
		s.Interface = 4
	}
	if c.Tall && !c.TwoLine {
		s.Font = "5x10"
	}
	if c.InCGRAM {
		s.Memory = "CGRAM"
	}
	return s
}

func (s decodedState) String() string {
	onOff := func(b bool) string {
		if b {
			return "on"
		}
		return "off"
	}
	direction, half := "up", ""
	if !s.Increment {
		direction = "down"
	}
	if s.HalfByte {
		half = ", half a byte received"
	}
	return fmt.Sprintf("display %s, cursor %s, blink %s; %d-bit, lines %d, font %s; %s address 0x%02X, counting %s, autoshift %s, shift %d%s",
		onOff(s.DisplayOn), onOff(s.CursorOn), onOff(s.BlinkOn), s.Interface, s.Lines, s.Font, s.Memory, s.Address, direction, onOff(s.AutoShift), s.Shift, half)
}

func newDecode(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "decode", Short: "Play wire bytes into a module and print its glass",
		Long: "Play wire bytes, in hexadecimal from standard input, into a module that has just\nbeen powered up, and print its glass and its controllers' state.", Example: "  slatebell decode --link backpack < wire.hex", Args: noArgs,
	}
	m := addModuleFlags(c)
	format := formatFlag(c, "text", "json")
	c.RunE = func(*cobra.Command, []string) error {
		how, err := format()
		if err != nil {
			return err
		}
		setup, err := m.setup(nil)
		if err != nil {
			return err
		}
		return decode(&setup, how, std)
	}
	return c
}

func decode(setup *testbed.Setup, format string, std stdio) error {
	mod, wired, err := setup.Build()
	if err != nil {
		return wrong(exitUsage, "%w", err)
	}
	hardware, err := rig.New(mod, wired)
	if err != nil {
		return wrong(exitUsage, "%w", err)
	}
	if err := feed(hardware, wirehex.NewReader(std.in, wired.Kind)); err != nil {
		return err
	}
	moment := hardware.Moment()
	glass := moment.Glass(&mod, mod.UsualContrast())
	rows := glass.Text(mod.ROM)
	var states []decodedState
	for i := range hardware.Controllers() {
		states = append(states, newState(&hardware.Controllers()[i]))
	}
	findings := append(append([]finding.Finding{}, rig.Findings(hardware.Violations())...), hardware.Judge()...)
	if format == "json" {
		enc := json.NewEncoder(std.out)
		enc.SetIndent("", "  ")
		return enc.Encode(map[string]any{"rows": rows, "controllers": states, "findings": findings})
	}
	printFindings(std.err, findings)
	var b strings.Builder
	for _, row := range rows {
		fmt.Fprintf(&b, "|%s|\n", row)
	}
	for _, s := range states {
		fmt.Fprintln(&b, s)
	}
	_, err = io.WriteString(std.out, b.String())
	return err
}

// feed plays words into a rig, well apart in time.
func feed(hardware *rig.Rig, words *wirehex.Reader) error {
	for at := hd44780.WaitAt3V; ; at += pace {
		w, err := words.Next()
		var syntax *wirehex.SyntaxError
		switch {
		case err == io.EOF:
			return nil
		case errors.As(err, &syntax):
			return wrong(exitUsage, "%w", err)
		case err != nil:
			return err
		}
		hardware.Feed(at, w)
	}
}
