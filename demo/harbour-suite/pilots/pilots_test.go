package pilots

import "testing"

func TestModule(t *testing.T) {
	if Module.Run() != "pilots are aboard" {
		t.Errorf("it says %q", Module.Run())
	}
}
