//go:build unix

package cli

import (
	"os/exec"
	"syscall"
)

// ownGroup lets a process, when it is stopped, take along what it started.
func ownGroup(process *exec.Cmd) {
	process.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	process.Cancel = func() error { return syscall.Kill(-process.Process.Pid, syscall.SIGKILL) }
}
