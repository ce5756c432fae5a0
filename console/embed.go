// Package console holds the built web console, so that the service is one
// binary. Its sources are in src/; make console builds them into dist/app/.
package console

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Files returns the built console, and whether it has been built.
func Files() (fs.FS, bool) {
	app, err := fs.Sub(dist, "dist/app")
	if err != nil {
		return nil, false
	}
	_, err = fs.Stat(app, "index.html")
	return app, err == nil
}
