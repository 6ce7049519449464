package expr

import "sort"

// Nearest returns the candidate that name was probably meant to be, or "" if
// none is near: at most a third of its letters differ (Damerau-Levenshtein,
// after folding), or one begins with the other.
func Nearest(name string, candidates []string) string {
	target := []rune(Fold(name))
	sorted := append([]string(nil), candidates...)
	sort.Strings(sorted)
	best, bestDistance := "", 1<<30
	limit := max(1, len(target)/3)
	if len(target) > MaxKey {
		return ""
	}
	for _, c := range sorted {
		folded := []rune(Fold(c))
		if abs := len(folded) - len(target); abs > limit || -abs > limit {
			if len(target) >= 3 && len(folded) > len(target) && string(folded[:len(target)]) == string(target) &&
				bestDistance > limit {
				best, bestDistance = c, limit+1
			}
			continue
		}
		if d := editDistance(target, folded); d <= limit && d < bestDistance {
			best, bestDistance = c, d
		}
	}
	return best
}

// editDistance counts insertions, deletions, substitutions and swaps of neighbours.
func editDistance(a, b []rune) int {
	prev2, prev, row := make([]int, len(b)+1), make([]int, len(b)+1), make([]int, len(b)+1)
	for j := range prev {
		prev[j] = j
	}
	for i := 1; i <= len(a); i++ {
		row[0] = i
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			row[j] = min(prev[j]+1, row[j-1]+1, prev[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				row[j] = min(row[j], prev2[j-2]+1)
			}
		}
		prev2, prev, row = prev, row, prev2
	}
	return prev[len(b)]
}
