package spelling

import "fmt"

// Count writes a number with its noun: 1 file, 2 files.
func Count(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	return fmt.Sprintf("%d %ss", n, noun)
}
