// Package http2 stands in for the one that Gin names; net/http has HTTP/2 of its own. See ../../README.md.
package http2

// Server serves nothing.
type Server struct{}
