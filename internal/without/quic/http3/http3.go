// Package http3 stands in for the one that Gin names, and serves nothing: see ../../README.md.
package http3

import (
	"errors"
	"net/http"
)

// ListenAndServeQUIC refuses: this program is built without it.
func ListenAndServeQUIC(string, string, string, http.Handler) error {
	return errors.New("built without HTTP/3")
}
