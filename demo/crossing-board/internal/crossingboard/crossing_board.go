// Package crossingboard is the crossing board itself: what leaves next.
package crossingboard

import (
	"time"

	"kelpwick.example/crossing-board/internal/sailings"
)

// Name is what the crossing board calls itself in headers and logs.
const Name = "crossing-board"

// CrossingBoard shows the sailings of one pier.
type CrossingBoard struct {
	Pier      string
	Timetable sailings.Timetable
	Now       func() time.Time
}

// Next returns the sailings that leave within the next hours, soonest first.
func (c *CrossingBoard) Next(hours int) []sailings.Sailing {
	now := c.Now()
	return c.Timetable.Between(c.Pier, now, now.Add(time.Duration(hours)*time.Hour))
}
