// Package notices tells mariners what has changed.
package notices

import "kelpwick.example/harbour-suite/core"

// Module is this part of the harbour suite.
var Module = core.Module{Name: "notices", Run: func() string { return "notices are posted" }}
