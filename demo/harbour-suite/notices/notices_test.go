package notices

import "testing"

func TestModule(t *testing.T) {
	if Module.Run() != "notices are posted" {
		t.Errorf("it says %q", Module.Run())
	}
}
