package spelling

// Nearest returns the candidate that word was most likely meant to be: the one
// with the fewest single-letter edits (Levenshtein 1965), or "" when none is
// within a third of the word's length.
func Nearest(word string, candidates []string) string {
	best, least := "", (len(word)+2)/3+1
	for _, candidate := range candidates {
		if edits := distance(word, candidate); edits < least {
			best, least = candidate, edits
		}
	}
	return best
}

func distance(a, b string) int {
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := range len(a) {
		diagonal := row[0]
		row[0] = i + 1
		for j := range len(b) {
			cost := 1
			if a[i] == b[j] {
				cost = 0
			}
			diagonal, row[j+1] = row[j+1], min(row[j+1]+1, row[j]+1, diagonal+cost)
		}
	}
	return row[len(b)]
}
