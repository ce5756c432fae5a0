package hooks

import (
	"syscall"
	"time"
)

// limitMemory lets the kernel refuse the process more memory than this. The race
// detector needs more by itself, so that under it only watch counts.
func limitMemory(bytes uint64) {
	if raceDetector {
		return
	}
	_ = syscall.Setrlimit(syscall.RLIMIT_DATA, &syscall.Rlimit{Cur: bytes, Max: bytes})
}

// processorTime returns how long the process has computed.
func processorTime() time.Duration {
	var usage syscall.Rusage
	if err := syscall.Getrusage(syscall.RUSAGE_SELF, &usage); err != nil {
		return 0
	}
	return time.Duration(usage.Utime.Nano() + usage.Stime.Nano())
}
