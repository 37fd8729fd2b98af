package line

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
)

// patch returns the RFC 6902 patch that makes one JSON text of another, both as encoding/json writes them. Objects that have the same members in the
// same order are gone into, and lists of objects or lists; all else is replaced. False where it would be longer than half of the text itself, or there
// is none to begin with.
func patch(before, after []byte) ([]byte, bool) {
	before, after = bytes.TrimSpace(before), bytes.TrimSpace(after)
	if len(before) == 0 || len(after) == 0 {
		return nil, false
	}
	p := patcher{most: len(after) / 2, text: []byte{'['}}
	p.compare("", before, after)
	return append(p.text, ']'), len(p.text) < p.most
}

// patcher writes a patch, and gives up once it is too long.
type patcher struct {
	text []byte
	most int
}

// add adds a change; value is nil where there is none.
func (p *patcher) add(op, path string, value []byte) {
	if len(p.text) > 1 {
		p.text = append(p.text, ',')
	}
	quoted, _ := json.Marshal(path)
	p.text = fmt.Appendf(p.text, `{"op":"%s","path":%s`, op, quoted)
	if value != nil {
		p.text = append(append(p.text, `,"value":`...), value...)
	}
	p.text = append(p.text, '}')
}

// compare adds what makes one value of another, which stand at a place.
func (p *patcher) compare(at string, a, b []byte) {
	switch {
	case bytes.Equal(a, b) || len(p.text) >= p.most:
	case a[0] == '{' && b[0] == '{':
		was, is := parts(a), parts(b)
		if !alike(was, is) {
			p.add("replace", at, b)
			return
		}
		for i, m := range is {
			p.compare(at+"/"+m.token(), was[i].value, m.value)
		}
	case listed(a) && listed(b):
		was, is := parts(a), parts(b)
		both := min(len(was), len(is))
		for i := range both {
			p.compare(at+"/"+strconv.Itoa(i), was[i].value, is[i].value)
		}
		for i := len(was) - 1; i >= both; i-- {
			p.add("remove", at+"/"+strconv.Itoa(i), nil)
		}
		for _, v := range is[both:] {
			p.add("add", at+"/-", v.value)
		}
	default:
		p.add("replace", at, b)
	}
}

// part is a member of an object, or an element of a list, which has no name.
type part struct {
	name  []byte // with its quotes
	value []byte
}

// pointed writes a member's name as a token of a JSON pointer, RFC 6901.
var pointed = strings.NewReplacer("~", "~0", "/", "~1")

func (p *part) token() string {
	var name string
	json.Unmarshal(p.name, &name) // is one
	return pointed.Replace(name)
}

// parts takes an object or a list apart.
func parts(text []byte) (out []part) {
	rest := text[1:]
	for rest[0] != '}' && rest[0] != ']' {
		var p part
		if text[0] == '{' {
			n := length(rest)
			p.name, rest = rest[:n], rest[n+1:]
		}
		n := length(rest)
		p.value, rest = rest[:n], rest[n:]
		out = append(out, p)
		if rest[0] == ',' {
			rest = rest[1:]
		}
	}
	return out
}

// length is how many bytes the value has with which a text begins.
func length(text []byte) int {
	depth, said := 0, false
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case said && c == '\\':
			i++
			continue
		case c == '"':
			said = !said
		case said:
			continue
		case c == '{' || c == '[':
			depth++
			continue
		case c == '}' || c == ']':
			if depth--; depth < 0 { // what holds the value ends
				return i
			}
		case c == ',' && depth == 0:
			return i
		default:
			continue
		}
		if depth == 0 && !said {
			return i + 1
		}
	}
	return len(text)
}

// alike reports whether two objects have the same members in the same order.
func alike(a, b []part) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if !bytes.Equal(a[i].name, b[i].name) {
			return false
		}
	}
	return true
}

// listed reports whether a value is a list of objects or of lists; a list of numbers or words is of one piece.
func listed(v []byte) bool { return v[0] == '[' && (v[1] == '{' || v[1] == '[') }
