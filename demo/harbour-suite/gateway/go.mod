module kelpwick.example/harbour-suite/gateway

go 1.26

require (
	kelpwick.example/harbour-suite/berths v0.0.0
	kelpwick.example/harbour-suite/billing v0.0.0 // ironcast: only when billing
	kelpwick.example/harbour-suite/core v0.0.0
	kelpwick.example/harbour-suite/exports v0.0.0 // ironcast: only when exports
	kelpwick.example/harbour-suite/notices v0.0.0
	kelpwick.example/harbour-suite/pilots v0.0.0
	kelpwick.example/harbour-suite/regions/north-quay v0.0.0 // ironcast: repeat region in regions standing for "north quay"
)
