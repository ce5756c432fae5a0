package crossingboard

// Version is set by the build: -ldflags "-X .../crossingboard.Version=1.4.0".
var Version = "dev"

// UserAgent is how the crossing board presents itself to other services.
func UserAgent() string { return "CrossingBoard/" + Version }
