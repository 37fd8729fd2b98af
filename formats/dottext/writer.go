package dottext

import (
	_ "embed"
	"fmt"
	"io"
	"strings"
	"text/template"
	"unicode"

	"slatebell/core/quoting"
	"slatebell/core/text/glyph"
)

// Form is a form in which glyphs are written.
type Form string

// The forms.
const (
	C      Form = "c"      // an array a glyph, C99
	Python Form = "python" // a list a glyph
	Hex    Form = "hex"    // a line of two digits a row
	Bits   Form = "bits"   // a line a row, in binary
)

//go:embed c.tmpl
var cText string

//go:embed python.tmpl
var pythonText string

//go:embed bits.tmpl
var bitsText string

//go:embed hex.tmpl
var hexText string

var forms = map[Form]*template.Template{
	C: form("c", cText), Python: form("python", pythonText), Bits: form("bits", bitsText), Hex: form("hex", hexText),
}

func form(name, text string) *template.Template { return template.Must(template.New(name).Parse(text)) }

// named glyph, as the forms know it.
type written struct {
	Name, ID string
	Rows     []string // the value of each row, in the form's base
	Dots     []string // the same as # and .
}

// Write writes glyphs in a form that Read reads.
func Write(w io.Writer, kind Form, list []glyph.Drawing) error {
	t, ok := forms[kind]
	if !ok {
		return fmt.Errorf("%q is no form of glyphs; expected c, python, hex or bits", kind)
	}
	base := map[Form]string{C: "0x%02X", Python: "0b%05b", Bits: "0b%05b", Hex: "%02X"}[kind]
	ids := map[string]bool{}
	data := make([]written, len(list))
	for i := range list {
		d := &list[i]
		data[i].Name = quoting.Comment(d.Name)
		data[i].ID = identifier(d.Name, i, ids)
		for _, v := range d.Rows {
			data[i].Rows = append(data[i].Rows, fmt.Sprintf(base, v))
			data[i].Dots = append(data[i].Dots, strings.NewReplacer("0", ".", "1", "#").Replace(fmt.Sprintf("%05b", v)))
		}
	}
	return t.Execute(w, data)
}

// reserved are words that are no names in C or Python.
var reserved = " auto break case char const continue default do double else enum extern float for goto if inline int long register restrict return short signed sizeof static struct switch typedef union unsigned void volatile while and as assert async await class def del elif except finally from global import in is lambda nonlocal not or pass raise try with yield "

// identifier returns a glyph's name as programs write it, unlike those before it.
func identifier(name string, i int, taken map[string]bool) string {
	var b strings.Builder
	for _, ch := range strings.ToLower(name) {
		switch {
		case ch < unicode.MaxASCII && (unicode.IsLetter(ch) || unicode.IsDigit(ch)):
			b.WriteRune(ch)
		case b.Len() > 0 && !strings.HasSuffix(b.String(), "_"):
			b.WriteByte('_')
		}
	}
	id := strings.TrimSuffix(b.String(), "_")
	switch {
	case id == "" || unicode.IsDigit(rune(id[0])):
		id = strings.TrimSuffix(fmt.Sprintf("glyph_%d_%s", i+1, id), "_")
	case strings.Contains(reserved, " "+id+" "):
		id += "_glyph"
	}
	for k, plain := 2, id; taken[id]; k++ {
		id = fmt.Sprintf("%s_%d", plain, k)
	}
	taken[id] = true
	return id
}
