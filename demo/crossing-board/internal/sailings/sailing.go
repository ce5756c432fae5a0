// Package sailings knows when ships leave.
package sailings

import (
	"fmt"
	"time"
)

// Sailing is one departure, every day at the same time.
type Sailing struct {
	Ship   string
	From   string
	To     string
	Leaves time.Duration // since midnight
}

// String returns the sailing as it is shown: 07:45 Petrel to Gull Island.
func (s Sailing) String() string {
	return fmt.Sprintf("%02d:%02d %s to %s", int(s.Leaves.Hours()), int(s.Leaves.Minutes())%60, s.Ship, s.To)
}
