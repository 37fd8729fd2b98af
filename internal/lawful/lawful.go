// Package lawful makes documents at random from a JSON Schema, for tests of what programs do
// with documents that nobody has thought of: optional members left out and added, lists
// shortened and doubled, numbers at their borders, ids and texts that get in each other's way.
//
// A schema alone does not say all that makes a document lawful, so that a change is tried
// and taken back where the caller refuses the document that it leads to.
package lawful

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
)

// Maker makes values by the schemas of a document that holds them, such as a bench's
// JSON Schema or an OpenAPI document.
type Maker struct {
	Rand  *rand.Rand
	IDs   []string // for strings that have a pattern
	Texts []string // for other strings, beside those that a document holds already
	root  map[string]any
}

// New returns a maker of what a JSON document describes.
func New(r *rand.Rand, schemas []byte) (*Maker, error) {
	m := &Maker{Rand: r}
	if err := json.Unmarshal(schemas, &m.root); err != nil {
		return nil, fmt.Errorf("reading schemas: %w", err)
	}
	return m, nil
}

// At returns the schema at a reference such as #/$defs/Archive; nil where there is none.
func (m *Maker) At(ref string) map[string]any {
	var at any = m.root
	for _, part := range strings.Split(strings.TrimPrefix(ref, "#/"), "/") {
		o, _ := at.(map[string]any)
		at = o[strings.NewReplacer("~1", "/", "~0", "~").Replace(part)]
	}
	s, _ := at.(map[string]any)
	return m.resolve(s)
}

func (m *Maker) resolve(s map[string]any) map[string]any {
	if ref, ok := s["$ref"].(string); ok {
		return m.At(ref)
	}
	return s
}

// kindOf returns the type of what a schema describes, without null.
func kindOf(s map[string]any) string {
	switch t := s["type"].(type) {
	case string:
		return t
	case []any:
		for _, one := range t {
			if one != "null" {
				return one.(string)
			}
		}
	}
	return ""
}

// deepest bounds how deep a value made from nothing goes.
const deepest = 8

// Value returns a value of a schema, made from nothing.
func (m *Maker) Value(s map[string]any) any { return m.value(s, 0) }

func (m *Maker) value(s map[string]any, depth int) any {
	s = m.resolve(s)
	if of, ok := s["enum"].([]any); ok {
		return of[m.Rand.IntN(len(of))]
	}
	switch kindOf(s) {
	case "object":
		out := map[string]any{}
		properties, _ := s["properties"].(map[string]any)
		for _, name := range sorted(properties) {
			if required(s, name) || depth < deepest && m.Rand.IntN(3) == 0 {
				out[name] = m.value(properties[name].(map[string]any), depth+1)
			}
		}
		return out
	case "array":
		out := []any{}
		least := int(number(s, "minItems", 0))
		for len(out) < min(least+m.Rand.IntN(3), int(number(s, "maxItems", 1e9))) {
			out = append(out, m.value(s["items"].(map[string]any), depth+1))
		}
		return out
	case "integer":
		return m.figure(s, true)
	case "number":
		return m.figure(s, false)
	case "boolean":
		return m.Rand.IntN(2) == 0
	case "string":
		return m.text(s, nil)
	}
	return nil
}

// figure returns a number, often at a border.
func (m *Maker) figure(s map[string]any, whole bool) any {
	low, high := number(s, "minimum", -1e6), number(s, "maximum", 1e6)
	span := high - low
	pick := []float64{low, high, 0, 1, low + 1, high - 1, low + span/2, low + m.Rand.Float64()*span, low + m.Rand.Float64()*min(span, 30)}
	v := min(max(pick[m.Rand.IntN(len(pick))], low), high)
	if whole {
		return float64(int64(v))
	}
	return v
}

// text returns a string: an id, one that stands elsewhere, or one of the maker's.
func (m *Maker) text(s map[string]any, known []string) string {
	from := m.Texts
	if _, ok := s["pattern"]; ok {
		from = m.IDs
	} else if len(known) > 0 && m.Rand.IntN(2) == 0 {
		from = known
	}
	out := ""
	if len(from) > 0 {
		out = from[m.Rand.IntN(len(from))]
	}
	runes := []rune(out)
	if longest := int(number(s, "maxLength", 1e9)); len(runes) > longest {
		runes = runes[:longest]
	}
	for len(runes) < int(number(s, "minLength", 0)) {
		runes = append(runes, 'x')
	}
	return string(runes)
}

// place is somewhere in a document that can be changed.
type place struct {
	schema map[string]any
	value  any
	set    func(any) // nil of v removes it
	free   bool      // it may be removed
}

// Vary changes a document of a schema in so many places. Each change is kept where lawful
// says so.
func (m *Maker) Vary(doc any, s map[string]any, n int, lawful func(any) bool) any {
	doc = clone(doc)
	for range n {
		next := clone(doc)
		var places []place
		var known []string
		m.places(next, s, func(v any) { next = v }, false, &places, &known)
		if len(places) == 0 {
			return doc
		}
		m.change(&places[m.Rand.IntN(len(places))], known)
		if lawful(next) {
			doc = next
		}
	}
	return doc
}

// Retext puts one of the maker's texts into every place of a document where any text may
// stand. Each is kept where lawful says so; it returns how many were.
func (m *Maker) Retext(doc any, s map[string]any, lawful func(any) bool) (any, int) {
	doc = clone(doc)
	kept := 0
	for i := 0; ; i++ {
		next := clone(doc)
		var places []place
		var known []string
		m.places(next, s, func(v any) { next = v }, false, &places, &known)
		places = slices.DeleteFunc(places, func(p place) bool {
			_, text := p.value.(string)
			return !text || p.schema["enum"] != nil || p.schema["pattern"] != nil
		})
		if i == len(places) {
			return doc, kept
		}
		places[i].set(m.text(places[i].schema, nil))
		if lawful(next) {
			doc = next
			kept++
		}
	}
}

// gone marks a member that is to be taken out.
type gone struct{}

// places gathers the places of a value, and its strings.
func (m *Maker) places(v any, s map[string]any, set func(any), free bool, out *[]place, known *[]string) {
	s = m.resolve(s)
	*out = append(*out, place{s, v, set, free})
	switch v := v.(type) {
	case string:
		*known = append(*known, v)
	case map[string]any:
		properties, _ := s["properties"].(map[string]any)
		for _, name := range sorted(properties) {
			property := properties[name].(map[string]any)
			put := func(value any) {
				if _, take := value.(gone); take {
					delete(v, name)
				} else {
					v[name] = value
				}
			}
			if inner, there := v[name]; there {
				m.places(inner, property, put, !required(s, name), out, known)
			} else {
				*out = append(*out, place{m.resolve(property), nil, put, false})
			}
		}
	case []any:
		items, _ := s["items"].(map[string]any)
		for i := range v {
			m.places(v[i], items, func(value any) {
				if _, take := value.(gone); take {
					set(slices.Delete(slices.Clone(v), i, i+1))
				} else {
					v[i] = value
				}
			}, true, out, known)
		}
	}
}

// change does something to a place.
func (m *Maker) change(p *place, known []string) {
	if p.free && m.Rand.IntN(3) == 0 {
		p.set(gone{})
		return
	}
	switch v := p.value.(type) {
	case []any:
		switch at := m.Rand.IntN(3); {
		case at == 0 && len(v) > 0:
			p.set(v[:m.Rand.IntN(len(v))])
		case at == 1 && len(v) > 0:
			twin := clone(v[m.Rand.IntN(len(v))])
			if o, ok := twin.(map[string]any); ok && o["id"] != nil && len(m.IDs) > 0 {
				o["id"] = m.IDs[m.Rand.IntN(len(m.IDs))]
			}
			p.set(append(slices.Clone(v), twin))
		default:
			p.set(append(slices.Clone(v), m.Value(p.schema["items"].(map[string]any))))
		}
	case string:
		if _, of := p.schema["enum"]; !of {
			p.set(m.text(p.schema, known))
			return
		}
		p.set(m.Value(p.schema))
	default:
		p.set(m.Value(p.schema))
	}
}

func number(s map[string]any, name string, otherwise float64) float64 {
	if v, ok := s[name].(float64); ok {
		return v
	}
	return otherwise
}

func required(s map[string]any, name string) bool {
	list, _ := s["required"].([]any)
	return slices.Contains(list, any(name))
}

func sorted(m map[string]any) []string {
	out := make([]string, 0, len(m))
	for name := range m {
		out = append(out, name)
	}
	slices.Sort(out)
	return out
}

// clone copies a JSON value.
func clone(v any) any {
	switch v := v.(type) {
	case map[string]any:
		out := make(map[string]any, len(v))
		for name, inner := range v {
			out[name] = clone(inner)
		}
		return out
	case []any:
		out := make([]any, len(v))
		for i := range v {
			out[i] = clone(v[i])
		}
		return out
	}
	return v
}

// Plain turns any value into the JSON value that it is written as.
func Plain(v any) (out any, err error) {
	data, err := json.Marshal(v)
	if err != nil {
		return nil, err
	}
	return out, json.Unmarshal(data, &out)
}
