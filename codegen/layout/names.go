package layout

import (
	"fmt"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// reserved are words that no name may be: of C99 (ISO/IEC 9899:1999, 6.4.1), of Python 3
// (The Python Language Reference, 2.3.1), and of the generated files.
var reserved = func() map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(`auto break case char const continue default do double else enum extern float for goto if inline int long
		register restrict return short signed sizeof static struct switch typedef union unsigned void volatile while
		and as assert async await class def del elif except false finally from global import in is lambda none nonlocal not or pass
		raise true try with yield match slate port port_avr port_calls inputs main machine micropython time sys second round status begun`) {
		m[w] = true
	}
	return m
}()

// Names gives names of people's words, each once.
type Names map[string]bool

// Of returns a name in small letters, digits and underscores, as "high_water"; or
// otherwise where the text has nothing of the kind.
func (n Names) Of(text, otherwise string) string {
	name := Plain(text)
	if name == "" {
		name = Plain(otherwise)
	}
	if name == "" {
		name = "one"
	}
	if name[0] >= '0' && name[0] <= '9' || reserved[name] {
		name = "the_" + name
	}
	unique := name
	for i := 2; n[unique]; i++ {
		unique = fmt.Sprintf("%s_%d", name, i)
	}
	n[unique] = true
	return unique
}

// spelled is what letters that do not decompose are written as (common practice).
var spelled = strings.NewReplacer("ß", "ss", "æ", "ae", "œ", "oe", "ø", "o", "ł", "l", "đ", "d", "þ", "th", "ð", "d")

// Plain writes a text in small ASCII letters, digits and single underscores.
func Plain(text string) string {
	var b strings.Builder
	for _, ch := range norm.NFD.String(spelled.Replace(strings.ToLower(text))) {
		switch {
		case ch < 0x80 && (unicode.IsLetter(ch) || unicode.IsDigit(ch)):
			b.WriteRune(ch)
		case unicode.Is(unicode.Mn, ch): // a mark over the letter before it
		default:
			if s := b.String(); s != "" && !strings.HasSuffix(s, "_") {
				b.WriteByte('_')
			}
		}
	}
	return strings.Trim(b.String(), "_")
}
