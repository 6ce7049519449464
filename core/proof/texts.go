package proof

import (
	"fmt"
	"slices"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"lazo/core/expr"
	"lazo/core/form"
)

// Lengths of texts are followed up to longest, and so many of one text. Of patterns up to
// longPattern texts of several lengths are looked for.
const (
	longest     = 10_000
	mostLengths = 200
	longPattern = 200
)

// buildTexts takes every text that something is compared with, and another of every length
// that matters.
func (v *variable) buildTexts() {
	add := func(s string) { v.values = append(v.values, expr.TextValue(s)) }
	for _, t := range v.texts {
		add(t)
		if len(v.lengths) > 0 {
			was := t
			for _, s := range unfolded(t) {
				if !v.asLong(expr.Length(s), expr.Length(was)) {
					add(s)
					was = s
				}
			}
		}
	}
	lengths := []int{0}
	for _, l := range v.lengths {
		if n, ok := l.Whole(); ok && n > 0 && n <= longest+1 {
			lengths = append(lengths, n-1, n, n+1)
		}
	}
	slices.Sort(lengths)
	for _, n := range slices.Compact(lengths) {
		switch {
		case n > 0:
			add(v.another(n))
		case len(lengths) == 1:
			add(v.another(7))
		}
	}
}

// joined are the letters that comparison folds to several, by those: "ß" by "ss". They
// stand in three stretches of Unicode.
var joined = sync.OnceValue(func() map[string]string {
	out := map[string]string{}
	for _, stretch := range [][2]rune{{0xDF, 0x587}, {0x1E96, 0x1FFF}, {0xFB00, 0xFB17}} {
		for r := stretch[0]; r <= stretch[1]; r++ {
			one := string(r)
			if many := expr.Fold(one); expr.Length(many) > 1 && expr.Clean(one) == one {
				out[many] = one
			}
		}
	}
	return out
})

// mostJoined is of how many letters at most one is made.
const mostJoined = 3

// unfolded are texts of other lengths that compare equal to one, of every length down from
// the longest, in which no letter stands for several, to the shortest.
func unfolded(s string) (out []string) {
	letters := []rune(expr.Fold(s))
	add := func(t string) {
		if expr.Fold(t) == expr.Fold(s) {
			out = append(out, t)
		}
	}
	add(string(letters))
	// fewest is how few letters can be made of those from a place on, take how many of them
	// the first is made of.
	fewest, take := make([]int, len(letters)+1), make([]int, len(letters))
	for i := len(letters) - 1; i >= 0; i-- {
		fewest[i], take[i] = fewest[i+1]+1, 1
		for n := 2; n <= min(mostJoined, len(letters)-i); n++ {
			if joined()[string(letters[i:i+n])] != "" && fewest[i+n]+1 < fewest[i] {
				fewest[i], take[i] = fewest[i+n]+1, n
			}
		}
	}
	before := ""
	for i := 0; i < len(letters); i += take[i] {
		for n := 2; n <= take[i]; n++ {
			if one := joined()[string(letters[i:i+n])]; one != "" {
				add(before + one + string(letters[i+n:]))
			}
		}
		if one := joined()[string(letters[i:i+take[i]])]; take[i] > 1 {
			before += one
		} else {
			before += string(letters[i])
		}
	}
	return out
}

// another is a text of a length that is none of those that the form names.
func (v *variable) another(length int) string {
	for _, from := range []string{"Someone", "Another", "Qwzxkvj", "Xyzzyx"} {
		s := strings.Repeat(from, length/len(from)+1)[:length]
		if v.named(s) < 0 {
			return s
		}
	}
	for c := rune('à'); ; c++ { // of single letters many can be named
		if s := strings.Repeat(string(c), length); v.named(s) < 0 {
			return s
		}
	}
}

// named is which of the texts that something is compared with a text is, -1 for none.
func (v *variable) named(s string) int {
	return slices.IndexFunc(v.texts, func(t string) bool { return expr.Fold(t) == expr.Fold(s) })
}

// same reports whether every comparison comes out the same for two texts.
func (v *variable) same(a, b string) bool {
	return v.named(a) == v.named(b) && v.asLong(expr.Length(a), expr.Length(b))
}

// asLong reports whether every comparison comes out the same for two lengths.
func (v *variable) asLong(a, b int) bool {
	return !slices.ContainsFunc(v.lengths, func(l expr.Number) bool {
		return expr.Int(int64(a)).Cmp(l) != expr.Int(int64(b)).Cmp(l)
	})
}

// readings are the texts to answer an item with: for every kind of text that something tells
// apart one that the item takes, if it takes any. Of some nobody knows.
type readings struct {
	texts  []string
	unsure map[string]bool
}

// textsOf are those of an item.
func (m *model) textsOf(it *item) *readings {
	if it.readings != nil {
		return it.readings
	}
	v := m.variables[it.side.named(it.Key)]
	if v == nil || len(v.values) == 0 {
		v = &variable{values: []expr.Value{expr.TextValue("Someone")}}
	}
	r := &readings{unsure: map[string]bool{}}
	it.readings = r
	add := func(s string) {
		if !slices.Contains(r.texts, s) {
			r.texts = append(r.texts, s)
		}
	}
	pool := it.pool(v)
	for _, value := range v.values {
		s := value.Text()
		got, read := it.side.program.ReadAnswer(it.Key, s)
		taken := slices.IndexFunc(pool, func(t string) bool { return v.same(it.asRead(t), s) })
		switch {
		case read && it.side.program.Fits(it.Key, got):
			add(s)
			if it.Pattern != "" && (it.WhenHidden == "keep" || len(m.sides) > 1) {
				it.misfits(v, s, add)
			}
			continue
		case taken >= 0:
			add(pool[taken])
		case !it.takesNone(v, s):
			r.unsure[s] = true
			add(s)
		}
		if read {
			add(s)
		}
	}
	return r
}

// misfits looks for a text of the same kind as one that the item takes, which it does not.
func (it *item) misfits(v *variable, s string, add func(string)) {
	runes := []rune(s)
	last := len(runes) - 1
	all := []string{strings.ToUpper(s), strings.ToLower(s)}
	for _, c := range "?1aA" {
		if last >= 0 {
			all = append(all, string(append(slices.Clone(runes[:last]), c)))
		}
	}
	for _, one := range all {
		if got, ok := it.side.program.ReadAnswer(it.Key, one); ok && !it.side.program.Fits(it.Key, got) &&
			v.same(got.Text(), s) {
			add(one)
			return
		}
	}
}

// asRead is what a text counts as.
func (it *item) asRead(s string) string {
	v, _ := it.side.program.ReadAnswer(it.Key, s)
	return v.Text()
}

// formed reports whether the texts that an item takes are of a form.
func (it *item) formed() bool {
	return it.Pattern != "" || it.Type == form.Email || it.Type == form.Phone || it.Type == form.Website ||
		it.Type == form.MonthDay
}

// pool are texts that an item takes, where not every text is one: usual ones, and of every
// length that is told apart.
func (it *item) pool(v *variable) []string {
	if !it.formed() || it.side.model.Late() {
		return nil
	}
	lengths := []int{}
	for _, value := range v.values {
		lengths = append(lengths, expr.Length(value.Text()))
	}
	all := it.samples(lengths)
	for _, t := range v.texts {
		all = append(all, t, strings.ToUpper(t), strings.ToLower(t), capitalized(t))
	}
	var out []string
	for _, s := range all {
		for _, one := range append([]string{s}, varied(s, v)...) {
			if got, ok := it.side.program.ReadAnswer(it.Key, one); ok && it.side.program.Fits(it.Key, got) &&
				!slices.Contains(out, one) {
				out = append(out, one)
			}
		}
	}
	return out
}

func capitalized(s string) string {
	first, size := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(first)) + strings.ToLower(s[size:])
}

// varied are texts like one that is compared with, which are not.
func varied(s string, v *variable) (out []string) {
	if v.named(s) < 0 {
		return nil
	}
	for i := range len(s) {
		for _, c := range "AEKXaekx0127" {
			if one := s[:i] + string(c) + s[i+1:]; s[i] < 0x80 && v.named(one) < 0 {
				out = append(out, one)
			}
		}
	}
	return out
}

// samples are texts of the form of an item, of some lengths as far as they can be.
func (it *item) samples(lengths []int) (out []string) {
	switch it.Type {
	case form.Email:
		out = append(out, "someone@club.example", "someone.else@lake.example")
		for _, n := range lengths {
			out = append(out, padded("a", "@b.example", n, 64),
				padded("someone@"+strings.Repeat("harbor.", max(0, n-60)/7), "club.example", n, 63))
		}
	case form.Phone:
		out = append(out, "+598 94 123 456", "+598 2 123 4567")
	case form.Website:
		out = append(out, "https://club.example", "https://lake.example/start")
		for _, n := range lengths {
			out = append(out, padded("http://", ".example", n, 60), padded("https://club.example/", "", n, n))
		}
	case form.MonthDay:
		for month := 1; month <= 12; month++ {
			for day := 1; day <= 31; day++ {
				out = append(out, fmt.Sprintf("%02d-%02d", month, day))
			}
		}
	}
	if it.Pattern == "" {
		return out
	}
	if s, ok := expr.Sample(it.Pattern); ok {
		out = append(out, s)
	}
	sampler, ok := expr.NewSampler(it.Pattern)
	if !ok || len(it.Pattern) > longPattern {
		return out
	}
	for n := sampler.Least; n <= sampler.Least+20 && (sampler.Most < 0 || n <= sampler.Most); n++ {
		lengths = append(lengths, n)
	}
	for _, n := range lengths {
		for way := range 3 {
			if s, ok := sampler.Sample(n, way); ok && !slices.Contains(out, s) {
				out = append(out, s)
			}
		}
	}
	return out
}

// padded is a text of a length between a beginning and an end, if it is that much longer.
func padded(begin, end string, length, most int) string {
	return begin + strings.Repeat("a", min(most, max(0, length-len(begin)-len(end)))) + end
}

// takesNone reports whether an item surely takes no text of a kind, of which one is given.
func (it *item) takesNone(v *variable, s string) bool {
	switch {
	case it.Type == form.MonthDay && it.Pattern == "": // all were tried
		return true
	case !it.formed():
		return true // it is the length, which is the same for all of the kind
	case it.side.model.Late():
		return false
	case v.named(s) >= 0:
		if it.Pattern == "" {
			return true
		}
		// Letters in either case are the same to a pattern, but not all that compares equal.
		sampler, ok := expr.NewSampler(it.Pattern)
		re, err := expr.Pattern("(?i)^(?:" + it.Pattern + ")$")
		return ok && sampler.Plain && err == nil && !re.MatchString(s)
	case it.Pattern == "" || len(v.lengths) == 0:
		return false
	}
	sampler, ok := expr.NewSampler(it.Pattern)
	if !ok {
		return false
	}
	last := v.lengths[0]
	for _, l := range v.lengths {
		if l.Cmp(last) > 0 {
			last = l
		}
	}
	end, _ := last.Whole()
	end = max(end, 0) + 2
	if sampler.Most >= 0 {
		end = min(end, sampler.Most)
	}
	least := sampler.Least
	if !sampler.Plain {
		least = min(1, least) // several can be one to people
	}
	for n := least; n <= end || n == least; n++ {
		if v.asLong(n, expr.Length(s)) {
			return false
		}
	}
	return true
}

// judges reports whether it can be told of a value if it keeps the limits of an item: not
// of a text that stands for others of which some may be of its form, nor where editions that
// are compared have different limits.
func (it *item) judges(v expr.Value) bool {
	if it.vague || it.differs() {
		return false
	}
	if v.Kind() != expr.Text || !it.formed() {
		return !(v.Kind() == expr.Num && it.Step != nil && it.Min != nil && it.Min.Number == nil)
	}
	if it.Value == nil {
		return !it.side.model.textsOf(it).unsure[v.Text()]
	}
	if it.value == nil {
		return false
	}
	// What comes by itself stands for all texts that compare the same.
	lit, ok := it.value.node.(*expr.Literal)
	return ok && lit.Text == v.Text()
}

// differs reports whether another edition of an item has other limits, of those that no
// regions are made of.
func (it *item) differs() bool {
	for _, other := range it.side.model.versions(it)[1:] {
		if other.Pattern != it.Pattern || stepText(other) != stepText(it) ||
			!slices.Equal(other.Accept, it.Accept) || other.FileLimit() != it.FileLimit() {
			return true
		}
	}
	return false
}

func stepText(it *item) (text string) {
	for _, b := range []*form.Bound{it.Step, it.Min} {
		if it.Step != nil && b != nil {
			text += b.String() + " "
		}
	}
	return text
}
