package northquay

import "testing"

func TestModule(t *testing.T) {
	if Module.Name != "north-quay" {
		t.Errorf("it is called %q", Module.Name)
	}
}
