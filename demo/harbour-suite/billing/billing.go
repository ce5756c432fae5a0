// Package billing charges for berths.
package billing

import "kelpwick.example/harbour-suite/core"

// Module is this part of the harbour suite.
var Module = core.Module{Name: "billing", Run: func() string { return "bills are sent" }}
