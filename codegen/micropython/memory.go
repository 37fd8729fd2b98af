package micropython

import (
	"regexp"
	"strings"

	"slatebell/codegen/source"
	"slatebell/core/ship/firmware"
)

var (
	docstring = regexp.MustCompile(`(?s)"""[^"]*"""`)
	comment   = regexp.MustCompile(`(?m)[ \t]*#[^"\n]*$`)
	pyToken   = regexp.MustCompile(`[A-Za-z_][A-Za-z_0-9]*|0x[0-9A-F]+|\d+|b?"[^"]*"|[^\sA-Za-z0-9_]`)
)

// heaps are what MicroPython leaves to programs on a host, in bytes (from memory).
var heaps = map[string]int{"RP2040": 190_000, "RP2350": 480_000, "ESP32": 110_000, "ESP8266": 36_000}

// Heap is how many bytes of MicroPython's heap a program takes once it is there, and how many its host leaves
// it, 0 where nobody knows. It is told from the tokens and the names of the program, within a fifth (TestMemory);
// while a board compiles it, it takes some more.
func Heap(im *firmware.Image, files []source.File) (bytes, of int) {
	text := ""
	for _, f := range files {
		if strings.HasSuffix(f.Name, ".py") && f.Name != "main.py" {
			text += f.Text
		}
	}
	text = comment.ReplaceAllString(docstring.ReplaceAllString(text, ""), "")
	tokens, names := 0, 0
	seen := map[string]bool{}
	for _, tok := range pyToken.FindAllString(text, -1) {
		tokens++
		switch c := tok[0]; {
		case strings.HasPrefix(tok, `b"`), c == '"':
			names += len(tok) / 4 // a byte is written as four signs
		case (c == '_' || c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z') && !seen[tok]:
			seen[tok] = true
			names += len(tok)
		}
	}
	return 365 + (2305*tokens+6546*names)/1000, heaps[im.Host.Chip]
}
