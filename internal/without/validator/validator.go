// Package validator stands in for the one that Gin names: huma checks what is sent, by the tags of the types, and Gin binds nothing. See ../README.md.
package validator

import "errors"

// Validate checks nothing.
type Validate struct{}

// New returns one.
func New() *Validate { return &Validate{} }

// SetTagName is for what it would read.
func (*Validate) SetTagName(string) {}

// Struct refuses.
func (*Validate) Struct(any) error { return errors.New("built without the validator") }
