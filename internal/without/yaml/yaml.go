// Package yaml stands in for the one that Gin names, and reads and writes nothing: see ../README.md.
package yaml

import (
	"errors"
	"io"
)

var without = errors.New("built without YAML")

// Decoder decodes nothing.
type Decoder struct{}

// NewDecoder returns one.
func NewDecoder(io.Reader) *Decoder { return &Decoder{} }

// Decode refuses.
func (*Decoder) Decode(any) error { return without }

// Marshal refuses.
func Marshal(any) ([]byte, error) { return nil, without }
