package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"ironcast/core/manifest"
)

// Modules that this project depends on and did not write become templates, and
// what is cast from them under another name passes its own tests.
func TestRealModulesBecomeTemplates(t *testing.T) {
	for _, c := range []struct {
		module string
		byHand string // what define leaves to the author, added to the manifest
	}{
		{"github.com/hashicorp/golang-lru/v2", ""},
		{"github.com/spf13/pflag", "keep: [PFlag]\n"}, // the prefix of a type, not the name
	} {
		t.Run(filepath.Base(strings.TrimSuffix(c.module, "/v2")), func(t *testing.T) {
			found := strings.TrimSpace(in(t, "..", "go", "list", "-m", "-f", "{{.Dir}}", c.module))
			source := filepath.Join(t.TempDir(), filepath.Base(strings.TrimSuffix(c.module, "/v2")))
			in(t, ".", "cp", "-R", found, source)
			in(t, ".", "chmod", "-R", "u+w", source)

			must(t, "define", source, "--accept", "all")
			if c.byHand != "" {
				if r := run(t, "prove", source); r.code != 3 {
					t.Errorf("it proves clean without what is done by hand:\n%s", r.out)
				}
				file, err := os.OpenFile(filepath.Join(source, manifest.FileName), os.O_APPEND|os.O_WRONLY, 0)
				if err != nil {
					t.Fatal(err)
				}
				file.WriteString(c.byHand)
				file.Close()
			}
			must(t, "prove", source)
			target := filepath.Join(t.TempDir(), "cast")
			must(t, "cast", source, target, "project=quiet harbour", "--no-ask")
			in(t, target, "go", "build", "./...")
			in(t, target, "go", "test", "./...")
			if name := in(t, target, "go", "list", "-m"); !strings.Contains(name, "quiet-harbour") {
				t.Errorf("the module is %s", name)
			}
		})
	}
}
