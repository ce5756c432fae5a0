// Package config reads the settings of the crossing board.
package config

import (
	"fmt"
	"strconv"
)

// DefaultPort is where the crossing board listens unless told otherwise.
const DefaultPort = 8087

// Settings are what can be set from outside.
type Settings struct {
	Port      int
	Pier      string
	Timetable string
}

// FromEnvironment reads CROSSING_BOARD_PORT, CROSSING_BOARD_PIER and
// CROSSING_BOARD_TIMETABLE.
func FromEnvironment(get func(string) string) (Settings, error) {
	settings := Settings{Port: DefaultPort, Pier: "North Quay", Timetable: "data/timetable.csv"}
	if text := get("CROSSING_BOARD_PORT"); text != "" {
		port, err := strconv.Atoi(text)
		if err != nil || port < 1 || port > 65535 {
			return settings, fmt.Errorf("CROSSING_BOARD_PORT is %q; it must be a port number", text)
		}
		settings.Port = port
	}
	if pier := get("CROSSING_BOARD_PIER"); pier != "" {
		settings.Pier = pier
	}
	if timetable := get("CROSSING_BOARD_TIMETABLE"); timetable != "" {
		settings.Timetable = timetable
	}
	return settings, nil
}
