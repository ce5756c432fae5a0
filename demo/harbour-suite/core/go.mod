module kelpwick.example/harbour-suite/core

go 1.26
