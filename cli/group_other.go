//go:build !unix

package cli

import "os/exec"

// ownGroup does nothing where processes have no groups.
func ownGroup(*exec.Cmd) {}
