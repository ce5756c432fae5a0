package web

import (
	"embed"
	"html/template"
	"net/http"

	"kelpwick.example/crossing-board/internal/crossingboard"
)

//go:embed templates
var files embed.FS

var page = template.Must(template.ParseFS(files, "templates/crossing_board.html"))

func pageOf(crossingBoard *crossingboard.CrossingBoard) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path != "/" {
			http.NotFound(w, r)
			return
		}
		page.Execute(w, map[string]any{"Pier": crossingBoard.Pier, "Next": crossingBoard.Next(12)})
	}
}
