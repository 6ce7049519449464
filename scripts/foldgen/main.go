// Foldgen prints the migration that lets the database compare texts as the language does:
// without regard to case, by Unicode's full case folding in normalization form C
// (Unicode 15, D145).
package main

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

const migration = `-- +goose Up
-- Texts as the language compares them; foldgen made it from the tables of Unicode. ASCII,
-- the usual case, is quick.
-- +goose StatementBegin
create function lazo_fold(t text) returns text immutable strict parallel safe language sql as $$
    select case when t ~ '^[ -~]*$' then lower(t collate "C")
    else normalize(%s, NFC) end
$$;
-- +goose StatementEnd

-- +goose Down
drop function lazo_fold;
`

func main() {
	var from, to strings.Builder
	folded := `translate(normalize(t, NFD), '%s', '%s')`
	for r := rune('A'); r <= unicode.MaxRune; r++ {
		s := string(r)
		if !utf8.ValidRune(r) || norm.NFD.String(s) != s {
			continue
		}
		f := cases.Fold().String(s)
		switch {
		case f == s:
		case utf8.RuneCountInString(f) == 1:
			from.WriteString(s)
			to.WriteString(f)
		default:
			folded = fmt.Sprintf("replace(%s, '%s', '%s')", folded, s, f)
		}
	}
	fmt.Printf(migration, fmt.Sprintf(folded, from.String(), to.String()))
}
