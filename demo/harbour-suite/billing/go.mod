module kelpwick.example/harbour-suite/billing

go 1.26

require (
	kelpwick.example/harbour-suite/core v0.0.0
)
