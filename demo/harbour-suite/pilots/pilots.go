// Package pilots sends pilots out to ships.
package pilots

import "kelpwick.example/harbour-suite/core"

// Module is this part of the harbour suite.
var Module = core.Module{Name: "pilots", Run: func() string { return "pilots are aboard" }}
