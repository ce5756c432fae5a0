package exports

import "testing"

func TestModule(t *testing.T) {
	if Module.Run() != "bills are exported" {
		t.Errorf("it says %q", Module.Run())
	}
}
