// Package berths keeps who lies where.
package berths

import "kelpwick.example/harbour-suite/core"

// Module is this part of the harbour suite.
var Module = core.Module{Name: "berths", Run: func() string { return "berths are assigned" }}
