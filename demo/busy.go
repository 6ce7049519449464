package demo

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"time"

	"lazo/core/form"
	"lazo/store"
)

// What a busy workspace has besides.
const (
	surveyed  = 300  // questions of the boat survey
	lastYears = 3000 // entries of last year
)

// Busy lays out the sample workspace and, unless they are there, what makes it busy: last year's
// crew entry with its thousands of responses, and a survey of 300 questions. It takes about a
// minute, for its responses go through the engine.
func Busy(ctx context.Context, s *store.Store, start time.Time) error {
	m, err := s.MemberByEmail(ctx, Email)
	if err != nil {
		return err
	}
	if _, err = s.FormByAddress(ctx, "boat-survey"); err == nil || !errors.Is(err, store.ErrNotFound) {
		return err
	}
	loc, err := time.LoadLocation(zone)
	if err != nil {
		return err
	}
	d := layout{ctx: ctx, store: s, workspace: m.WorkspaceID, member: m.ID, start: start.In(loc),
		random: rand.New(rand.NewPCG(1912, 1924))}
	last := CrewEntry(d.start)
	last.Key, last.Title = "crew-entry-last-year", "Crew entry, last year"
	if err := d.add(last, lastYears, d.crew); err != nil {
		return err
	}
	return d.add(BoatSurvey(surveyed), 200, d.survey)
}

// BoatSurvey is a form of n questions in sections of ten, with ties between them: longer than
// anybody should ask, to see what a long form is like.
func BoatSurvey(n int) *form.Form {
	asks := []struct {
		of    form.Type
		label string
	}{
		{form.ChoiceType, "State of the"}, {form.Number, "Age in years of the"}, {form.Text, "Maker of the"},
		{form.YesNo, "Insured:"}, {form.Date, "Last looked at:"},
	}
	parts := []string{"hull", "riggers", "seats", "stretchers", "rudder", "fin", "bow ball", "oars", "trailer", "cover"}
	f := &form.Form{Lazo: 1, Key: "boat-survey", Title: "Boat survey", Timezone: zone,
		Intro: "Every boat of the shed, part by part.", End: "Thank you. The boatman has it."}
	for i := range n {
		if i%50 == 0 {
			f.Pages = append(f.Pages, &form.Page{Key: fmt.Sprintf("boat_%d", i/50+1), Title: fmt.Sprintf("Boat %d", i/50+1)})
		}
		page := f.Pages[len(f.Pages)-1]
		part := parts[i/5%len(parts)]
		if i%10 == 0 {
			page.Sections = append(page.Sections, &form.Section{Key: fmt.Sprintf("part_%d", i/10+1),
				Title: fmt.Sprintf("The %s and the %s", part, parts[(i/5+1)%len(parts)])})
		}
		section := page.Sections[len(page.Sections)-1]
		it := &form.Item{Key: fmt.Sprintf("q%d", i+1), Type: asks[i%5].of, Label: asks[i%5].label + " " + part}
		switch {
		case it.Type == form.ChoiceType:
			it.Choices = choices("good", "Good", "worn", "Worn", "broken", "Broken")
		case i%5 == 2 || i%5 == 4: // the maker is asked of what is worn, the date of what is insured
			it.Shown = form.When(map[int]string{2: fmt.Sprintf(`q%d in ("worn", "broken")`, i-1), 4: fmt.Sprintf("q%d", i)}[i%5])
		}
		section.Items = append(section.Items, it)
	}
	return f
}

// survey fills the boat survey in.
func (d *layout) survey(int) (map[string]any, map[string][]string) {
	a := map[string]any{}
	for i := range surveyed {
		key := fmt.Sprintf("q%d", i+1)
		switch i % 5 {
		case 0:
			a[key] = pick(d.random, []string{"good", "good", "worn", "broken"})
		case 1:
			a[key] = json.Number(fmt.Sprint(d.random.IntN(30)))
		case 2:
			a[key] = pick(d.random, lastNames) + " Boats"
		case 3:
			a[key] = d.random.IntN(2) == 0
		case 4:
			a[key] = d.start.AddDate(0, 0, -d.random.IntN(700)).Format(time.DateOnly)
		}
	}
	return a, nil
}
