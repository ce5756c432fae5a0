module kelpwick.example/harbour-suite/regions/north-quay

go 1.26

require (
	kelpwick.example/harbour-suite/core v0.0.0
)
