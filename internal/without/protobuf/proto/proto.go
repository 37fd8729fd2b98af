// Package proto stands in for the one that Gin names, and reads and writes nothing: see ../../README.md.
package proto

import "errors"

var without = errors.New("built without protocol buffers")

// Message is nothing that this program has.
type Message interface{ message() }

// Marshal refuses.
func Marshal(Message) ([]byte, error) { return nil, without }

// Unmarshal refuses.
func Unmarshal([]byte, Message) error { return without }
