// Scale lays out a form with very many responses, and a thousand forms beside it, and
// measures what the desk makes people wait for, beside what PostgreSQL needs alone.
package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"lazo/credential"
	"lazo/demo"
	"lazo/store"
	"lazo/web"
)

const (
	drawnAtMost = 1_000_000 // responses that differ; of more, the same come again
	address     = "scale"
	email       = "scale@pedralta.example"
	password    = "very many boats"
	forms       = 1000
)

func main() {
	n := 1_000_000
	if len(os.Args) > 2 {
		n, _ = strconv.Atoi(os.Args[2])
	}
	if len(os.Args) < 2 || n <= 0 {
		log.Fatal("scale: give the address of a database, and how many responses")
	}
	ctx := context.Background()
	s, err := store.Open(ctx, os.Args[1])
	must(err)
	must(s.Migrate(ctx))
	f := layOut(ctx, s, n)
	measure(ctx, s, f, n)
}

func must(err error) {
	if err != nil {
		log.Fatal("scale: ", err)
	}
}

// layOut makes the forms and their responses, unless they are there already.
func layOut(ctx context.Context, s *store.Store, n int) store.Form {
	if f, err := s.FormByAddress(ctx, address); err == nil {
		return f
	}
	w, err := s.CreateWorkspace(ctx, "Scale")
	must(err)
	hash, err := credential.Hash(password)
	must(err)
	m, err := s.CreateMember(ctx, store.Member{WorkspaceID: w.ID, Email: email, Name: "Scale", PasswordHash: hash})
	must(err)
	for _, l := range demo.Lists() {
		_, err := s.InWorkspace(w.ID).AddList(ctx, l.Key, l.Name, l.Table, m.ID, "begun")
		must(err)
	}
	def := demo.CrewEntry(time.Now())
	for i := range forms {
		other := def.Clone()
		other.Key = fmt.Sprintf("scale-%d", i)
		_, err := s.InWorkspace(w.ID).CreateForm(ctx, other)
		must(err)
	}
	def.Key = address
	f, err := s.InWorkspace(w.ID).CreateForm(ctx, def)
	must(err)
	e, err := s.InWorkspace(w.ID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	must(err)
	f.LiveEdition = &e.Number
	began := time.Now()
	_, err = s.Pool().Exec(ctx, "alter table responses disable trigger responses_are_tallied")
	must(err)
	random := rand.New(rand.NewPCG(1, 2))
	drawnOnes := min(n, drawnAtMost)
	rows := pgx.CopyFromSlice(drawnOnes, func(i int) ([]any, error) {
		answers, err := json.Marshal(drawn(random))
		id := uuid.New()
		return []any{
			[16]byte(id), int64(w.ID), int64(f.ID), e.Number, string(answers), "{}",
			time.Now().Add(-time.Duration(drawnOnes-i) * 25 * time.Second), uuid.NewString(), "",
		}, err
	})
	_, err = s.Pool().CopyFrom(ctx, pgx.Identifier{"responses"},
		[]string{"id", "workspace_id", "form_id", "edition", "answers", "parameters", "received_at", "filling", "language"},
		rows)
	must(err)
	for more := drawnOnes; more < n; more += drawnOnes { // the same again, from the time before
		_, err = s.Pool().Exec(ctx, `insert into responses (workspace_id, form_id, edition, answers, parameters, received_at, filling, language)
			select workspace_id, form_id, edition, answers, parameters, received_at - $2::interval, gen_random_uuid(), language
			from responses where form_id = $1 order by received_at desc limit $3`, f.ID, time.Duration(more)*25*time.Second, min(drawnOnes, n-more))
		must(err)
	}
	for _, q := range []string{
		"alter table responses enable trigger responses_are_tallied",
		`insert into response_tallies select form_id, (received_at at time zone 'UTC')::date, 0, count(*), count(*)
			from responses group by 1, 2 on conflict do nothing`,
		"vacuum analyze responses",
	} {
		_, err = s.Pool().Exec(ctx, q)
		must(err)
	}
	fmt.Printf("laid out %d responses and %d forms in %.0f s\n\n", n, forms, time.Since(began).Seconds())
	return f
}

var clubs = []string{"North Pier Rowers", "Pedralta Rowing Club", "Las Garzas", "Canal Oars", "Old Mill Crew"}

// drawn are the answers of one crew.
func drawn(r *rand.Rand) map[string]any {
	of := func(list ...string) string { return list[r.IntN(len(list))] }
	var rowers []any
	for range 1 + r.IntN(4) {
		rowers = append(rowers, map[string]any{
			"_row":       fmt.Sprintf("%08x", r.Uint32()),
			"rower_name": of("Ana", "Bruno", "Ciro", "Dora") + " " + of("Ríos", "Quist", "Wirth", "Sosa"),
			"born":       fmt.Sprintf("%d-%02d-%02d", 1970+r.IntN(45), 1+r.IntN(12), 1+r.IntN(28)),
		})
	}
	return map[string]any{
		"boat_class": of("single", "double", "four", "eight"), "lane": of("pier", "canal"), "boat_source": of("own", "hired"),
		"trailer": 4 + r.IntN(12), "club": of(clubs...),
		"entered_by": of("Irma", "Hugo", "Paz", "Otto") + " " + of("Bohl", "Zabala", "Tejera", "Lagos"),
		"email":      fmt.Sprintf("crew%d@lakeside.example", r.IntN(1_000_000)), "rowers": rowers,
		"fee":  400 * (1 + r.IntN(10)),
		"swim": true, "photos": r.IntN(2) == 0, "entered_at": "2026-05-30",
	}
}

// visitor is the member in a browser.
type visitor struct {
	http *http.Client
	site string
}

func (v visitor) get(path string) string {
	res, err := v.http.Get(v.site + path)
	must(err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	must(err)
	if res.StatusCode != http.StatusOK {
		log.Fatalf("scale: %s: %d\n%.500s", path, res.StatusCode, body)
	}
	return string(body)
}

// save asks for what is handed out, and keeps nothing of it.
func (v visitor) save(path string) {
	res, err := v.http.Get(v.site + path)
	must(err)
	defer res.Body.Close()
	_, err = io.Copy(io.Discard, res.Body)
	must(err)
}

var (
	one = regexp.MustCompile(`/responses/[0-9a-f-]{36}`)
)

func measure(ctx context.Context, s *store.Store, f store.Form, n int) {
	server := httptest.NewServer(web.New(s, web.Options{Quiet: true, Trust: true}))
	defer server.Close()
	jar, err := cookiejar.New(nil)
	must(err)
	v := visitor{&http.Client{Jar: jar, Transport: &http.Transport{DisableCompression: true}}, server.URL}
	res, err := v.http.PostForm(v.site+"/sign-in", url.Values{"email": {email}, "password": {password}})
	must(err)
	res.Body.Close()
	base := fmt.Sprintf("/forms/%d/responses", f.ID)
	peak := watchMemory()
	fmt.Println("| what | time | asked |\n|---|---|---|")
	row := func(what, asked string, times int, do func()) time.Duration {
		took := make([]time.Duration, times)
		for i := range took {
			began := time.Now()
			do()
			took[i] = time.Since(began)
		}
		slices.Sort(took)
		median := took[len(took)/2]
		fmt.Printf("| %s | %s | %s |\n", what, shown(median), asked)
		return median
	}
	page := v.get(base)
	middle := base + "?behind=" + url.QueryEscape(middlePlace(ctx, s, f, n))
	row("the page of 1,001 forms", "50 ms", 9, func() { v.get("/forms") })
	row("responses, the first page", "50 ms", 9, func() { v.get(base) })
	row("the middle page", "50 ms", 9, func() { v.get(middle) })
	row("the last page", "50 ms", 9, func() { v.get(base + "?before=end") })
	row("one response", "20 ms", 9, func() { v.get(fmt.Sprintf("/forms/%d%s", f.ID, one.FindString(page))) })
	when := func(src string) string { return "when=" + url.QueryEscape(src) }
	recent := when(`boat_class = "eight" and response.received > now - 30 days`)
	row("a view by a choice and a date, first page", "300 ms", 5, func() { v.get(base + "?" + recent) })
	row("and counted", "300 ms", 5, func() { v.get(base + "/count?" + recent) })
	row("a view by any condition (rowers under 18, not called), first page", "3 s", 3, func() {
		v.get(base + "?" + when("any(rowers, age(born) < 18) and called = no"))
	})
	row("and counted", "3 s", 1, func() { v.get(base + "/count?" + when("any(rowers, age(born) < 18) and called = no")) })
	row("a rare one, found at the end", "3 s", 1, func() { v.get(base + "?" + when("trailer > 99")) })
	row("a word that is nowhere", "–", 1, func() { v.get(base + "?find=zebra") })
	row("the summary of what 30 days brought", "1 s", 3,
		func() { v.get(base + "/summary?" + when("response.received > now - 30 days")) })
	row("the summary of all, counted for the first time", "–", 1, func() {
		for strings.Contains(v.get(base+"/summary"), "are counted so far") {
		}
	})
	row("the summary of all, once each day was counted", "1 s", 9, func() { v.get(base + "/summary") })
	csv := row("CSV of all", "2 × COPY", 1, func() { v.save(base + ".csv") })
	copied := row("COPY of the same columns", "", 1, func() { copyAll(ctx, s, f) })
	fmt.Printf("\nCSV takes %.1f of COPY.\n", csv.Seconds()/copied.Seconds())
	const some = 100_000
	first := when("response.received > now - " + strconv.Itoa(some*25/3600) + " hours")
	csv = row("CSV of about 100,000", "", 1, func() { v.save(base + "/as.csv?" + first) })
	xlsx := row("XLSX of the same", "10 × CSV", 1, func() { v.save(base + "/as.xlsx?" + first) })
	fmt.Printf("\nXLSX takes %.1f of CSV. The application took %d MB at most.\n", xlsx.Seconds()/csv.Seconds(), peak()>>20)
}

func shown(d time.Duration) string {
	if d < time.Second {
		return fmt.Sprintf("%.0f ms", float64(d.Microseconds())/1000)
	}
	return fmt.Sprintf("%.1f s", d.Seconds())
}

// middlePlace is the place in the middle of all responses.
func middlePlace(ctx context.Context, s *store.Store, f store.Form, n int) string {
	var id, at string
	must(s.Pool().QueryRow(ctx, `select id::text, received_at::text from responses where form_id = $1
		order by received_at desc, id desc offset $2 limit 1`, f.ID, n/2).Scan(&id, &at))
	return id + "~" + at
}

// copyAll has PostgreSQL write the same columns by itself.
func copyAll(ctx context.Context, s *store.Store, f store.Form) {
	conn, err := s.Pool().Acquire(ctx)
	must(err)
	defer conn.Release()
	columns := []string{"id", "received_at", "edition"}
	def := demo.CrewEntry(time.Now())
	for p := range def.Places() {
		if !p.Item.Asked() {
			continue
		}
		if p.Section.Repeat == nil {
			columns = append(columns, "answers->>'"+p.Item.Key+"'")
			continue
		}
		for i := range 4 {
			columns = append(columns, fmt.Sprintf("answers->'%s'->%d->>'%s'", p.Section.Key, i, p.Item.Key))
		}
	}
	_, err = conn.Conn().PgConn().CopyTo(ctx, io.Discard,
		fmt.Sprintf("copy (select %s from responses where form_id = %d order by received_at) to stdout csv",
			strings.Join(columns, ", "), f.ID))
	must(err)
}

// watchMemory looks every so often at what the program holds, and gives the most.
func watchMemory() (peak func() uint64) {
	most := make(chan uint64, 1)
	stop := make(chan struct{})
	go func() {
		var top uint64
		for {
			var m runtime.MemStats
			runtime.ReadMemStats(&m)
			top = max(top, m.Sys-m.HeapReleased)
			select {
			case <-stop:
				most <- top
				return
			case <-time.After(50 * time.Millisecond):
			}
		}
	}()
	return func() uint64 { close(stop); return <-most }
}
