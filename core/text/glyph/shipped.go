package glyph

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"
	"sync"

	"golang.org/x/text/unicode/norm"
	"golang.org/x/text/unicode/runenames"

	"slatebell/core/part/charrom"
)

//go:embed signs.chart
var signsChart string

// Letters lists, language by language, the letters that European languages write
// beside a to z (common practice: their alphabets).
var Letters = []struct{ Language, Letters string }{
	{"Albanian", "çë"}, {"Basque", "ñ"}, {"Catalan", "àçèéíïòóúü"}, {"Croatian", "čćđšž"}, {"Czech", "áčďéěíňóřšťúůýž"},
	{"Danish", "æøå"}, {"Dutch", "éëïóöü"}, {"Esperanto", "ĉĝĥĵŝŭ"}, {"Estonian", "äõöüšž"}, {"Faroese", "áðíóúýæø"},
	{"Finnish", "äöå"}, {"French", "àâæçèéêëîïôœùûüÿ"}, {"German", "äöüß"}, {"Hungarian", "áéíóöőúüű"}, {"Icelandic", "áðéíóúýþæö"},
	{"Irish", "áéíóú"}, {"Italian", "àèéìòù"}, {"Latvian", "āčēģīķļņšūž"}, {"Lithuanian", "ąčęėįšųūž"}, {"Maltese", "ċġħż"},
	{"Norwegian", "æøå"}, {"Polish", "ąćęłńóśźż"}, {"Portuguese", "àáâãçéêíóôõú"}, {"Romanian", "ăâîșț"}, {"Sami", "áčđŋšŧž"},
	{"Slovak", "áäčďéíĺľňóôŕšťúýž"}, {"Slovene", "čšž"}, {"Spanish", "áéíñóúü"}, {"Swedish", "åäö"}, {"Turkish", "çğıöşü"}, {"Welsh", "âêîôûŵŷ"},
}

// Shipped is the library that comes with the program: signs with their tag, and
// letters with the tag letter and the languages that write them. Letters bear
// their Unicode name and have the letter itself as first tag.
var Shipped = sync.OnceValue(func() Library {
	signs, err := readSigns(signsChart)
	if err != nil { // the chart's own test keeps this from happening
		return nil
	}
	return append(signs, letters()...)
})

// readSigns reads the chart of signs.
func readSigns(chart string) (out Library, err error) {
	tag := ""
	lines := strings.Split(chart, "\n")
	for i := 0; i < len(lines); i++ {
		line := lines[i]
		if name, ok := strings.CutPrefix(line, "["); ok {
			tag = strings.TrimSuffix(name, "]")
		}
		list, ok := strings.CutPrefix(line, ":")
		if !ok {
			continue
		}
		names := strings.Split(list, ",")
		patterns := make([]Pattern, len(names))
		for row := range Rows {
			i++
			if i >= len(lines) {
				return nil, fmt.Errorf("line %d: the chart ends within%s", i, list)
			}
			cells := strings.Fields(lines[i])
			if len(cells) != len(names) {
				return nil, fmt.Errorf("line %d: %d patterns for %d names", i+1, len(cells), len(names))
			}
			for k, dots := range cells {
				if len(dots) != Columns || strings.Trim(dots, "#.") != "" {
					return nil, fmt.Errorf("line %d: %q; expected five of . and #", i+1, dots)
				}
				for col, dot := range []byte(dots) {
					if dot == '#' {
						patterns[k][row] |= 1 << (Columns - 1 - col)
					}
				}
			}
		}
		for k, name := range names {
			out = append(out, Drawing{Name: strings.TrimSpace(name), Rows: patterns[k].Ints(), Tags: []string{tag}})
		}
	}
	return out, nil
}

// own draws the letters that are no letter of a ROM with a mark.
var own = map[rune]Pattern{
	'đ': {0b00010, 0b00111, 0b00010, 0b01110, 0b10010, 0b10010, 0b01110},
	'ð': {0b01010, 0b00100, 0b01010, 0b00010, 0b01110, 0b10010, 0b01100},
	'ħ': {0b10000, 0b11100, 0b10000, 0b11100, 0b10010, 0b10010, 0b10010},
	'ı': {0, 0, 0b01100, 0b00100, 0b00100, 0b00100, 0b01110},
	'ł': {0b01100, 0b00100, 0b00110, 0b00100, 0b01100, 0b00100, 0b01110},
	'ŋ': {0, 0, 0b10110, 0b11001, 0b10001, 0b10001, 0b00001, 0b00110},
	'ø': {0, 0b00001, 0b01110, 0b10011, 0b10101, 0b11001, 0b01110, 0b10000},
	'œ': {0, 0, 0b01010, 0b10101, 0b10111, 0b10100, 0b01011},
	'æ': {0, 0, 0b11010, 0b00101, 0b01111, 0b10100, 0b01011},
	'þ': {0b10000, 0b10000, 0b11110, 0b10001, 0b11110, 0b10000, 0b10000},
	'ß': {0b01100, 0b10010, 0b10010, 0b10110, 0b10001, 0b10001, 0b10110},
	'ŧ': {0b01000, 0b01000, 0b11110, 0b01000, 0b11110, 0b01001, 0b00110},
	'Đ': {0b01110, 0b01001, 0b01001, 0b11101, 0b01001, 0b01001, 0b01110},
	'Ð': {0b01110, 0b01001, 0b11101, 0b01001, 0b01001, 0b01001, 0b01110},
	'Ħ': {0b10001, 0b11111, 0b10001, 0b11111, 0b10001, 0b10001, 0b10001},
	'İ': {0b00100, 0, 0b01110, 0b00100, 0b00100, 0b00100, 0b01110},
	'Ł': {0b01000, 0b01000, 0b01010, 0b01100, 0b11000, 0b01000, 0b01111},
	'Ŋ': {0b10001, 0b11001, 0b10101, 0b10101, 0b10011, 0b10001, 0b00001, 0b00110},
	'Ø': {0b01111, 0b10011, 0b10011, 0b10101, 0b11001, 0b11001, 0b11110},
	'Œ': {0b01111, 0b10100, 0b10100, 0b10110, 0b10100, 0b10100, 0b01111},
	'Æ': {0b01111, 0b10100, 0b10100, 0b11111, 0b10100, 0b10100, 0b10111},
	'Þ': {0b10000, 0b11110, 0b10001, 0b10001, 0b11110, 0b10000, 0b10000},
	'Ŧ': {0b11111, 0b00100, 0b00100, 0b01110, 0b00100, 0b00100, 0b00100},
	'Ĉ': {0b00100, 0b01010, 0b01110, 0b10001, 0b10000, 0b10001, 0b01110},
	'Ĝ': {0b00100, 0b01010, 0b01110, 0b10000, 0b10111, 0b10001, 0b01111},
	'ĝ': {0b00100, 0b01010, 0b01111, 0b10001, 0b01111, 0b00001, 0b01110},
	'ģ': {0b00010, 0b00100, 0b01111, 0b10001, 0b01111, 0b00001, 0b01110},
}

// letters draws the letters of all languages, small and capital.
func letters() (out Library) {
	tags := map[rune][]string{}
	var order []rune
	add := func(ch rune, language string) {
		if _, known := tags[ch]; !known {
			order = append(order, ch)
		}
		if !slices.Contains(tags[ch], language) {
			tags[ch] = append(tags[ch], language)
		}
	}
	for _, l := range Letters {
		for _, ch := range norm.NFC.String(l.Letters) {
			add(ch, l.Language)
			if upper := capital(ch); upper != ch {
				add(upper, l.Language)
			}
		}
	}
	for _, ch := range order {
		p, ok := own[ch]
		if !ok {
			d, drawn := Draw(charrom.A00(), ch)
			if !drawn {
				continue
			}
			p = Of(d)
		}
		out = append(out, Drawing{Name: runenames.Name(ch), Rows: p.Ints(), Tags: slices.Concat([]string{string(ch), "letter"}, tags[ch])})
	}
	return out
}

// capital returns a small letter's capital, as its alphabet writes it.
func capital(ch rune) rune {
	switch ch {
	case 'ß', 'ÿ', 'ĸ':
		return ch // not written, or hardly
	case 'ı':
		return 'İ'
	}
	return []rune(strings.ToUpper(string(ch)))[0]
}
