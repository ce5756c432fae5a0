//go:build !linux

package hooks

import "time"

var started = time.Now()

// limitMemory does nothing where the kernel cannot be asked: watch ends a script
// that uses too much.
func limitMemory(uint64) {}

// processorTime returns how long the process has run.
func processorTime() time.Duration { return time.Since(started) }
