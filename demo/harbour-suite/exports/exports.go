// Package exports hands bills to the accounts office.
package exports

import "kelpwick.example/harbour-suite/core"

// Module is this part of the harbour suite.
var Module = core.Module{Name: "exports", Run: func() string { return "bills are exported" }}
