module kelpwick.example/harbour-suite/exports

go 1.26

require (
	kelpwick.example/harbour-suite/core v0.0.0
)
