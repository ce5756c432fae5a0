package main

import "testing"

func TestEveryModuleHasAName(t *testing.T) {
	seen := map[string]bool{}
	for _, module := range modules {
		if module.Name == "" || seen[module.Name] {
			t.Errorf("the name %q is empty or stands twice", module.Name)
		}
		seen[module.Name] = true
	}
}
