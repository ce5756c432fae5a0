// Package web shows the crossing board to people and to probes.
package web

import (
	"encoding/json"
	"net/http"

	"kelpwick.example/crossing-board/internal/crossingboard"
)

// NewHandler returns the routes of the crossing board.
func NewHandler(crossingBoard *crossingboard.CrossingBoard) http.Handler {
	routes := http.NewServeMux()
	routes.HandleFunc("/", pageOf(crossingBoard))
	routes.HandleFunc("/healthz", health)
	routes.HandleFunc("/api/next", func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "application/json")
		json.NewEncoder(w).Encode(crossingBoard.Next(12))
	})
	return named(routes)
}

// named tells every client whose answer it is.
func named(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("X-Crossing-Board", crossingboard.Version)
		next.ServeHTTP(w, r)
	})
}
