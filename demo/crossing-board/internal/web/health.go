package web

import (
	"encoding/json"
	"net/http"

	"kelpwick.example/crossing-board/internal/crossingboard"
)

func health(w http.ResponseWriter, r *http.Request) {
	w.Header().Set("Content-Type", "application/json")
	json.NewEncoder(w).Encode(map[string]string{"service": crossingboard.Name, "status": "ok"})
}
