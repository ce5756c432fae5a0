// Package northquay runs the harbour suite at North Quay.
package northquay

import "kelpwick.example/harbour-suite/core"

// Module is the part of the harbour suite for North Quay.
var Module = core.Module{Name: "north-quay", Run: func() string { return "North Quay is open" }}
