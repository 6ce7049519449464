// Command cldrgen writes cldr.json: how each language of CLDR writes numbers, dates,
// times and lists. It reads the JSON packages of CLDR, laid out as on npm:
//
//	cldrgen FOLDER  (with cldr-core, cldr-dates-modern, cldr-misc-modern, cldr-numbers-modern in it)
package main

import (
	"encoding/json"
	"log"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"lazo/core/text"
)

func main() {
	if len(os.Args) != 2 {
		log.Fatal("cldrgen FOLDER")
	}
	folder := os.Args[1]
	digits := map[string]string{}
	for name, system := range dig(read(folder, "cldr-core/supplemental/numberingSystems.json"), "supplemental",
		"numberingSystems") {
		digits[name], _ = system.(map[string]any)["_digits"].(string)
	}
	tags, err := os.ReadDir(filepath.Join(folder, "cldr-dates-modern", "main"))
	if err != nil {
		log.Fatal(err)
	}
	out := map[string]text.Conventions{}
	for _, tag := range tags {
		out[tag.Name()] = conventions(folder, tag.Name(), digits)
	}
	for _, tag := range slices.Sorted(maps.Keys(out)) { // what is as in the language alone is left out
		if at := strings.LastIndexByte(tag, '-'); at > 0 && same(out[tag], out[tag[:at]]) {
			delete(out, tag)
		}
	}
	data, err := json.MarshalIndent(out, "", " ")
	if err != nil {
		log.Fatal(err)
	}
	if err := os.WriteFile("cldr.json", append(data, '\n'), 0o644); err != nil { //nolint:gosec // a source file
		log.Fatal(err)
	}
}

func same(a, b text.Conventions) bool {
	x, _ := json.Marshal(a)
	y, _ := json.Marshal(b)
	return string(x) == string(y)
}

func read(folder, name string) map[string]any {
	data, err := os.ReadFile(filepath.Join(folder, name)) //nolint:gosec // the folder is the caller's
	if err != nil {
		log.Fatal(err)
	}
	var out map[string]any
	if err := json.Unmarshal(data, &out); err != nil {
		log.Fatal(name, err)
	}
	return out
}

func dig(v map[string]any, path ...string) map[string]any {
	for _, name := range path {
		v, _ = v[name].(map[string]any)
	}
	return v
}

func conventions(folder, tag string, digits map[string]string) text.Conventions {
	word := func(v map[string]any, name string) string { s, _ := v[name].(string); return s }
	dates := dig(read(folder, "cldr-dates-modern/main/"+tag+"/ca-gregorian.json"), "main", tag, "dates", "calendars",
		"gregorian")
	numbers := dig(read(folder, "cldr-numbers-modern/main/"+tag+"/numbers.json"), "main", tag, "numbers")
	list := dig(read(folder, "cldr-misc-modern/main/"+tag+"/listPatterns.json"), "main", tag, "listPatterns",
		"listPattern-type-standard")
	posix := dig(read(folder, "cldr-misc-modern/main/"+tag+"/posix.json"), "main", tag, "posix", "messages")
	system := word(numbers, "defaultNumberingSystem")
	symbols := dig(numbers, "symbols-numberSystem-"+system)
	c := text.Conventions{
		OfDay: word(dig(dates, "dateFormats"), "long"), OfTime: word(dig(dates, "timeFormats"), "short"),
		OfMoment: word(dig(dates, "dateTimeFormats"), "long"),
		AM:       word(dig(dates, "dayPeriods", "format", "abbreviated"), "am"),
		PM:       word(dig(dates, "dayPeriods", "format", "abbreviated"), "pm"),
		Decimal:  word(symbols, "decimal"), Group: word(symbols, "group"), Minus: word(symbols, "minusSign"),
		Pattern: word(dig(numbers, "decimalFormats-numberSystem-"+system), "standard"),
		Two:     word(list, "2"), Start: word(list, "start"), Middle: word(list, "middle"), End: word(list, "end"),
		Yes: strings.Split(word(posix, "yesstr"), ":")[0], No: strings.Split(word(posix, "nostr"), ":")[0],
	}
	if c.End == "{0}, and {1}" {
		c.End = "{0} and {1}" // English as most of the world writes it, and as short lists read best
	}
	if word(numbers, "minimumGroupingDigits") == "2" {
		c.SparseGroups = true
	}
	if system != "latn" {
		c.Digits = digits[system]
	}
	for _, months := range []struct {
		form string
		into *[]string
	}{{"format", &c.Months}, {"stand-alone", &c.MonthsAlone}} {
		names := dig(dates, "months", months.form, "wide")
		for _, n := range []string{"1", "2", "3", "4", "5", "6", "7", "8", "9", "10", "11", "12"} {
			*months.into = append(*months.into, word(names, n))
		}
	}
	days := dig(dates, "days", "format", "wide")
	for _, n := range []string{"sun", "mon", "tue", "wed", "thu", "fri", "sat"} {
		c.Weekdays = append(c.Weekdays, word(days, n))
	}
	c.OfMonthDay = word(dig(dates, "dateTimeFormats", "availableFormats"), "MMMMd")
	if !strings.Contains(c.OfDay, "LLLL") {
		c.MonthsAlone = nil
	}
	return c
}
