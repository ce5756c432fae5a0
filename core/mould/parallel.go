package mould

import (
	"context"
	"runtime"
	"sync/atomic"

	"golang.org/x/sync/errgroup"

	"ironcast/core/tree"
)

// parallel calls work for every index below n, from as many goroutines as there
// are processors. Each hands the buffer that work returns to its next call.
func parallel(ctx context.Context, n int, work func(i int, buffer []byte) ([]byte, error)) error {
	group, ctx := errgroup.WithContext(ctx)
	var next atomic.Int64
	for range runtime.GOMAXPROCS(0) {
		group.Go(func() error {
			var buffer []byte
			for i := next.Add(1) - 1; i < int64(n); i = next.Add(1) - 1 {
				if err := ctx.Err(); err != nil {
					return err
				}
				var err error
				if buffer, err = work(int(i), buffer[:0]); err != nil {
					return err
				}
			}
			return nil
		})
	}
	return group.Wait()
}

// contentOf returns an entry's content, read into the buffer unless it is held
// in memory, and the buffer.
func contentOf(e tree.Entry, buffer []byte) (content, grown []byte, err error) {
	if e.Kind != tree.File {
		return nil, buffer, nil
	}
	if held, is := e.Content.(tree.Memory); is {
		return held, buffer, nil
	}
	buffer, err = e.Content.AppendTo(buffer)
	return buffer, buffer, err
}
