// Package web carries the built front end inside the binary. On a clean
// checkout, before the front end is built, it holds none of it.
package web

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Files returns the built front end, and whether it has been built.
func Files() (files fs.FS, built bool) {
	files, err := fs.Sub(dist, "dist")
	if err != nil {
		return dist, false
	}
	_, err = fs.Stat(files, "index.html")
	return files, err == nil
}
