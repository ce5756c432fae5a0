package crossingboard

import (
	"testing"
	"time"

	"kelpwick.example/crossing-board/internal/sailings"
)

func TestCrossingBoardShowsWhatLeavesNext(t *testing.T) {
	noon := time.Date(2026, 5, 4, 12, 0, 0, 0, time.UTC)
	crossingBoard := CrossingBoard{
		Pier: "North Quay",
		Timetable: sailings.Timetable{
			{Ship: "Petrel", From: "North Quay", To: "Gull Island", Leaves: 12*time.Hour + 40*time.Minute},
			{Ship: "Dunlin", From: "North Quay", To: "Gull Island", Leaves: 18 * time.Hour},
		},
		Now: func() time.Time { return noon },
	}
	next := crossingBoard.Next(2)
	if len(next) != 1 || next[0].Ship != "Petrel" {
		t.Errorf("next is %v, want the Petrel alone", next)
	}
}
