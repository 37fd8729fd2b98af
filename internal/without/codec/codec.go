// Package codec stands in for the one that Gin names, and reads and writes nothing: see ../README.md.
package codec

import (
	"errors"
	"io"
)

var without = errors.New("built without MessagePack")

// MsgpackHandle says how nothing is read.
type MsgpackHandle struct{}

// Decoder decodes nothing.
type Decoder struct{}

// NewDecoder returns one.
func NewDecoder(io.Reader, *MsgpackHandle) *Decoder { return &Decoder{} }

// Decode refuses.
func (*Decoder) Decode(any) error { return without }

// Encoder encodes nothing.
type Encoder struct{}

// NewEncoder returns one.
func NewEncoder(io.Writer, *MsgpackHandle) *Encoder { return &Encoder{} }

// Encode refuses.
func (*Encoder) Encode(any) error { return without }
