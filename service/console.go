package service

import (
	"io/fs"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"

	"ironcast/console"
	"ironcast/service/api"
)

const notBuilt = `<!doctype html><meta charset="utf-8"><title>Iron Cast</title>
<p>This binary was built without the console. Build it with <code>make build</code>, which needs Node.js and npm.
The API is at <code>` + api.Prefix + `</code>.</p>`

// policy lets the console load nothing from elsewhere. Styles are also set by
// script, for the places of floating parts.
const policy = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"

// serveConsole answers with the console's files, and with its page for every
// address that is one of its own.
func serveConsole() gin.HandlerFunc {
	files, built := console.Files()
	server := http.FileServerFS(files)
	return func(c *gin.Context) {
		address := c.Request.URL.Path
		if strings.HasPrefix(address, "/api/") || c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
			c.Data(http.StatusNotFound, "application/problem+json", []byte(`{"title":"Not Found","status":404,"detail":"There is nothing at this address."}`))
			return
		}
		c.Header("Content-Security-Policy", policy)
		c.Header("X-Content-Type-Options", "nosniff")
		c.Header("Referrer-Policy", "no-referrer")
		if !built {
			c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(notBuilt))
			return
		}
		name := strings.TrimPrefix(path.Clean(address), "/")
		if info, err := fs.Stat(files, name); err != nil || info.IsDir() {
			c.Header("Cache-Control", "no-cache")
			http.ServeFileFS(c.Writer, c.Request, files, "index.html")
			return
		}
		if strings.HasPrefix(name, "assets/") {
			c.Header("Cache-Control", "public, max-age=31536000, immutable")
		}
		server.ServeHTTP(c.Writer, c.Request)
	}
}
