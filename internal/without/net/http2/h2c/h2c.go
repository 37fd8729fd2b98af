// Package h2c stands in for the one that Gin names: see ../../../README.md.
package h2c

import (
	"net/http"

	"golang.org/x/net/http2"
)

// NewHandler returns the handler itself: what is not encrypted is HTTP/1.1 here.
func NewHandler(h http.Handler, _ *http2.Server) http.Handler { return h }
