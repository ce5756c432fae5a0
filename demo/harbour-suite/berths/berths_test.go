package berths

import "testing"

func TestModule(t *testing.T) {
	if Module.Run() != "berths are assigned" {
		t.Errorf("it says %q", Module.Run())
	}
}
