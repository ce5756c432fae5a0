package crossingboard

import "testing"

func TestUserAgent(t *testing.T) {
	if got := UserAgent(); got != "CrossingBoard/dev" {
		t.Errorf("UserAgent() = %q", got)
	}
}
