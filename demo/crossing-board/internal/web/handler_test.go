package web

import (
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"kelpwick.example/crossing-board/internal/crossingboard"
	"kelpwick.example/crossing-board/internal/sailings"
)

func TestRoutes(t *testing.T) {
	crossingBoard := &crossingboard.CrossingBoard{
		Pier:      "North Quay",
		Timetable: sailings.Timetable{{Ship: "Petrel", From: "North Quay", To: "Gull Island", Leaves: 13 * time.Hour}},
		Now:       func() time.Time { return time.Date(2026, 5, 4, 12, 0, 0, 0, time.UTC) },
	}
	server := httptest.NewServer(NewHandler(crossingBoard))
	defer server.Close()
	for path, want := range map[string]string{
		"/":         "<h1>Crossing Board</h1>",
		"/healthz":  `"service":"crossing-board"`,
		"/api/next": `"Ship":"Petrel"`,
	} {
		response, err := server.Client().Get(server.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		body := new(strings.Builder)
		buffer := make([]byte, 4096)
		for n, err := response.Body.Read(buffer); n > 0 || err == nil; n, err = response.Body.Read(buffer) {
			body.Write(buffer[:n])
		}
		response.Body.Close()
		if !strings.Contains(body.String(), want) {
			t.Errorf("%s answers %q, want %q in it", path, body, want)
		}
		if response.Header.Get("X-Crossing-Board") == "" {
			t.Errorf("%s does not say whose answer it is", path)
		}
	}
}
