package sailings

import (
	"encoding/csv"
	"fmt"
	"io"
	"sort"
	"time"
)

// Timetable is all sailings of a day.
type Timetable []Sailing

// ReadTimetable reads a table with the columns ship, from, to and leaves.
func ReadTimetable(r io.Reader) (Timetable, error) {
	rows, err := csv.NewReader(r).ReadAll()
	if err != nil {
		return nil, err
	}
	var timetable Timetable
	for i, row := range rows {
		if i == 0 {
			continue
		}
		if len(row) != 4 {
			return nil, fmt.Errorf("row %d has %d columns, want 4", i+1, len(row))
		}
		at, err := time.Parse("15:04", row[3])
		if err != nil {
			return nil, fmt.Errorf("row %d: %w", i+1, err)
		}
		leaves := time.Duration(at.Hour())*time.Hour + time.Duration(at.Minute())*time.Minute
		timetable = append(timetable, Sailing{Ship: row[0], From: row[1], To: row[2], Leaves: leaves})
	}
	return timetable, nil
}

// Between returns the sailings from a pier that leave in a span of time.
func (t Timetable) Between(pier string, from, to time.Time) []Sailing {
	midnight := time.Date(from.Year(), from.Month(), from.Day(), 0, 0, 0, 0, from.Location())
	var found []Sailing
	for _, s := range t {
		leaves := midnight.Add(s.Leaves)
		if s.From == pier && !leaves.Before(from) && leaves.Before(to) {
			found = append(found, s)
		}
	}
	sort.Slice(found, func(a, b int) bool { return found[a].Leaves < found[b].Leaves })
	return found
}
