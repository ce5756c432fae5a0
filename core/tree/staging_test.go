package tree

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"testing"
)

func staged(t *testing.T, dir string) *Staging {
	t.Helper()
	project, err := New([]Entry{{Path: "a/b", Content: Memory("b")}, {Path: "c", Content: Memory("c"), Executable: true}}, DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	s, err := Stage(context.Background(), project, dir, nil)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func names(t *testing.T, dir string) (all []string) {
	t.Helper()
	listed, err := os.ReadDir(dir)
	if err != nil {
		t.Fatal(err)
	}
	for _, item := range listed {
		all = append(all, item.Name())
	}
	return all
}

func TestAStagedFolderIsMovedInDiscardedOrSetAside(t *testing.T) {
	top := t.TempDir()
	dir := filepath.Join(top, "new", "office")

	s := staged(t, dir)
	if _, err := os.Stat(dir); !errors.Is(err, os.ErrNotExist) {
		t.Error("the folder is there before it is moved in")
	}
	if content, err := os.ReadFile(filepath.Join(s.Path, "a", "b")); err != nil || string(content) != "b" {
		t.Errorf("%q, %v", content, err)
	}
	s.Discard()
	if left := names(t, top); len(left) != 0 {
		t.Errorf("discarded, there is %v", left)
	}

	for _, want := range []string{"office.unfinished", "office.unfinished-2"} {
		aside, err := staged(t, dir).SetAside()
		if err != nil || filepath.Base(aside) != want {
			t.Errorf("set aside as %s, %v", aside, err)
		}
	}
	if err := staged(t, dir).MoveIn(); err != nil {
		t.Fatal(err)
	}
	if left := names(t, filepath.Dir(dir)); len(left) != 3 || left[0] != "office" {
		t.Errorf("there is %v", left)
	}
	if info, err := os.Stat(filepath.Join(dir, "c")); err != nil || info.Mode()&0o100 == 0 {
		t.Errorf("%v, %v", info, err)
	}
	if _, err := Stage(context.Background(), Tree{}, dir, nil); !errors.Is(err, ErrNotEmpty) {
		t.Errorf("over a folder with contents: %v", err)
	}
}

// Someone may put something into the folder while commands run beside it.
func TestAFolderThatFilledMeanwhileIsLeftAlone(t *testing.T) {
	top := t.TempDir()
	dir := filepath.Join(top, "office")
	s := staged(t, dir)
	if err := os.MkdirAll(filepath.Join(dir, "mine"), 0o777); err != nil {
		t.Fatal(err)
	}
	if err := s.MoveIn(); !errors.Is(err, ErrNotEmpty) {
		t.Errorf("error is %v", err)
	}
	if left := names(t, top); len(left) != 1 || len(names(t, dir)) != 1 {
		t.Errorf("there is %v", left)
	}
}
