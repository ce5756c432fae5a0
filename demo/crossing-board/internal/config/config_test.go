package config

import "testing"

func TestDefaults(t *testing.T) {
	settings, err := FromEnvironment(func(string) string { return "" })
	if err != nil || settings.Port != 8087 {
		t.Errorf("settings are %+v, %v", settings, err)
	}
}

func TestPortFromEnvironment(t *testing.T) {
	environment := map[string]string{"CROSSING_BOARD_PORT": "9000"}
	settings, err := FromEnvironment(func(key string) string { return environment[key] })
	if err != nil || settings.Port != 9000 {
		t.Errorf("settings are %+v, %v", settings, err)
	}
	environment["CROSSING_BOARD_PORT"] = "aft"
	if _, err := FromEnvironment(func(key string) string { return environment[key] }); err == nil {
		t.Error("a port that is no number is accepted")
	}
}
