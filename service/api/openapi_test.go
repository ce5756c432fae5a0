package api

import (
	"bytes"
	"encoding/json"
	"flag"
	"os"
	"testing"

	"github.com/gin-gonic/gin"

	"ironcast/core/tree"
)

var update = flag.Bool("update", false, "write the golden files anew")

// The console's types are generated from this document.
func TestTheOpenAPIDocumentIsUpToDate(t *testing.T) {
	gin.SetMode(gin.TestMode)
	described := Register(gin.New(), Options{Limits: tree.DefaultLimits()})
	compact, err := described.OpenAPI().MarshalJSON()
	if err != nil {
		t.Fatal(err)
	}
	var got bytes.Buffer
	if err := json.Indent(&got, compact, "", "  "); err != nil {
		t.Fatal(err)
	}
	got.WriteByte('\n')
	const path = "../../docs/openapi.json"
	if *update {
		if err := os.WriteFile(path, got.Bytes(), 0o666); err != nil {
			t.Fatal(err)
		}
	}
	want, err := os.ReadFile(path)
	if err != nil || !bytes.Equal(got.Bytes(), want) {
		t.Errorf("docs/openapi.json is not what the service serves; refresh it with: make generate (%v)", err)
	}
	if described.OpenAPI().OpenAPI != "3.1.0" {
		t.Errorf("the document is OpenAPI %s", described.OpenAPI().OpenAPI)
	}
}
