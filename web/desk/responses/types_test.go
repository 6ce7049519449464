package responses_test

import (
	"fmt"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/author"
	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/view"
	"lazo/web/desk/desktest"
)

// stored is an answer of each type as responses hold it.
var stored = map[form.Type]string{
	form.Text: `"Ana"`, form.Paragraph: `"Two\nlines"`, form.Number: `12.5`,
	form.Email: `"ana@pedralta.example"`, form.Phone: `"+59899123456"`,
	form.Website: `"https://club.example"`, form.Date: `"2026-05-30"`, form.Time: `"18:30"`, form.MonthDay: `"05-30"`,
	form.YesNo: `true`,
	form.Tick:  `true`, form.ChoiceType: `"a"`, form.ChoicesType: `["a", "b"]`, form.Scale: `4`,
	form.Ranking: `["b", "a"]`,
	form.Grid:    `{"sat": "a"}`, form.Address: `{"street": "Pier 1", "city": "Pedralta", "country": "UY"}`,
	form.File: `[{"id": "x", "name": "hull.png", "type": "image/png", "size": 12}]`, form.Signature: `{"name": "Ana"}`,
	form.Hidden: `"h"`, form.Calculation: `3`,
}

// Whatever a question is, one sorts by it, asks about it with every operator, groups by it
// and counts: no look fails.
func TestEveryTypeIsLookedAt(t *testing.T) {
	var items, answers []string
	for _, row := range form.Types() {
		if row.Type == form.Note {
			continue
		}
		more := ""
		switch {
		case row.Type.Picks(), row.Type == form.Grid:
			more = `, "choices": [{"value": "a", "label": "Aft"}, {"value": "b", "label": "Bow"}], "rows": [{"key": "sat", "label": "Saturday"}]`
			if row.Type != form.Grid {
				more = strings.Split(more, `, "rows"`)[0]
			}
		case row.Type == form.Hidden:
			more = `, "value": {"is": "now"}`
		case row.Type == form.Calculation:
			more = `, "value": {"is": "q_number * 2"}`
		}
		items = append(items, fmt.Sprintf(`{"key": "q_%s", "type": "%s", "label": "The %s"%s}`, row.Type, row.Type, row.Words,
			more))
		require.NotEmpty(t, stored[row.Type], "an answer of the type %s is missing in this test", row.Type)
		answers = append(answers, fmt.Sprintf(`"q_%s": %s`, row.Type, stored[row.Type]))
	}
	v := desktest.Visit(t, strings.Join(items, ","))
	v.Receive("{" + strings.Join(answers, ",") + "}")
	v.Receive("{}")
	def, _ := v.Draft()
	p, remarks := engine.Compile(def)
	require.NotNil(t, p, remarks)
	syms := view.NewLens(p, nil, nil).Syms
	base := v.Base + "/responses"
	fine := func(path string) {
		status, page := v.Get(path)
		assert.Equal(t, 200, status, "%s\n%.300s", path, page)
	}
	var conditions []string
	for _, subject := range author.Subjects(def, syms, "") {
		for _, op := range subject.Type.Operators() {
			c := expr.Clause{Key: subject.Key, Op: op.ID, Values: sample(subject.Type, op)}
			n, err := syms.ClauseNode(c)
			require.NoError(t, err, c)
			conditions = append(conditions, n.String())
		}
	}
	for _, when := range conditions {
		q := "?when=" + url.QueryEscape(when)
		fine(base + q)
		fine(base + "/count" + q + "&sort=q_number")
	}
	for _, row := range form.Types() {
		if row.Type == form.Note {
			continue
		}
		q := "?sort=q_" + string(row.Type)
		for _, up := range []string{"", "&up=1"} {
			fine(base + q + up)
			fine(base + q + up + "&when=" + url.QueryEscape(`q_text = "Ana"`))
			fine(base + "/count" + q + up + "&when=" + url.QueryEscape(`q_text = "Ana"`))
			fine(base + "/count" + q + up + "&when=" + url.QueryEscape(`length(q_text) > 1`))
			fine(base + "/as.csv" + q + up)
		}
		fine(base + "/summary?of=q_choice&by=q_" + string(row.Type))
		fine(base + "/summary?by=q_choice&of=q_" + string(row.Type))
	}
}

func sample(t expr.Type, op expr.Operator) []string {
	value := map[expr.Kind]string{
		expr.Num: "12.5", expr.Date: "2026-05-30", expr.Time: "18:30", expr.Moment: "2026-05-30T18:30",
	}[t.Kind]
	switch {
	case op.Of == expr.Num:
		value = "7"
	case t.Options != nil && len(t.Options.Values) > 0:
		value = t.Options.Values[0]
	case value == "":
		value = "a"
	}
	return []string{value, value}
}
