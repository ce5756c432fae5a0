//go:build !race

package hooks

// raceDetector tells whether the program was built to find races.
const raceDetector = false
