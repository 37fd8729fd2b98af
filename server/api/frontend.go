package api

import (
	"bytes"
	"io/fs"
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
			if _, err := fs.Stat(files, name); err != nil {
				problem(c, http.StatusNotFound, "there is no such file")
				return
			}
			c.Header("Cache-Control", "public, max-age=31536000, immutable") // names carry a hash
			http.ServeFileFS(c.Writer, c.Request, files, name)
			return
		}
		if _, err := fs.Stat(files, name); err == nil && name != "" && name != "index.html" && !c.GetBool(refusedKey) {
			http.ServeFileFS(c.Writer, c.Request, files, name)
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
