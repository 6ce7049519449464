package expr

import (
	"maps"
	"slices"
)

// function is what the checker needs to know of a function before its arguments.
type function struct {
	least, most int    // number of arguments
	usage       string // as shown in messages and offered by the editor
}

const many = 1000

var functions = map[string]function{
	"age":     {1, 2, "age(born) or age(born, on)"},
	"days":    {2, 2, "days(from, to)"},
	"months":  {2, 2, "months(from, to)"},
	"years":   {2, 2, "years(from, to)"},
	"length":  {1, 1, "length(text)"},
	"count":   {1, many, "count(choices), count(section) or count(section, condition)"},
	"round":   {1, 2, "round(number) or round(number, places)"},
	"abs":     {1, 1, "abs(number)"},
	"floor":   {1, 1, "floor(number)"},
	"ceil":    {1, 1, "ceil(number)"},
	"sum":     {1, many, "sum(section.question) or sum(a, b, …)"},
	"average": {1, many, "average(section.question) or average(a, b, …)"},
	"min":     {1, many, "min(section.question) or min(a, b, …)"},
	"max":     {1, many, "max(section.question) or max(a, b, …)"},
	"if":      {3, 3, "if(condition, value, otherwise)"},
	"first":   {1, many, "first(a, b, …)"},
	"join":    {2, many, "join(separator, a, b, …)"},
	"exact":   {2, 2, "exact(a, b)"},
	"any":     {2, 2, "any(section, condition)"},
	"every":   {2, 2, "every(section, condition)"},
}

func isFunction(name string) bool { _, ok := functions[name]; return ok }

func functionNames() []string { return slices.Sorted(maps.Keys(functions)) }
