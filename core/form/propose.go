package form

import (
	"regexp"
	"strings"
)

// proposals are tried in order on the words of a question.
var proposals = []struct {
	words *regexp.Regexp
	typ   Type
}{
	{regexp.MustCompile(`\b(e-?mail)\b`), Email},
	{regexp.MustCompile(`\b(phone|telephone|mobile|call you)\b`), Phone},
	{regexp.MustCompile(`\b(website|web address|homepage|url)\b`), Website},
	{regexp.MustCompile(`\b(date|day of birth|born|birthday|when were)\b`), Date},
	{regexp.MustCompile(`\b(what time|at what hour|time of day|launch time|arrival time)\b`), Time},
	{regexp.MustCompile(`\b(address|where do you live)\b`), Address},
	{regexp.MustCompile(`\b(upload|attach|photo of|certificate file)\b`), File},
	{regexp.MustCompile(`\b(sign here|signature)\b`), Signature},
	{regexp.MustCompile(`^(i agree|i accept|i confirm|i have read|please send me)\b`), Tick},
	{regexp.MustCompile(`^(do|does|did|are|is|have|has|will|would|can) `), YesNo},
	{regexp.MustCompile(`\b(how many|number of|how much|weight|length|height|age in|fee|metres|kilos)\b`), Number},
	{regexp.MustCompile(`\b(which days|which of|tick all|all that apply)\b`), ChoicesType},
	{regexp.MustCompile(`\b(which|choose|class|kind of|category|size)\b`), ChoiceType},
	{regexp.MustCompile(`\b(describe|tell us|comments?|remarks?|anything else|why)\b`), Paragraph},
}

// ProposeType guesses the type of a question from its words; text if nothing fits.
func ProposeType(label string) Type {
	low := strings.ToLower(strings.TrimSpace(label))
	for _, p := range proposals {
		if p.words.MatchString(low) {
			return p.typ
		}
	}
	return Text
}
