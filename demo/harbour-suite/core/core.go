// Package core has what all modules of the harbour suite share.
package core

// SuiteID tells one installation of the harbour suite from another.
const SuiteID = "6c1d5a52-2f0b-4b8e-9a53-0d6f6e1c7a10"

// Module is one part of the harbour suite.
type Module struct {
	Name string
	Run  func() string
}
