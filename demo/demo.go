package demo

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/view"
	"lazo/notify"
	"lazo/store"
)

// The sample sign-ins: an owner, a designer and a reader of one workspace, with one
// password.
const (
	Email       = "office@pedralta.example"
	SecondEmail = "nadia@pedralta.example"
	ReaderEmail = "tomas@pedralta.example"
	Password    = "regatta"
)

// passwordHash is made quickly, since everybody knows what it is of.
const passwordHash = "$2a$04$kZYgvns19yjCD9v.BzV04O..oHS4hphniVLI.RCdOq9ZeABttbgnS"

// SampleHook is the program that the sample hook tells, and SampleSecret by what it knows
// that it is Lazo: a stand-in on this machine.
const (
	SampleHook   = "http://127.0.0.1:8026/crane"
	SampleSecret = "pedralta lake regatta! sample"
)

// Welcome says where to go and how to sign in.
func Welcome(base string) string {
	return fmt.Sprintf(`
  The sample workspace, the Pedralta Lake Regatta:
    desk          %s/forms     sign in as %s with the password %s
                  (and, to see two people in one draft, as %s;
                  who reads the responses of two forms alone is %s)
    crew entry    %s/f/crew-entry?club=North+Pier+Rowers
    shore crew    %s/f/shore-crew
    bulletin      %s/f/lake-bulletin?source=poster     (in Arabic: /f/lake-bulletin?_language=ar)
    mooring       %s/f/mooring-request
    its letters   %s/outbox     and, where they arrive, the postbox; what its hook tells, the receiver

`, base, Email, Password, SecondEmail, ReaderEmail, base, base, base, base, base)
}

// about is what the sample workspace says of itself.
const about = `A made-up regatta, to look around in. Nothing here is real, and everything may be changed.

- **Crew entry** shows ties of every kind: open it, and look at the margin beside *Cox’s name*. Then *Rehearsal*: drag the clock past the day on which entries pay more.
- **Mooring request** draws piers from a list by the shore that was picked, takes photographs, and writes to the harbour master for long boats: *Outbox*.
- **Shore crew** has shifts with a number of places; **Lake bulletin** confirms addresses and is read in three languages.
- **Canal day** is a draft with faults, on purpose: open *Proof*, press “show me”, and mend them.
- *Responses* of Crew entry has views such as “Under 18, to be called”; *In public* says when it is open, in a sentence.`

// Ensure lays out the sample workspace around start, unless it is there.
func Ensure(ctx context.Context, s *store.Store, start time.Time) error {
	return EnsureTelling(ctx, s, start, SampleHook)
}

// EnsureTelling is Ensure with the sample hook at another address.
func EnsureTelling(ctx context.Context, s *store.Store, start time.Time, hook string) error {
	_, err := s.MemberByEmail(ctx, Email)
	if err == nil || !errors.Is(err, store.ErrNotFound) {
		return err
	}
	w, err := s.CreateWorkspace(ctx, "Pedralta Lake Regatta")
	if err != nil {
		return err
	}
	if err := s.InWorkspace(w.ID).SetNote(ctx, about); err != nil {
		return err
	}
	m, err := s.CreateMember(ctx,
		store.Member{WorkspaceID: w.ID, Email: Email, Name: "Regatta office", PasswordHash: passwordHash})
	if err != nil {
		return err
	}
	if _, err := s.CreateMember(ctx, store.Member{WorkspaceID: w.ID, Email: SecondEmail, Name: "Nadia Ferreyra",
		Role: store.Designer, PasswordHash: passwordHash}); err != nil {
		return err
	}
	loc, err := time.LoadLocation(zone)
	if err != nil {
		return err
	}
	start = start.In(loc)
	d := layout{ctx: ctx, store: s, workspace: w.ID, member: m.ID, start: start, random: rand.New(rand.NewPCG(1871, 1908))}
	for _, l := range Lists() {
		if _, err := s.InWorkspace(w.ID).AddList(ctx, l.Key, l.Name, l.Table, m.ID, "begun"); err != nil {
			return err
		}
	}
	if _, err := s.InWorkspace(w.ID).CreateForm(ctx, CanalDay()); err != nil {
		return err
	}
	mooring := MooringRequest(start)
	mooring.Hooks[0].URL = hook
	if err := d.add(mooring, 24, d.mooring); err != nil {
		return err
	}
	if err := d.add(LakeBulletin(), 60, d.bulletin); err != nil {
		return err
	}
	if err := d.add(ShoreCrew(start), 55, d.volunteer); err != nil {
		return err
	}
	if err := d.add(CrewEntry(start), 85, d.crew); err != nil {
		return err
	}
	if err := d.secret("mooring-request", "crane"); err != nil {
		return err
	}
	if err := d.views("crew-entry"); err != nil {
		return err
	}
	return d.people()
}

// people are a reader, who sees the responses of two forms, somebody who was invited, and
// a second workspace of the office and Nadia.
func (d *layout) people() error {
	in := d.store.InWorkspace(d.workspace)
	m, err := d.store.CreateMember(d.ctx, store.Member{WorkspaceID: d.workspace, Email: ReaderEmail, Name: "Tomás Aldecoa",
		Role: store.Reader, PasswordHash: passwordHash})
	if err != nil {
		return err
	}
	var read []store.FormID
	for _, address := range []string{"crew-entry", "shore-crew"} {
		f, err := d.store.FormByAddress(d.ctx, address)
		if err != nil {
			return err
		}
		read = append(read, f.ID)
	}
	if err := in.SetRole(d.ctx, m.ID, store.Reader, false, read); err != nil {
		return err
	}
	if _, err := in.Invite(d.ctx,
		store.Invited{Email: "harbour@pedralta.example", Role: store.Designer, MadeBy: &d.member}); err != nil {
		return err
	}
	w, err := d.store.CreateWorkspace(d.ctx, "Pedralta Boathouse")
	if err != nil {
		return err
	}
	for email, role := range map[string]store.Role{SecondEmail: store.Owner, Email: store.Designer} {
		if _, err := d.store.CreateMember(d.ctx, store.Member{WorkspaceID: w.ID, Email: email, Role: role}); err != nil {
			return err
		}
	}
	return nil
}

func (d *layout) secret(address, hook string) error {
	f, err := d.store.FormByAddress(d.ctx, address)
	if err != nil {
		return err
	}
	_, err = d.store.InWorkspace(d.workspace).Form(f.ID).NewHookSecret(d.ctx, hook, []byte(SampleSecret))
	return err
}

// views keeps two views of the crew entries.
func (d *layout) views(address string) error {
	f, err := d.store.FormByAddress(d.ctx, address)
	if err != nil {
		return err
	}
	for _, v := range []store.SavedView{
		{Name: "Under 18, to be called", Definition: view.View{
			When:    "any(rowers, age(born) < 18) and called = no",
			Columns: []string{"entered_by", "club", "rowers", "called", "memo"},
		}},
		{Name: "Eights by club", Definition: view.View{
			When: `boat_class = "eight"`, Columns: []string{"club", "boat_class", "entered_by", "rowers", "fee", "paid"},
			Sort: "club", Up: true,
		}},
	} {
		if _, err := d.store.InWorkspace(d.workspace).Form(f.ID).SaveView(d.ctx, v); err != nil {
			return err
		}
	}
	return nil
}

type layout struct {
	ctx       context.Context
	store     *store.Store
	workspace store.WorkspaceID
	member    store.MemberID
	start     time.Time
	random    *rand.Rand
}

// add publishes a form and sends it n made-up responses by way of the engine,
// so that only what it accepts is stored.
func (d *layout) add(def *form.Form, n int, draw func(i int) (map[string]any, map[string][]string)) error {
	f, err := d.store.InWorkspace(d.workspace).CreateForm(d.ctx, def)
	if err != nil {
		return err
	}
	e, err := d.store.InWorkspace(d.workspace).Form(f.ID).Publish(d.ctx, f.DraftVersion, d.member)
	if err != nil {
		return err
	}
	p, remarks := engine.Compile(def.WithLists(tables()))
	if p == nil {
		return fmt.Errorf("the sample form %s is wrong: %v", def.Key, remarks)
	}
	links, err := d.links(f, def)
	if err != nil {
		return err
	}
	var steps []store.Step
	for i := range n {
		answers, params := draw(i)
		at := d.start.AddDate(0, 0, -30).
			Add(time.Duration(i) * 30 * 24 * time.Hour / time.Duration(n)).
			Add(time.Duration(d.random.IntN(300)) * time.Minute)
		taken, err := d.store.InWorkspace(d.workspace).Form(f.ID).Taken(d.ctx)
		if err != nil {
			return err
		}
		filling := fmt.Sprintf("%08x-0000-4000-8000-%012x", f.ID, i)
		if err := d.uploads(f.ID, filling, answers); err != nil {
			return err
		}
		out := p.Run(engine.Input{Answers: p.Answers(answers), Params: params, At: at, Taken: taken})
		if !out.Accepted {
			return fmt.Errorf("a sample response to %s is not accepted: %v", def.Key, answers)
		}
		route := out.Route()
		steps = append(steps, d.steps(f.ID, route, len(route), at)...)
		if d.random.IntN(4) == 0 { // and somebody who left it
			steps = append(steps, d.steps(f.ID, route, d.random.IntN(len(route)), at)...)
		}
		stored, err := out.ToStore()
		if err != nil {
			return err
		}
		r := store.Response{
			WorkspaceID: d.workspace, FormID: f.ID, Edition: e.Number, Parameters: params, ReceivedAt: at, Filling: filling,
			Answers: stored.Answers, Labels: stored.Labels, Takes: stored.Takes, Uploads: stored.Files,
		}
		if l := links[strings.Join(params["club"], "")]; l != nil {
			r.LinkID = &l.ID
		}
		going, err := p.GoesOut(nil, engine.Submitted{Answers: stored.Answers, Parameters: params, Received: at}, at,
			engine.New)
		if err != nil {
			return err
		}
		r.Goes = d.sent(notify.Letters(e.Number, r, going, at))
		if _, err := d.store.AddResponse(d.ctx, r); err != nil {
			return err
		}
	}
	return d.store.AdvanceAll(d.ctx, steps)
}

// uploads stores the pictures among answers, and puts what is told of files in their place.
func (d *layout) uploads(f store.FormID, filling string, answers map[string]any) error {
	for key, v := range answers {
		data, picture := v.([]byte)
		if !picture {
			continue
		}
		u, err := d.store.AddUpload(d.ctx,
			store.Upload{FormID: f, Filling: filling, Item: key, Name: "hull.png", MediaType: "image/png"},
			bytes.NewReader(data), 1<<20)
		if err != nil {
			return err
		}
		answers[key] = map[string]any{"id": u.ID, "name": u.Name, "type": u.MediaType, "size": fmt.Sprint(u.Size)}
	}
	return nil
}

// hull is a picture of a boat on the water, drawn with a few lines.
func hull() []byte {
	const wide, high, water = 480, 240, 150
	img := image.NewRGBA(image.Rect(0, 0, wide, high))
	for y := range high {
		for x := range wide {
			c := color.RGBA{226, 235, 240, 255}
			slope := (y - 90) * 2 / 3
			switch {
			case y >= 90 && y < water+20 && x > 60+slope && x < 420-slope:
				c = color.RGBA{178, 58, 44, 255}
			case y >= water:
				c = color.RGBA{72, 118, 140, 255}
			case y > 50 && y < 90 && x > 200 && x < 320:
				c = color.RGBA{250, 248, 240, 255}
			}
			img.Set(x, y, c)
		}
	}
	var out bytes.Buffer
	_ = png.Encode(&out, img) // a buffer takes all
	return out.Bytes()
}

// sent are letters of which those that were due have gone.
func (d *layout) sent(letters []store.Letter) []store.Letter {
	for i, l := range letters {
		if gone := l.DueAt.Add(time.Second); l.State == store.Waiting && gone.Before(d.start) {
			letters[i].State, letters[i].EndedAt = store.Sent, &gone
		}
	}
	return letters
}

// steps are how a filling went: it was left at a page of its route, or sent behind the last.
func (d *layout) steps(f store.FormID, route []string, last int, at time.Time) (out []store.Step) {
	from := ""
	for _, page := range route[:min(last+1, len(route))] {
		out = append(out, store.Step{Form: f, From: from, To: page, Day: at.UTC()})
		from = page
	}
	if last == len(route) {
		out = append(out, store.Step{Form: f, From: from, Day: at.UTC()})
	}
	return out
}

// links makes a link for each club of a form that clubs are a parameter of, and has
// it followed a few times.
func (d *layout) links(f store.Form, def *form.Form) (map[string]*store.Link, error) {
	out := map[string]*store.Link{}
	if len(def.Parameters) == 0 || def.Parameters[0].Name != "club" {
		return out, nil
	}
	for _, club := range clubs[:4] {
		l, err := d.store.InWorkspace(d.workspace).Form(f.ID).AddLink(
			d.ctx, store.Link{Name: "Letter to " + club, Parameters: map[string][]string{"club": {club}}},
		)
		if err != nil {
			return nil, err
		}
		out[club] = &l
		for range 20 + d.random.IntN(30) {
			if _, err := d.store.VisitLink(d.ctx, l.Code); err != nil {
				return nil, err
			}
		}
	}
	return out, nil
}

var (
	firstNames = []string{
		"Amara", "Bruno", "Celia", "Dario", "Elin", "Fausto", "Greta", "Hugo", "Irma", "Joao", "Katia", "Lorenz", "Malik",
		"Nuria", "Otto", "Paz", "Quim", "Rosa", "Silvio", "Tilda", "Ugo", "Vera", "Wanda", "Xenia", "Yago", "Zoe",
	}
	lastNames = []string{
		"Arrieta", "Bohl", "Cardozo", "Duarte", "Etcheverry", "Falk", "Gamarra", "Holm", "Ibarra", "Jansen", "Kessler",
		"Lagos", "Marten", "Novak", "Olmos", "Piriz", "Quist", "Rivero", "Sosa", "Tejera", "Ulloa", "Varela", "Wirth",
		"Zabala",
	}
	clubs = []string{"North Pier Rowers", "Pedralta Rowing Club", "Canal Oars", "Las Garzas", "Old Mill Crew"}
)

func pick[T any](r *rand.Rand, from []T) T { return from[r.IntN(len(from))] }

func (d *layout) name() string { return pick(d.random, firstNames) + " " + pick(d.random, lastNames) }

func (d *layout) mail(i int) string {
	return fmt.Sprintf("rower%d@%s.example", i, pick(d.random, []string{"garzas", "canal-oars", "lakeside"}))
}

// born draws a date of birth for an age in years on the day of the start.
func (d *layout) born(from, to int) string {
	return d.start.AddDate(-from-d.random.IntN(to-from), -d.random.IntN(11)-1, -d.random.IntN(27)).Format(time.DateOnly)
}

func (d *layout) phone() string { return fmt.Sprintf("+59894%06d", d.random.IntN(1_000_000)) }

func (d *layout) bulletin(i int) (map[string]any, map[string][]string) {
	a := map[string]any{"email": d.mail(i), "first_name": pick(d.random, firstNames)}
	topics := []any{}
	for _, t := range []string{"results", "training", "conditions"} {
		if d.random.IntN(2) == 0 {
			topics = append(topics, t)
		}
	}
	a["topics"], a["training_level"] = topics, pick(d.random, []string{"new", "some", "long"})
	params := map[string][]string{}
	if s := pick(d.random, []string{"poster", "club", "", "friend"}); s != "" {
		params["source"] = []string{s}
	}
	return a, params
}

func (d *layout) volunteer(i int) (map[string]any, map[string][]string) {
	a := map[string]any{
		"name": d.name(), "phone": d.phone(), "email": d.mail(i), "born_on": d.born(14, 70), "parent": d.name(),
		"boat_licence": fmt.Sprintf("PL-%04d", d.random.IntN(10000)),
		"aid_date":     d.start.AddDate(-d.random.IntN(2), -d.random.IntN(9), 0).Format(time.DateOnly),
		"tent":         d.random.IntN(2) == 0,
	}
	roles := []string{"timing", "kitchen", "parking", "first_aid"}
	d.random.Shuffle(len(roles), func(i, j int) { roles[i], roles[j] = roles[j], roles[i] })
	picked := []any{}
	for _, r := range roles[:1+d.random.IntN(2)] {
		picked = append(picked, r)
	}
	if d.random.IntN(4) == 0 {
		picked = append(picked, "launch")
	}
	a["roles"] = picked
	free := []any{"sat"}
	if d.random.IntN(2) == 0 {
		free = append(free, "sun")
	}
	if d.random.IntN(3) == 0 {
		free = append(free, "fri")
	}
	a["free_days"] = free
	if i < 44 { // one place is left on Saturday morning, and one in the afternoon
		a["shift"] = []string{"sat_am", "sat_pm", "", ""}[i%4]
	}
	if slices.Contains(picked, any("timing")) {
		a["radio"] = json.Number(fmt.Sprint(1 + d.random.IntN(5)))
	}
	a["meals"] = map[string]any{"saturday": pick(d.random, []string{"any", "any", "veg", "own"})}
	if d.random.IntN(3) == 0 {
		a["notes"] = pick(
			d.random,
			[]string{
				"I can bring a gas cooker.", "Only mornings, please.", "I come with my dog; she is quiet.",
				"Last year I did the timing at the 500 metre mark.",
			},
		)
	}
	return a, nil
}

func (d *layout) crew(i int) (map[string]any, map[string][]string) {
	class := pick(d.random, []string{"single", "double", "coxed_four", "eight"})
	a := map[string]any{
		"boat_class":  class,
		"lane":        "pier",
		"boat_source": pick(d.random, []string{"own", "own", "hired"}),
		"cox_name":    d.name(),
		"trailer": json.Number(
			fmt.Sprint(6 + d.random.IntN(9)),
		),
		"escort":          "The club’s bus, " + d.phone(),
		"entered_by":      d.name(),
		"email":           d.mail(i),
		"swim":            true,
		"guardians_agree": true,
		"photos":          d.random.IntN(3) > 0,
	}
	params := map[string][]string{}
	club := pick(d.random, clubs)
	if d.random.IntN(3) == 0 {
		params["club"] = []string{club}
		a["member_no"] = fmt.Sprintf("%c%c%03d", 'A'+rune(d.random.IntN(26)), 'A'+rune(d.random.IntN(26)),
			d.random.IntN(1000))
	} else {
		a["club"] = club
	}
	rows := []any{}
	for range 8 {
		rows = append(rows, map[string]any{"rower_name": d.name(), "born": d.born(14, 45), "guardian": d.name(),
			"guardian_phone": d.phone()})
	}
	a["rowers"] = rows
	return a, params
}

func (d *layout) mooring(i int) (map[string]any, map[string][]string) {
	berth := []struct{ shore, pier, berth string }{
		{"n", "heron", "h3"}, {"n", "long", "l1"}, {"n", "long", "l3"}, {"s", "swan", "s2"}, {"e", "mill", ""},
		{"s", "reed", ""},
	}[i%6]
	first := d.start.AddDate(0, 0, 30+d.random.IntN(15))
	metres := 3 + d.random.IntN(3)
	long := i%12 == 2
	if long { // one that the harbour master hears of
		metres += 10
	}
	answers := map[string]any{
		"boat_name": pick(d.random, []string{"Albatros", "Brisa", "Calandria", "Delfina", "Estrella", "Fragata"}),
		"kind":      pick(d.random, []string{"rowing", "sailing", "motor"}), "metres": json.Number(fmt.Sprint(metres)),
		"draught": "0.7", "first_day": first.Format(time.DateOnly),
		"last_day": first.AddDate(0, 0, d.random.IntN(6)).Format(time.DateOnly),
		"shore":    berth.shore, "pier": berth.pier, "berth": berth.berth, "entered_by": d.name(), "email": d.mail(i),
		"phone":    d.phone(),
		"handling": json.Number(fmt.Sprint(1 + d.random.IntN(5))),
	}
	if long {
		answers["hull_photo"] = hull()
	}
	return answers, nil
}
