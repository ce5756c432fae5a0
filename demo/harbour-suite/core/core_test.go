package core

import "testing"

func TestTheSuiteHasAnID(t *testing.T) {
	if len(SuiteID) != 36 {
		t.Errorf("the harbour suite's id is %q", SuiteID)
	}
}
