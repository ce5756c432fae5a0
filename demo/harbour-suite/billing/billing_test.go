package billing

import "testing"

func TestModule(t *testing.T) {
	if Module.Run() != "bills are sent" {
		t.Errorf("it says %q", Module.Run())
	}
}
