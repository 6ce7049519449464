package view

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"

	"lazo/core/expr"
)

// tally is what is counted of one question, so that the counts of two heaps of responses
// are put together.
type tally struct {
	Answered int               `json:"answered,omitempty"`
	Counts   map[string]int    `json:"counts,omitempty"` // of what can be picked, and of texts while they are few
	Said     map[string]string `json:"said,omitempty"`   // texts by how they are compared
	Numbers  map[string]int    `json:"numbers,omitempty"`
	ByDay    map[expr.Day]int  `json:"days,omitempty"`
	Texts    []string          `json:"texts,omitempty"` // the longest
	Total    float64           `json:"total,omitempty"`
}

func newTally() tally {
	return tally{Counts: map[string]int{}, Said: map[string]string{}, Numbers: map[string]int{}, ByDay: map[expr.Day]int{}}
}

func (t *tally) addNumber(text string) {
	n, err := strconv.ParseFloat(text, 64)
	if err != nil {
		return
	}
	t.Total += n
	t.countNumber(text, 1)
}

// countNumber counts a number, as long as there are not too many different ones.
func (t *tally) countNumber(text string, times int) {
	if _, known := t.Numbers[text]; known || len(t.Numbers) < sumNumbers {
		t.Numbers[text] += times
	}
}

// numbers are the different ones in order, and how often each stands there.
func (t *tally) numbers() (all []float64, times map[float64]int) {
	times = map[float64]int{}
	for text, n := range t.Numbers {
		if x, err := strconv.ParseFloat(text, 64); err == nil {
			times[x] += n
		}
	}
	return slices.Sorted(maps.Keys(times)), times
}

// addText counts a text, by how it is compared, while there are few of them.
func (t *tally) addText(folded, text string, times int) {
	if len(t.Counts) > sumBins {
		return
	}
	t.Counts[folded] += times
	if was, known := t.Said[folded]; !known || text < was {
		t.Said[folded] = text
	}
}

// keepText keeps the longest texts, of two as long the one that comes first.
func (t *tally) keepText(text string) {
	at, _ := slices.BinarySearchFunc(t.Texts, text, func(a, b string) int {
		return cmp.Or(cmp.Compare(len(b), len(a)), cmp.Compare(a, b))
	})
	if t.Texts = slices.Insert(t.Texts, at, text); len(t.Texts) > sumTexts {
		t.Texts = t.Texts[:sumTexts]
	}
}

// merge adds what was counted elsewhere; of texts it is told apart whether there are few.
func (t *tally) merge(o tally, texts bool) {
	t.Answered += o.Answered
	for key, n := range o.Counts {
		if texts {
			t.addText(key, o.Said[key], n)
		} else {
			t.Counts[key] += n
		}
	}
	t.Total += o.Total // also of numbers that were too many to be counted one by one
	for text, n := range o.Numbers {
		t.countNumber(text, n)
	}
	for day, n := range o.ByDay {
		t.ByDay[day] += n
	}
	for _, text := range o.Texts {
		t.keepText(text)
	}
}

type kept struct {
	N        int              `json:"n"`
	Received map[expr.Day]int `json:"received"`
	Sums     map[string]tally `json:"sums"`
}

// Tally is what was added up so far, as JSON, before Done; Merge adds it to another
// summary of the same questions.
func (s *Sums) Tally() ([]byte, error) {
	k := kept{N: s.N, Received: s.Days.ByDay, Sums: map[string]tally{}}
	for _, sum := range s.Sums {
		k.Sums[sum.Key] = sum.tally
	}
	return json.Marshal(k)
}

// Merge adds what Tally gave.
func (s *Sums) Merge(data []byte) error {
	var k kept
	if err := json.Unmarshal(data, &k); err != nil {
		return fmt.Errorf("what a summary kept can't be read: %w", err)
	}
	s.N += k.N
	s.Days.Answered += k.N
	for day, n := range k.Received {
		s.Days.ByDay[day] += n
	}
	for _, sum := range s.Sums {
		sum.merge(k.Sums[sum.Key], sum.Picture == Texts)
	}
	return nil
}

// Fingerprint tells whether what was kept of a summary was counted in the same way: of
// the same questions, by their types and the keys that they had.
func (s *Sums) Fingerprint() string {
	h := sha256.New()
	fmt.Fprintln(h, "1", s.lens.Syms.Zone)
	for _, sum := range s.Sums {
		kind := expr.Blank
		if sym := s.lens.Syms.Items[sum.Key]; sym != nil {
			kind = sym.Type.Kind
		}
		fmt.Fprintln(h, sum.Key, sum.Picture, kind, sum.ranked, s.lens.ticks[sum.Key], s.lens.Earlier[sum.Key])
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}
