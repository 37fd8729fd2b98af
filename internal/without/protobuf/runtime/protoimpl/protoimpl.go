// Package protoimpl is empty: the tests of Gin name it, and go mod tidy looks for it.
package protoimpl
