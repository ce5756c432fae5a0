package origin

import (
	"strings"
	"testing"

	"ironcast/core/tree"
)

func projectWith(t *testing.T, record string) tree.Tree {
	t.Helper()
	project, err := tree.New([]tree.Entry{{Path: Path, Content: tree.Memory(record)}}, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	return project
}

func TestADamagedRecordIsSaidToBe(t *testing.T) {
	for _, text := range []string{"layers: [", "layers: 5\n", "ironcast: 1\ncolour: red\n", ""} {
		_, found, err := Read(projectWith(t, text))
		if !found || err == nil || !strings.Contains(err.Error(), ".ironcast/origin.yaml is damaged") {
			t.Errorf("%q gives %v, %v", text, found, err)
		}
	}
}

func TestARecordIsNotAddedTwice(t *testing.T) {
	record := Record{Format: 1}
	if _, err := record.Add(projectWith(t, "x"), tree.DefaultLimits()); err == nil {
		t.Error("a second record is added")
	}
}
