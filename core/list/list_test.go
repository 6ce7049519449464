package list_test

import (
	"encoding/json"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/core/list"
)

func cells(lines ...string) [][]string {
	var out [][]string
	for _, line := range lines {
		out = append(out, strings.Split(line, "|"))
	}
	return out
}

var piers = form.Table{
	Columns: []form.Column{
		{Key: "code", Name: "Code", Type: form.TextColumn}, {Key: "name", Name: "Pier", Type: form.TextColumn},
		{Key: "fee", Name: "Fee", Type: form.NumberColumn}, {Key: "lit", Name: "Lit", Type: form.YesNoColumn},
	},
	Entries: []form.Entry{
		{"code": "h", "name": "Heron", "fee": json.Number("40"), "lit": true},
		{"code": "t", "name": "Teal", "fee": json.Number("10")},
	},
}

func TestAListIsReadFromCells(t *testing.T) {
	for _, c := range []struct {
		name    string
		cells   [][]string
		was     form.Table
		faults  []string
		columns string
	}{
		{name: "fresh", cells: cells("Code|Pier name|Fee|Since|Lit", "h|Heron|40.5|2024-05-01|yes", "",
			"007|Teal||2025-01-01|no"),
			columns: "code:text pier_name:text fee:number since:date lit:yesno"},
		{name: "zeros before it make a code", cells: cells("n|Berth", "a|007"), columns: "n:text berth:text"},
		{name: "the code is a text", cells: cells("nr|name", "1|A"), columns: "nr:text name:text"},
		{name: "columns keep their order, new ones follow", was: piers, cells: cells("Depth|fee|PIER|Code", "2,5|3|A|a"),
			columns: "code:text name:text fee:number depth:text"},
		{name: "nothing", faults: []string{"A1: there is nothing"}},
		{name: "no code", was: piers, cells: cells("Pier|Fee", "A|1"), faults: []string{"A1: the column “Code” is missing"}},
		{name: "twice", cells: cells("a|b|A", "1|2|3"), faults: []string{"C1: two columns are called “A”"}},
		{name: "no title", cells: cells("a|", "1|2"), faults: []string{"B1: this column has no title"}},
		{name: "each at its cell", was: piers, cells: cells("Code|Fee|Lit", "a|much|yes", "A|1|perhaps", "|2|", "b|1,5|x"),
			faults: []string{"B2: the column “Fee” takes a number, not “much”", "C3: the column “Lit” takes yes or no",
				"A3: “A” stands in line 2 already", "A4: an entry needs a Code"}},
		{name: "long", was: piers, cells: cells("Code|Pier", "a|"+strings.Repeat("x", 1001)),
			faults: []string{"B2: the column “Pier” takes a text of at most"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			table, faults := list.Read(c.cells, c.was)
			require.Len(t, faults, len(c.faults), "%v", faults)
			for i, f := range faults {
				assert.Contains(t, f.String(), c.faults[i])
			}
			var columns []string
			for _, col := range table.Columns {
				columns = append(columns, col.Key+":"+string(col.Type))
			}
			if len(faults) == 0 {
				assert.Equal(t, c.columns, strings.Join(columns, " "))
			}
		})
	}
	many := [][]string{{"code"}}
	for i := range form.MaxChoices + 1 {
		many = append(many, []string{strconv.Itoa(i)})
	}
	_, faults := list.Read(many, form.Table{})
	assert.Contains(t, faults[0].Text, "at most 20000 entries")
}

func TestDifferencesAndMerging(t *testing.T) {
	next, faults := list.Read(cells("Code|Pier|Fee|Depth", "t|Teal|12|3", "s|Swan|5|2"), piers)
	require.Empty(t, faults)
	d := list.Compare(piers, next)
	assert.Equal(t, []string{"a new column “Depth” (number)", "the column “Lit” goes away"}, d.Columns)
	assert.Equal(t, []string{"s"}, list.Codes(next, d.Added))
	assert.Equal(t, []string{"h"}, list.Codes(piers, d.Gone))
	assert.Equal(t, []list.Change{{"t", "Fee", "10", "12"}}, d.Changed)
	assert.True(t, list.Compare(piers, piers).None())

	both := list.Merge(piers, next)
	assert.Equal(t, []string{"h", "t", "s"}, list.Codes(both, both.Entries))
	assert.Equal(t, true, both.Entries[0]["lit"], "a column that is not in the file stays")
	assert.Equal(t, json.Number("12"), both.Entries[1]["fee"])
	assert.Empty(t, list.Check(both))

	turned := form.Table{Columns: piers.Columns, Entries: []form.Entry{piers.Entries[1], piers.Entries[0]}}
	assert.Equal(t, list.Difference{Moved: true}, list.Compare(piers, turned))
}

// What goes out as CSV or XLSX comes back the same.
func TestAListComesBackAsItWentOut(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		table := form.Table{Columns: piers.Columns, Entries: []form.Entry{}}
		word := rapid.SampledFrom([]string{"Heron", "=1+1", "'quoted", "a;b", "a,b\t\"c\"", "line\nbreak", "é – 月", "+49 30",
			"007", "@x", "1e5"})
		for i := range rapid.IntRange(0, 5).Draw(rt, "entries") {
			e := form.Entry{"code": "c" + strconv.Itoa(i), "name": word.Draw(rt, "name")}
			if rapid.Bool().Draw(rt, "fee") {
				e["fee"] = json.Number(strconv.Itoa(rapid.IntRange(-9, 9).Draw(rt, "n")))
			}
			if rapid.Bool().Draw(rt, "lit") {
				e["lit"] = rapid.Bool().Draw(rt, "is")
			}
			table.Entries = append(table.Entries, e)
		}
		sheet := exchange.Sheet{Name: "Piers", Cells: list.Cells(table)}
		csv, err := exchange.WriteCSV(sheet)
		require.NoError(rt, err)
		xlsx, err := exchange.WriteXLSX([]exchange.Sheet{sheet})
		require.NoError(rt, err)
		for _, data := range [][]byte{csv, xlsx} {
			sheets, err := exchange.ReadSheets(data)
			require.NoError(rt, err)
			back, faults := list.Read(sheets[0].Cells, table)
			require.Empty(rt, faults)
			require.Equal(rt, table, back)
			require.True(rt, list.Compare(table, back).None())
		}
	})
}
