package api

import (
	"bytes"
	"compress/gzip"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"
)

// nonceMark stands in the built page where its nonce goes.
const nonceMark = "STYLE-NONCE"

const unbuilt = `<!doctype html><html lang="en"><meta charset="utf-8"><title>Slate Bell</title>
<p>The front end is not built into this program. Run <code>make build</code>, then start <code>bin/slatebell</code>.</p></html>
`

// frontEnd serves the built files, and the page itself for every address that
// is none of a file: the views have addresses of their own.
func frontEnd(files fs.FS) gin.HandlerFunc {
	return func(c *gin.Context) {
		name := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
		switch {
		case strings.HasPrefix(name, "api/"):
			problem(c, http.StatusNotFound, "there is no such address in the API; see /api/openapi.json")
			return
		case c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead:
			problem(c, http.StatusMethodNotAllowed, "pages are read with GET")
			return
		case files == nil:
			c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(unbuilt))
			return
		}
		if strings.HasPrefix(name, "assets/") {
			if !isFile(files, name) {
				problem(c, http.StatusNotFound, "there is no such file")
				return
			}
			c.Header("Cache-Control", "public, max-age=31536000, immutable") // names carry a hash
			serveFile(c, files, name)
			return
		}
		if name != "" && name != "index.html" && isFile(files, name) && !c.GetBool(refusedKey) {
			serveFile(c, files, name)
			return
		}
		page, err := fs.ReadFile(files, "index.html")
		if err != nil {
			problem(c, http.StatusInternalServerError, "the page is missing from this program")
			return
		}
		page = bytes.Replace(page, []byte(nonceMark), []byte(c.GetString(nonceKey)), 1)
		c.Header("Cache-Control", "no-store") // the nonce is for one answer
		status := http.StatusOK
		if c.GetBool(refusedKey) {
			status = http.StatusForbidden // what it shows is how to come in
		}
		c.Data(status, "text/html; charset=utf-8", page)
	}
}

// packing is the ending of files that the build has packed.
const packing = ".gz"

// isFile reports whether there is a file of a name, packed or not.
func isFile(files fs.FS, name string) bool {
	for _, n := range []string{name, name + packing} {
		if info, err := fs.Stat(files, n); err == nil && !info.IsDir() {
			return true
		}
	}
	return false
}

// serveFile sends a file that is there. One that the build has packed goes out packed to whoever takes it so, as every browser does.
func serveFile(c *gin.Context, files fs.FS, name string) {
	packed, err := fs.ReadFile(files, name+packing)
	if err != nil {
		http.ServeFileFS(c.Writer, c.Request, files, name)
		return
	}
	kind := mime.TypeByExtension(path.Ext(name))
	c.Header("Vary", "Accept-Encoding")
	if strings.Contains(c.GetHeader("Accept-Encoding"), "gzip") {
		c.Header("Content-Encoding", "gzip")
		c.Data(http.StatusOK, kind, packed)
		return
	}
	z, err := gzip.NewReader(bytes.NewReader(packed))
	if err != nil {
		problem(c, http.StatusInternalServerError, "a file of this program is damaged")
		return
	}
	c.DataFromReader(http.StatusOK, -1, kind, z, nil)
}
