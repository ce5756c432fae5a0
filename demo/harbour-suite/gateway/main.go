// Command gateway starts every module of the harbour suite.
package main

import (
	"fmt"

	"kelpwick.example/harbour-suite/berths"
	"kelpwick.example/harbour-suite/billing" // ironcast: only when billing
	"kelpwick.example/harbour-suite/core"
	"kelpwick.example/harbour-suite/exports" // ironcast: only when exports
	"kelpwick.example/harbour-suite/notices"
	"kelpwick.example/harbour-suite/pilots"
	northquay "kelpwick.example/harbour-suite/regions/north-quay" // ironcast: repeat region in regions standing for "north quay"
)

var modules = []core.Module{
	berths.Module,
	pilots.Module,
	notices.Module,
	// ironcast: only when billing
	billing.Module,
	// ironcast: only when exports
	exports.Module,
	// ironcast: end
	// ironcast: end
	// ironcast: repeat region in regions standing for "north quay"
	northquay.Module,
	// ironcast: end
}

func main() {
	fmt.Println("Harbour Suite", core.SuiteID)
	for _, module := range modules {
		fmt.Printf("%s: %s\n", module.Name, module.Run())
	}
}
