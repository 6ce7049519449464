package engine

import (
	"fmt"
	"slices"
	"strings"
)

// ProblemCode says what is wrong with an answer.
type ProblemCode string

// The problems that answers can have.
const (
	Missing       ProblemCode = "missing"
	NotTicked     ProblemCode = "not-ticked"
	Unreadable    ProblemCode = "unreadable"
	NotANumber    ProblemCode = "not-a-number"
	TooManyDigits ProblemCode = "too-many-digits"
	NotADate      ProblemCode = "not-a-date"
	NotATime      ProblemCode = "not-a-time"
	NotAMonthDay  ProblemCode = "not-a-month-day"
	NotYesNo      ProblemCode = "not-yes-no"
	NotAnEmail    ProblemCode = "not-an-email"
	NotAPhone     ProblemCode = "not-a-phone"
	NotAWebsite   ProblemCode = "not-a-website"
	Differs       ProblemCode = "differs"
	TooEarly      ProblemCode = "too-early" // of dates, times and moments
	TooLate       ProblemCode = "too-late"
	TooSmall      ProblemCode = "too-small"
	TooGreat      ProblemCode = "too-great"
	OffStep       ProblemCode = "off-step"
	TooShort      ProblemCode = "too-short"
	TooLong       ProblemCode = "too-long"
	NoMatch       ProblemCode = "no-match"
	TooFew        ProblemCode = "too-few"
	TooMany       ProblemCode = "too-many"
	TooManyRows   ProblemCode = "too-many-rows"
	WrongFile     ProblemCode = "wrong-file"
	FileTooLarge  ProblemCode = "file-too-large"
	NotOffered    ProblemCode = "not-offered"
	NoPlaces      ProblemCode = "no-places"
	NotRanked     ProblemCode = "not-ranked"
	OtherMissing  ProblemCode = "other-missing"
	Refused       ProblemCode = "refused" // by a check of the author's; Arg is the message
)

// Problem is what a respondent has to mend. The zero Problem is none.
type Problem struct {
	Code ProblemCode
	Arg  string // the limit, or the author's message
	Mend string // of a check that names a question of a later page which is there: its key, where it is told
}

var problemTexts = map[ProblemCode]string{
	Missing:       "Please answer this question.",
	NotTicked:     "Please tick this box to go on.",
	Unreadable:    "This can’t be read as an answer to this question (%s).",
	NotANumber:    "Please write a number in digits.",
	TooManyDigits: "This number has too many digits.",
	NotADate:      "Please write a date as year-month-day, such as 2026-05-30.",
	NotATime:      "Please write a time such as 18:00.",
	NotAMonthDay:  "Please write month and day, such as 05-30.",
	NotYesNo:      "Please answer yes or no.",
	NotAnEmail:    "This does not look like an e-mail address. Please check it.",
	NotAPhone:     "Please check this phone number; with its country code, such as +598 …, it is always understood.",
	NotAWebsite:   "This does not look like a web address. Please check it.",
	Differs:       "The two entries differ. Please type it again.",
	TooSmall:      "Please enter %s or more.",
	TooGreat:      "Please enter %s or less.",
	TooEarly:      "Not before %s, please.",
	TooLate:       "Not after %s, please.",
	OffStep:       "Only steps of %s can be entered.",
	TooShort:      "Please write at least %s characters.",
	TooLong:       "Please write at most %s characters.",
	NoMatch:       "This is not written as it should be.",
	TooFew:        "Please pick at least %s.",
	TooMany:       "Please pick at most %s.",
	TooManyRows:   "At most %s can be entered here.",
	WrongFile:     "This kind of file can’t be taken; please choose %s.",
	FileTooLarge:  "This file is too large; the most is %s.",
	NoPlaces:      "“%s” is full by now. Please pick again.",
	NotRanked:     "Please give every choice a place of its own.",
	OtherMissing:  "Please say what you mean by “%s”.",
	NotOffered:    "What was picked is not on offer. Please pick again.",
}

// problemOnes are said instead where the limit is 1.
var problemOnes = map[ProblemCode]string{
	TooShort: "Please write at least one character.",
	TooLong:  "Please write at most one character.",
}

// String is the problem in English.
func (p Problem) String() string {
	return p.Sentence(func(phrase string, args ...any) string {
		if len(args) == 0 {
			return phrase
		}
		return fmt.Sprintf(phrase, args...)
	})
}

// Sentence is the problem in the language of say, which is given English phrases that
// may hold one %s.
func (p Problem) Sentence(say func(phrase string, args ...any) string) string {
	text := problemTexts[p.Code]
	if one := problemOnes[p.Code]; one != "" && p.Arg == "1" {
		return say(one)
	}
	switch {
	case p.Code == Refused, p.Code == NoMatch && p.Arg != "":
		return p.Arg // the author's own words
	case p.Code == WrongFile:
		return say(text, KindsOfFiles(strings.Split(p.Arg, ", "), say))
	case p.Arg == "":
		return say(text)
	}
	return say(text, say(p.Arg)) // which may be a type in words
}

// kinds are words for the files that a question takes, as they are asked for; those of
// other endings are called by them.
var kinds = map[string]string{
	"image/*": "a picture", "image/png": "a PNG picture", "image/jpeg": "a JPEG picture", ".png": "a PNG picture",
	".jpg":  "a JPEG picture",
	".jpeg": "a JPEG picture", "application/pdf": "a PDF", ".pdf": "a PDF", "audio/*": "a sound recording",
	"video/*": "a film",
	"text/*":  "a text file", "text/plain": "a text file", ".txt": "a text file", "text/csv": "a table (CSV)",
	".csv": "a table (CSV)",
	".doc": "a text document", ".docx": "a text document", ".odt": "a text document", ".xls": "a spreadsheet",
	".xlsx": "a spreadsheet",
	".ods":  "a spreadsheet", ".zip": "a ZIP archive", "application/zip": "a ZIP archive",
}

// either is said of the last of several kinds.
const either = "%s or %s"

// KindsOfFiles says in words which files are taken, each once.
func KindsOfFiles(accept []string, say func(phrase string, args ...any) string) string {
	var out []string
	for _, a := range accept {
		word := kinds[strings.ToLower(strings.TrimSpace(a))]
		if word == "" {
			word = strings.TrimSpace(a)
		} else {
			word = say(word)
		}
		if !slices.Contains(out, word) {
			out = append(out, word)
		}
	}
	if last := len(out) - 1; last > 0 {
		return say(either, strings.Join(out[:last], ", "), out[last])
	}
	return strings.Join(out, "")
}

// ProblemPhrases are all phrases of the problems.
func ProblemPhrases() []string {
	return slices.Sorted(func(yield func(string) bool) {
		for _, phrases := range []map[ProblemCode]string{problemTexts, problemOnes} {
			for _, p := range phrases {
				if !yield(p) {
					return
				}
			}
		}
		for _, word := range kinds {
			if !yield(word) {
				return
			}
		}
		yield(either)
	})
}
