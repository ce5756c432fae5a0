package tree

import (
	"io/fs"
	"sync"
	"syscall"
)

// umask returns the process's file mode creation mask, which can only be read
// by setting it.
var umask = sync.OnceValue(func() fs.FileMode {
	mask := syscall.Umask(0o022)
	syscall.Umask(mask)
	return fs.FileMode(mask)
})
