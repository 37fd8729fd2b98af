// Package benchjson reads and writes benches as JSON, reads documents of every
// earlier version, and applies RFC 6902 patches to them. docs/formats.md
// describes the document; its JSON Schemas, one a version, stand beside this
// file and say what each value may be.
//
// It stands between core/bench, whose types and rules it uses, and whatever
// keeps or exchanges benches: store, API and command line.
package benchjson

import (
	"bytes"
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"slatebell/core/bench"
)

// MaxSize bounds a document, in bytes: a bench takes less than 4 MiB, the rest is
// pictures of its log.
const MaxSize = 32 << 20

// maxProblems bounds how much is said about one document.
const maxProblems = 20

// SyntaxError says where a document is no JSON. Line and Col count from 1; Col
// counts characters.
type SyntaxError struct {
	Line, Col int
	What      string
}

func (e *SyntaxError) Error() string {
	return fmt.Sprintf("line %d, column %d: %s", e.Line, e.Col, e.What)
}

// Read reads a document and migrates one of an earlier version; a log in it is left. What it
// returns passes bench.Validate. Its error is a *SyntaxError where the text is no JSON, and
// bench.Problems, each with its pointer, where the document cannot be.
func Read(r io.Reader) (bench.Bench, error) {
	a, err := ReadArchive(r)
	return a.Bench, err
}

// ReadArchive is Read with the log.
func ReadArchive(r io.Reader) (bench.Archive, error) {
	data, err := io.ReadAll(io.LimitReader(r, MaxSize+1))
	if err != nil {
		return bench.Archive{}, fmt.Errorf("reading bench: %w", err)
	}
	return ParseArchive(data)
}

// Parse is Read of a document in memory.
func Parse(data []byte) (bench.Bench, error) {
	a, err := ParseArchive(data)
	return a.Bench, err
}

// ParseArchive is ReadArchive of a document in memory.
func ParseArchive(data []byte) (bench.Archive, error) {
	if len(data) > MaxSize {
		return bench.Archive{}, bench.Problems{{What: fmt.Sprintf("the document is longer than %d bytes, which no bench needs", MaxSize)}}
	}
	data = bytes.TrimPrefix(data, []byte("\uFEFF"))
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	if err != nil {
		return bench.Archive{}, syntax(data, err)
	}
	version, err := versionOf(doc)
	if err != nil {
		return bench.Archive{}, err
	}
	if err := checkSchema(version, doc); err != nil {
		return bench.Archive{}, err
	}
	a, err := decode(data)
	if err != nil {
		return bench.Archive{}, bench.Problems{{What: err.Error()}}
	}
	if err := a.Validate(); err != nil {
		return bench.Archive{}, err
	}
	return a, nil
}

// Decode reads a document that was checked when it was written, of any version,
// and migrates it.
func Decode(data []byte) (bench.Bench, error) {
	a, err := decode(data)
	return a.Bench, err
}

func decode(data []byte) (a bench.Archive, err error) {
	var head struct{ Version int }
	if err := json.Unmarshal(data, &head); err != nil {
		return a, err
	}
	if head.Version == 1 {
		var old bench.V1
		if err := json.Unmarshal(data, &old); err != nil {
			return a, err
		}
		a.Bench = old.Migrate()
		return a, nil
	}
	err = json.Unmarshal(data, &a)
	return a, err
}

// syntax places an error of the JSON reader.
func syntax(data []byte, err error) error {
	at, what := len(data), "the document ends before it is complete"
	var s *json.SyntaxError
	switch {
	case errors.As(err, &s):
		if s.Offset < int64(len(data)) || !errors.Is(err, io.ErrUnexpectedEOF) && s.Error() != "unexpected end of JSON input" {
			at, what = int(max(s.Offset-1, 0)), s.Error()
		}
	case !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF):
		at, what = afterFirst(data), "there is more behind the end of the document"
	}
	before := data[:min(at, len(data))]
	return &SyntaxError{
		Line: 1 + bytes.Count(before, []byte("\n")), Col: 1 + utf8.RuneCount(before[bytes.LastIndexByte(before, '\n')+1:]),
		What: what + "; expected a bench as JSON",
	}
}

// afterFirst returns where what follows the first JSON value begins.
func afterFirst(data []byte) int {
	d := json.NewDecoder(bytes.NewReader(data))
	var first json.RawMessage
	if d.Decode(&first) != nil {
		return len(data)
	}
	at := int(d.InputOffset())
	return at + len(data[at:]) - len(bytes.TrimLeft(data[at:], " \t\r\n"))
}

// versionOf reads what a document says that it is.
func versionOf(doc any) (int, error) {
	members, ok := doc.(map[string]any)
	if !ok {
		return 0, bench.Problems{{What: fmt.Sprintf("not an object; expected a bench with \"format\": %q", bench.Format)}}
	}
	if members["format"] != bench.Format {
		return 0, bench.Problems{{Path: "/format", What: fmt.Sprintf("%s; expected %q", brief(members["format"]), bench.Format)}}
	}
	number, _ := members["version"].(json.Number)
	version, err := number.Int64()
	switch {
	case err != nil || version < 1:
		return 0, bench.Problems{{Path: "/version", What: fmt.Sprintf("%s; expected 1 to %d", brief(members["version"]), bench.Version)}}
	case version > bench.Version:
		return 0, bench.Problems{{Path: "/version", What: fmt.Sprintf("%d was made by a newer Slate Bell; this one reads versions 1 to %d, so read it with the newer one", version, bench.Version)}}
	}
	return int(version), nil
}

// brief writes a value in few characters.
func brief(v any) string {
	if v == nil {
		return "missing"
	}
	text, _ := json.Marshal(v)
	if len(text) > quoted {
		text = append([]byte(strings.ToValidUTF8(string(text[:quoted]), "")), "…"...)
	}
	return string(text)
}

// quoted bounds how much of a value is said again, in bytes.
const quoted = 40

//go:embed bench.v1.schema.json
var schema1 []byte

//go:embed bench.schema.json
var schema2 []byte

// Schema is the JSON Schema, 2020-12, of the present version.
func Schema() []byte { return schema2 }

// schemas compiles the schema of each version when one is first needed.
var schemas = sync.OnceValues(func() (compiled [bench.Version + 1]*jsonschema.Schema, err error) {
	for version, text := range map[int][]byte{1: schema1, 2: schema2} {
		name := fmt.Sprintf("bench-%d.json", version)
		c := jsonschema.NewCompiler()
		doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
		if err != nil {
			return compiled, fmt.Errorf("%s: %w", name, err)
		}
		if err := c.AddResource(name, doc); err != nil {
			return compiled, err
		}
		if compiled[version], err = c.Compile(name); err != nil {
			return compiled, err
		}
	}
	return compiled, nil
})

// checkSchema holds a document against the schema of its version.
func checkSchema(version int, doc any) error {
	compiled, err := schemas()
	if err != nil {
		return fmt.Errorf("the schema of benches: %w", err)
	}
	err = compiled[version].Validate(doc)
	var invalid *jsonschema.ValidationError
	if !errors.As(err, &invalid) {
		return err
	}
	var p bench.Problems
	collect(invalid, &p)
	return p
}

var english = message.NewPrinter(language.English)

// collect lists the innermost errors of a validation.
func collect(e *jsonschema.ValidationError, p *bench.Problems) {
	if len(*p) == maxProblems {
		return
	}
	if len(e.Causes) == 0 {
		var at strings.Builder
		for _, part := range e.InstanceLocation {
			at.WriteByte('/')
			at.WriteString(strings.NewReplacer("~", "~0", "/", "~1").Replace(part))
		}
		what := []rune(e.ErrorKind.LocalizedString(english))
		if len(what) > 200 {
			what = append(what[:200], '…')
		}
		*p = append(*p, bench.Problem{Path: at.String(), What: string(what)})
	}
	for _, cause := range e.Causes {
		collect(cause, p)
	}
}
