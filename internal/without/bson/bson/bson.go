// Package bson stands in for the one that Gin names, and reads and writes nothing: see ../../README.md.
package bson

import "errors"

var without = errors.New("built without BSON")

// Marshal refuses.
func Marshal(any) ([]byte, error) { return nil, without }

// Unmarshal refuses.
func Unmarshal([]byte, any) error { return without }
