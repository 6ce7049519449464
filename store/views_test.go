package store_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/view"
	"lazo/store"
)

// every is a form with a question of each kind that conditions compare.
const every = `{"lazo": 1, "key": "every", "title": "Every", "timezone": "America/Montevideo", "language": "en",
 "parameters": [{"name": "club"}], "pages": [{"key": "p", "sections": [{"key": "s", "items": [
  {"key": "nm", "type": "text", "label": "Name"}, {"key": "mail", "type": "email", "label": "Mail"},
  {"key": "n", "type": "number", "label": "N"}, {"key": "m", "type": "number", "label": "M"}, {"key": "sc", "type": "scale", "label": "Scale"},
  {"key": "d", "type": "date", "label": "D"}, {"key": "e", "type": "date", "label": "E"}, {"key": "tm", "type": "time", "label": "T"},
  {"key": "yn", "type": "yes_no", "label": "YN"}, {"key": "tk", "type": "tick", "label": "TK"}, {"key": "called", "type": "tick", "label": "Called", "staff": true},
  {"key": "c", "type": "choice", "label": "C", "choices": [{"value": "one"}, {"value": "Straße", "other": true}, {"value": "three"}]},
  {"key": "cs", "type": "choices", "label": "CS", "choices": [{"value": "a"}, {"value": "B"}, {"value": "ç"}]},
  {"key": "g", "type": "grid", "label": "G", "choices": [{"value": "a"}, {"value": "b"}], "rows": [{"key": "x"}, {"key": "y"}]},
  {"key": "home", "type": "address", "label": "Home"}, {"key": "stamp", "type": "hidden", "label": "Stamp", "value": {"is": "now"}},
  {"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "n * 2"}}, {"key": "unset", "type": "calculation", "label": "Unset"}]},
  {"key": "rows", "title": "Rowers", "repeat": {"max": 5}, "items": [{"key": "born", "type": "date", "label": "Born"}, {"key": "w", "type": "number", "label": "W"},
   {"key": "seat", "type": "choice", "label": "Seat", "choices": [{"value": "bow"}, {"value": "cox"}]}, {"key": "phone", "type": "text", "label": "Phone"}]}]}]}`

// drawn draws conditions and responses.
type drawn struct{ *rand.Rand }

func (d drawn) of(list ...string) string { return list[d.IntN(len(list))] }

func (d drawn) texts() string {
	return d.of("Ana", "ana", "ÁNA", "Straße", "STRASSE", "ﬁn", "İzmir", "a", "", "Ана")
}
func (d drawn) number() string {
	return d.of("0", "1", "2", "2.50", "-3", "12345678901234567890.25", "0.1")
}
func (d drawn) day() string {
	return d.of("2026-02-28", "2008-02-29", "2026-03-01", "1999-12-31", "2008-11-25", "2008-11-26", "2027-01-01")
}

// num is a number, in a row of the section or outside.
func (d drawn) num(row bool) string {
	if row && d.IntN(2) == 0 {
		return d.of("w", "age(born)", "w + n", "row_number")
	}
	return d.of("n", "m", "sc", "fee", "n + m", "n * 2 - m", "-n", "abs(m)", "floor(n)", "age(d)", "age(d, e)",
		"count(rows)", "count(cs)",
		"count(rows, w > 1)", "count(rows, born is answered)", "response.edition", "n / m", "sum(rows.w)", d.number())
}

func (d drawn) text(row bool) string {
	if row && d.IntN(2) == 0 {
		return d.of("phone", "seat")
	}
	return d.of("nm", "mail", "home.city", "home.country", "url.club", expr.Quote(d.texts()))
}

func (d drawn) condition(depth int, row bool) string {
	if depth > 0 && d.IntN(2) == 0 {
		a, b := d.condition(depth-1, row), d.condition(depth-1, row)
		return d.of("("+a+") and ("+b+")", "("+a+") or ("+b+")", "not ("+a+")")
	}
	switch d.IntN(16) {
	case 0, 1:
		return d.num(row) + " " + d.of("=", "!=", "<", "<=", ">", ">=") + " " + d.num(row)
	case 2, 3:
		return d.text(row) + " " + d.of("=", "!=", "<", ">=", "contains", "starts with", "ends with") + " " + d.text(row)
	case 4:
		return d.of("d", "e") + " " + d.of("=", "<", ">=") + " " + d.of("e", "today", "today - 18 years", d.day())
	case 5:
		return d.of("d between "+d.day()+" and "+d.day(), "n between 1 and m", "tm < 18:00", "tm = 09:30",
			"tm between 09:00 and time")
	case 6:
		return d.of("yn", "tk", "called", "not called", "yn = no", "tk = yn", "yn = yes")
	case 7:
		return d.of(`c = "one"`, `c != "straße"`, `c in ("one", "three")`, `c not in ("STRASSE", "one")`, `c.other = "x"`,
			`c = nm`)
	case 8:
		return "cs " + d.of(`has "a"`, `has any ("b", "ç")`, `has all ("a", "b")`, `has none ("Ç")`, "is blank",
			"is answered")
	case 9:
		return d.of(`g.x = "a"`, `g.y is blank`, "g is answered", "home is blank", "home.city is answered", "rows is blank")
	case 10:
		of := d.of("nm", "n", "d", "tm", "yn", "tk", "c", "stamp", "fee", "url.club", "response.changed", "response.link")
		return of + d.of(" is blank", " is answered")
	case 11:
		return d.of("response.received > now - 30 days", "response.received <= 2026-05-30T18:00",
			"response.received = 2026-05-30T18:00",
			"response.received != 2026-05-30T18:00", "response.changed > response.received", "stamp > now",
			"response.received >= now")
	case 12:
		return d.of(`response.state = "changed"`, `response.state != "withdrawn"`,
			`response.state in ("withdrawn", "received")`,
			`response.language = "es"`, `response.by = "office"`, `nm matches "^A"`, "length(nm) > 2",
			"never_asked("+d.of("nm", "n", "tk", "c", "cs", "called")+")")
	case 13:
		return d.of("n in (1, 2.5)", "n not in (0, -3)", "d in ("+d.day()+", "+d.day()+")")
	}
	if row {
		return d.of(`seat = "cox"`, "born is blank", "w is answered", "age(born) < 18", "w > n")
	}
	return d.of("any", "every") + "(rows, " + d.condition(1, true) + ")"
}

// answers are a stored response; now and then an answer has the type of another edition.
func (d drawn) answers() map[string]any {
	out := map[string]any{}
	put := func(into map[string]any, key string, v any) {
		switch d.IntN(12) {
		case 0, 1, 2:
		case 3:
			into[key] = []any{json.Number("1"), "a", true, "2026-01-01", nil, []any{"a"}, map[string]any{"city": "x"}}[d.IntN(7)]
		default:
			into[key] = v
		}
	}
	text := func() any {
		if s := expr.Clean(d.texts()); s != "" {
			return s
		}
		return nil
	}
	put(out, "nm", text())
	put(out, "mail", text())
	put(out, "n", json.Number(d.number()))
	put(out, "m", json.Number(d.number()))
	put(out, "sc", json.Number("3"))
	put(out, "fee", json.Number(d.number()))
	put(out, "d", d.day())
	put(out, "e", d.day())
	put(out, "tm", d.of("09:30", "18:00", "00:00", "23:59"))
	put(out, "stamp", d.of("2026-05-30T18:00:00-03:00", "2027-05-30T18:00:00Z"))
	put(out, "yn", d.IntN(2) == 0)
	put(out, "tk", d.IntN(2) == 0)
	put(out, "called", d.IntN(2) == 0)
	put(out, "c", []any{"one", "three", map[string]any{"value": "Straße", "text": "x"}}[d.IntN(3)])
	put(out, "cs", []any{[]any{"a"}, []any{"a", "B"}, []any{"ç"}, []any{}}[d.IntN(4)])
	put(out, "g", map[string]any{"x": d.of("a", "b")})
	put(out, "home", map[string]any{"city": d.of("Pedralta", "ÁNA"), "country": "UY"})
	var rows []any
	for range d.IntN(4) {
		row := map[string]any{"_row": "r"}
		put(row, "born", d.day())
		put(row, "w", json.Number(d.number()))
		put(row, "seat", d.of("bow", "cox"))
		put(row, "phone", text())
		rows = append(rows, row)
	}
	if rows != nil {
		put(out, "rows", rows)
	}
	return out
}

// lensOf publishes the form with all kinds and gives its lens.
func lensOf(t *testing.T, key string) (store.Form, store.Member, *view.Lens) {
	f, m := publish(t, key)
	def, remarks := form.Read([]byte(every))
	require.NotNil(t, def, remarks)
	p, remarks := engine.Compile(def)
	require.NotNil(t, p, remarks)
	return f, m, view.NewLens(p, nil, nil)
}

// The law of views: what PostgreSQL finds is what the core's own evaluator says is met.
func TestTheDatabaseAgreesWithTheCore(t *testing.T) {
	ctx := context.Background()
	f, m, lens := lensOf(t, "agrees")
	first, remarks := engine.Load([]byte(`{"lazo": 1, "key": "first", "title": "First", "timezone": "UTC",
		"pages": [{"key": "p", "title": "P", "sections": [{"key": "s", "title": "S", "items": [
			{"key": "tk", "type": "tick", "label": "T"}, {"key": "nm", "type": "text", "label": "N", "shown": "tk"},
			{"key": "c", "type": "choice", "label": "C", "choices": [{"value": "one"}]}]}]}]}`))
	require.NotNil(t, first, remarks)
	lens.Edition = func(int) *engine.Program { return first }
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	seed := uint64(time.Now().UnixNano())
	t.Log("seed", seed) // to find the same again
	d := drawn{rand.New(rand.NewPCG(3, seed))}
	for range 120 {
		answers, err := json.Marshal(d.answers())
		require.NoError(t, err)
		r := store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Answers: answers, Filling: uuid.NewString(),
			ReceivedAt: time.Date(2026, 5, 30, 21, 0, d.IntN(3)-1, d.IntN(2)*500_000_000, time.UTC).AddDate(0, 0, d.IntN(3)-1),
			Language:   d.of("", "es")}
		if d.IntN(2) == 0 {
			r.Parameters = map[string][]string{"club": {d.texts()}}
		}
		_, err = db.AddResponse(ctx, r)
		require.NoError(t, err)
	}
	_, err := db.Pool().Exec(ctx,
		`update responses set changed_at = received_at + interval '1 hour' where form_id = $1 and random() < 0.3`, f.ID)
	require.NoError(t, err)
	_, err = db.Pool().Exec(ctx, `update responses set taken_by = $2 where form_id = $1 and random() < 0.3`, f.ID, m.ID)
	require.NoError(t, err)
	_, err = db.Pool().Exec(ctx, `update responses set withdrawn_at = received_at where form_id = $1 and random() < 0.2`,
		f.ID)
	require.NoError(t, err)
	now := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	withdrawnToo, err := lens.Compile("response.state is answered")
	require.NoError(t, err)
	everything := store.Look{Lens: lens, When: withdrawnToo, Now: now}
	exact, tried := 0, 0
	for tried < 300 {
		src := d.condition(2, false)
		when, err := lens.Compile(src)
		if err != nil {
			continue // of unlike types
		}
		tried++
		want := map[string]bool{}
		require.NoError(t, in.EachOf(ctx, everything, func(r store.Response) error {
			record, err := r.Record()
			if when.Truth(record, now) == expr.Met && (!record.Withdrawn || when.NamesState()) {
				want[r.ID] = true
			}
			return err
		}))
		got := map[string]bool{}
		look := store.Look{Lens: lens, When: when, Now: now}
		page, err := in.Look(ctx, look, store.Place{}, false, 500)
		require.NoError(t, err, src)
		for _, r := range page.Responses {
			got[r.ID] = true
		}
		for id := range got {
			if !want[id] {
				r, _ := in.Response(ctx, id)
				require.Fail(t, "found though it is not met", "%s\n%s", src, r.Answers)
			}
		}
		for id := range want {
			if !got[id] {
				r, _ := in.Response(ctx, id)
				require.Fail(t, "met but not found", "%s\n%s", src, r.Answers)
			}
		}
		if !page.Slow {
			exact++
			n, err := in.Count(ctx, look)
			require.NoError(t, err)
			assert.Equal(t, len(want), n, src)
		}
	}
	assert.Greater(t, exact, tried/2, "most conditions are the database's alone")
}

// Every letter is compared in the database as the language compares it.
func TestTheDatabaseFoldsAsTheLanguageDoes(t *testing.T) {
	var letters []string
	for r := rune(33); r < 0x1FFFF; r++ {
		if s := string(r); (r < 0xD800 || r > 0xDFFF) && expr.Fold(s+"x") != s+"x" && expr.Clean(s) == s {
			letters = append(letters, s)
		}
	}
	rows, err := db.Pool().Query(context.Background(), "select x, lazo_fold(x) from unnest($1::text[]) x", letters)
	require.NoError(t, err)
	n := 0
	for rows.Next() {
		var x, folded string
		require.NoError(t, rows.Scan(&x, &folded))
		assert.Equal(t, expr.Fold(x), folded, "%q %U", x, []rune(x))
		n++
	}
	require.NoError(t, rows.Err())
	assert.Greater(t, n, 1000)
}

// What is looked for by a word of plain letters is found in every letter that is compared
// as one of them.
func TestLettersThatAreComparedAsPlainOnes(t *testing.T) {
	ctx := context.Background()
	f, _, lens := lensOf(t, "plain-letters")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	var said []string
	for r := rune(128); r < 0x1FFFF; r++ {
		s := string(r)
		plain := strings.IndexFunc(expr.Fold(s+"0"), func(r rune) bool { return r >= 'a' && r <= 'z' })
		if (r < 0xD800 || r > 0xDFFF) && plain >= 0 && expr.Clean(s) == s {
			said = append(said, s)
		}
	}
	require.NotEmpty(t, said)
	for _, s := range said {
		answers, err := json.Marshal(map[string]any{"nm": s + "0"})
		require.NoError(t, err)
		_, err = db.AddResponse(ctx, store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Answers: answers,
			Filling: uuid.NewString(), ReceivedAt: time.Now()})
		require.NoError(t, err)
		letters := strings.Map(func(r rune) rune {
			if r < 'a' || r > 'z' {
				return -1
			}
			return r
		}, expr.Fold(s+"0"))
		page, err := in.Look(ctx, store.Look{Lens: lens, Find: letters, Now: time.Now()}, store.Place{}, false, 500)
		require.NoError(t, err)
		assert.True(t, slices.ContainsFunc(page.Responses,
			func(r store.Response) bool { return string(r.Answers) == `{"nm": "`+s+`0"}` }),
			"%q by %q", s, letters)
	}
}

// Pages in every order hold each response once, forwards and backwards.
func TestPagesOfAView(t *testing.T) {
	ctx := context.Background()
	f, _, lens := lensOf(t, "pages")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	d := drawn{rand.New(rand.NewPCG(5, 6))}
	at := time.Date(2026, 5, 30, 12, 0, 0, 0, time.UTC)
	for i := range 57 {
		answers, err := json.Marshal(d.answers())
		require.NoError(t, err)
		_, err = db.AddResponse(ctx, store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Answers: answers,
			Filling: uuid.NewString(), ReceivedAt: at.Add(time.Duration(i/3) * time.Second)})
		require.NoError(t, err)
	}
	for _, sort := range []string{"", "n", "nm", "d", "yn", "cs", "rows", "response.changed", "url.club", "gone"} {
		for _, up := range []bool{false, true} {
			look := store.Look{Lens: lens, Sort: sort, Up: up, Now: at}
			name := fmt.Sprint(sort, " ", up)
			var forward []string
			page, err := in.Look(ctx, look, store.Place{}, false, 10)
			require.NoError(t, err, name)
			for {
				for _, r := range page.Responses {
					forward = append(forward, r.ID)
				}
				if !page.After {
					break
				}
				page, err = in.Look(ctx, look, page.Last, false, 10)
				require.NoError(t, err, name)
			}
			assert.Len(t, forward, 57, name)
			var all []string
			require.NoError(t, in.EachOf(ctx, look, func(r store.Response) error { all = append(all, r.ID); return nil }))
			assert.Equal(t, all, forward, name)
			var backward []string
			page, err = in.Look(ctx, look, store.Place{}, true, 10)
			require.NoError(t, err, name)
			for {
				var ids []string
				for _, r := range page.Responses {
					ids = append(ids, r.ID)
				}
				backward = append(ids, backward...)
				if !page.Before {
					break
				}
				page, err = in.Look(ctx, look, page.First, true, 10)
				require.NoError(t, err, name)
			}
			assert.Equal(t, forward, backward, name)
			before, after, err := in.Neighbours(ctx, look, forward[20])
			require.NoError(t, err)
			assert.Equal(t, []string{forward[19], forward[21]}, []string{before, after}, name)
		}
	}
	n, err := in.CountResponses(ctx)
	require.NoError(t, err)
	assert.Equal(t, 57, n)
	require.NoError(t, in.DeleteResponse(ctx, firstOf(t, in, lens)))
	n, err = in.CountResponses(ctx)
	require.NoError(t, err)
	assert.Equal(t, 56, n, "what is deleted is no longer counted")
	found, err := in.Look(ctx, store.Look{Lens: lens, Find: "PEDRAL", Now: at}, store.Place{}, false, 100)
	require.NoError(t, err)
	assert.NotEmpty(t, found.Responses)
	for _, r := range found.Responses {
		assert.Contains(t, string(r.Answers), "Pedralta")
	}
	other, _ := publish(t, "pages-of-others")
	none, err := db.InWorkspace(other.WorkspaceID).Form(f.ID).Look(ctx, store.Look{Lens: lens, Now: at}, store.Place{},
		false, 10)
	require.NoError(t, err)
	assert.Empty(t, none.Responses, "another workspace sees none")
}

func firstOf(t *testing.T, in store.InForm, lens *view.Lens) string {
	page, err := in.Look(context.Background(), store.Look{Lens: lens, Now: time.Now()}, store.Place{}, false, 1)
	require.NoError(t, err)
	return page.Responses[0].ID
}

func TestViewsAreKept(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "kept-views")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	mine, err := in.SaveView(ctx, store.SavedView{
		OwnerID: &m.ID, Name: "Mine", Definition: view.View{When: "n > 1", Columns: []string{"n"}, Up: true},
	})
	require.NoError(t, err)
	ours, err := in.SaveView(ctx, store.SavedView{Name: "Ours"})
	require.NoError(t, err)
	_, err = in.SaveView(ctx, store.SavedView{Name: "OURS"})
	assert.ErrorIs(t, err, store.ErrTaken)
	list, err := in.Views(ctx, m.ID)
	require.NoError(t, err)
	assert.Len(t, list, 2)
	assert.Equal(t, "n > 1", list[0].Definition.When)
	list, err = in.Views(ctx, m.ID+1)
	require.NoError(t, err)
	assert.Len(t, list, 1, "another member sees those of all")
	_, err = in.View(ctx, m.ID+1, mine.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	ours.Name, ours.Definition.When = "All of ours", "n < 3"
	_, err = in.SaveView(ctx, ours)
	require.NoError(t, err)
	again, err := in.View(ctx, m.ID, ours.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"All of ours", "n < 3"}, []string{again.Name, again.Definition.When})
	require.NoError(t, in.DeleteView(ctx, m.ID, ours.ID))
	_, err = in.View(ctx, m.ID, ours.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// A question that was renamed leads the answers that it had along.
func TestARenamedQuestionKeepsItsAnswers(t *testing.T) {
	ctx := context.Background()
	w, err := db.CreateWorkspace(ctx, "renamed")
	require.NoError(t, err)
	m, err := db.CreateMember(ctx,
		store.Member{WorkspaceID: w.ID, Email: "renamed@lakeside.example", Name: "R", PasswordHash: "x"})
	require.NoError(t, err)
	def, remarks := form.Read([]byte(strings.Replace(every, `"key": "every"`, `"key": "renamed"`, 1)))
	require.NotNil(t, def, remarks)
	f, err := db.InWorkspace(w.ID).CreateForm(ctx, def)
	require.NoError(t, err)
	in := db.InWorkspace(w.ID).Form(f.ID)
	_, err = in.Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)
	_, err = db.AddResponse(ctx,
		store.Response{WorkspaceID: w.ID, FormID: f.ID, Edition: 1, Answers: []byte(`{"n": 7, "rows": [{"w": 3}]}`),
			ReceivedAt: time.Now(), Filling: uuid.NewString()})
	require.NoError(t, err)
	for _, to := range [][2]string{{"n", "oars"}, {"oars", "blades"}, {"w", "weight"}, {"rows", "crew"}} {
		f, err = in.Edit(ctx, f.DraftVersion, m.ID, form.Edit{Op: form.RenameKey, Key: to[0], To: to[1]})
		require.NoError(t, err)
	}
	def, err = f.Definition()
	require.NoError(t, err)
	earlier, err := in.Earlier(ctx, def)
	require.NoError(t, err)
	assert.Equal(t, map[string][]string{"blades": {"oars", "n"}, "weight": {"w"}, "crew": {"rows"}}, earlier)
	p, _ := engine.Compile(def)
	lens := view.NewLens(p, nil, earlier)
	for _, src := range []string{"blades = 7", "any(crew, weight = 3)", "count(crew) = 1"} {
		when, err := lens.Compile(src)
		require.NoError(t, err)
		page, err := in.Look(ctx, store.Look{Lens: lens, When: when, Now: time.Now()}, store.Place{}, false, 5)
		require.NoError(t, err)
		require.Len(t, page.Responses, 1, src)
		record, err := page.Responses[0].Record()
		require.NoError(t, err)
		assert.Equal(t, expr.Met, when.Truth(record, time.Now()), src)
	}
	assert.True(t, slices.ContainsFunc(lens.Columns(), func(c view.Column) bool { return c.Key == "crew" }))
}

// What the database can't read in one response is left to the core.
func TestAConditionOnWhatIsAlwaysBlank(t *testing.T) {
	ctx := context.Background()
	f, _, lens := lensOf(t, "always-blank")
	_, err := db.AddResponse(ctx, response(f, 1))
	require.NoError(t, err)
	for when, found := range map[string]int{"unset is answered": 0, "unset is blank": 1,
		"unset is blank and n is blank": 1, "unset > n": 0} {
		c, err := lens.Compile(when)
		require.NoError(t, err, when)
		page, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Look(ctx, store.Look{Lens: lens, When: c}, store.Place{}, false,
			10)
		require.NoError(t, err, when)
		assert.Len(t, page.Responses, found, when)
	}
}

func TestAnAnswerThatTheDatabaseCantRead(t *testing.T) {
	ctx := context.Background()
	f, _, lens := lensOf(t, "unreadable")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	for _, answers := range []string{`{"stamp": "2026-99-99T99:99:99Z", "n": 1}`,
		`{"stamp": "2026-05-30T18:00:00Z", "n": 2}`} {
		_, err := db.AddResponse(ctx,
			store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Answers: []byte(answers),
				Filling: uuid.NewString(), ReceivedAt: time.Now()})
		require.NoError(t, err)
	}
	when, err := lens.Compile("stamp > 2026-01-01T00:00")
	require.NoError(t, err)
	look := store.Look{Lens: lens, When: when, Now: time.Now()}
	page, err := in.Look(ctx, look, store.Place{}, false, 10)
	require.NoError(t, err)
	require.Len(t, page.Responses, 1)
	n, err := in.Count(ctx, look)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
}

// A change of many is remembered as the member's last one; of what is erased nothing is.
func TestAChangeOfMany(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "bulk")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	_, err := in.LastBulk(ctx, m.ID)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = db.AddResponse(ctx, response(f, 1))
	require.NoError(t, err)
	r, err := in.ResponseOf(ctx, response(f, 1).Filling)
	require.NoError(t, err)
	for _, says := range []string{"first", "second"} {
		require.NoError(t, in.KeepBulk(ctx, store.BulkChange{MemberID: m.ID, Says: says, Changed: store.Changed{
			Key: "a", Responses: map[string][2]json.RawMessage{r.ID: {json.RawMessage(`"before"`),
				json.RawMessage(`"after"`)}}}}))
	}
	last, err := in.LastBulk(ctx, m.ID)
	require.NoError(t, err)
	assert.Equal(t, "second", last.Says)
	assert.Len(t, last.Changed.Responses, 1)
	require.NoError(t, in.DeleteResponse(ctx, r.ID))
	last, err = in.LastBulk(ctx, m.ID)
	require.NoError(t, err)
	assert.Empty(t, last.Changed.Responses)
	require.NoError(t, in.DropBulk(ctx, m.ID))
	_, err = in.LastBulk(ctx, m.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// Words are found within words and numbers, with and without accents on either side.
func TestWordsAreFoundAsPeopleTypeThem(t *testing.T) {
	ctx := context.Background()
	f, _, lens := lensOf(t, "found")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	for i, answers := range []string{
		`{"nm": "María Núñez"}`, `{"nm": "Søren Łukasz"}`, `{"nm": "Sail NP1123"}`, `{"n": 21.75}`, `{"nm": "Straße 9"}`,
		`{"nm": "Plain Nunez"}`,
	} {
		_, err := db.AddResponse(ctx,
			store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Answers: []byte(answers),
				Filling: uuid.NewString(), ReceivedAt: time.Now().Add(time.Duration(i) * time.Second)})
		require.NoError(t, err)
	}
	for words, want := range map[string]int{
		"nunez": 2, "Núñez": 2, "NUÑEZ maria": 1, "soren": 1, "Søren": 1, "lukasz": 1, "NP11": 1, "np1123": 1, "21.7": 1,
		"1.75":    1,
		"strasse": 1, "Straße": 1, "gone": 0, "nu\u0301nez": 2,
	} {
		page, err := in.Look(ctx, store.Look{Lens: lens, Find: words, Now: time.Now()}, store.Place{}, false, 50)
		require.NoError(t, err)
		assert.Len(t, page.Responses, want, words)
	}
}

// What is searched for is made plain here as PostgreSQL makes it.
func TestPlainIsTheSameInTheDatabase(t *testing.T) {
	var letters []string
	for r := rune(33); r < 0x2fff; r++ {
		if s := string(r) + "a"; expr.Clean(s) == s {
			letters = append(letters, s)
		}
	}
	rows, err := db.Pool().Query(context.Background(), "select x, lazo_find(x) from unnest($1::text[]) x", letters)
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var x, plain string
		require.NoError(t, rows.Scan(&x, &plain))
		assert.Equal(t, expr.Searched(x), plain, "%q", x)
	}
	require.NoError(t, rows.Err())
}
